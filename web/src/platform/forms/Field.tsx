import { type ReactNode, useId } from 'react';

interface FieldProps {
  label: string;
  hint?: string;
  error?: string;
  className?: string;
  children: (props: { id: string; 'aria-describedby'?: string; 'aria-invalid'?: boolean }) => ReactNode;
}

/** A labelled field with its hint and its error. */
export function Field({ label, hint, error, className, children }: FieldProps) {
  const id = useId();
  const note = hint || error ? `${id}-note` : undefined;
  return (
    <div className={className}>
      <label htmlFor={id} className="field-label">
        {label}
      </label>
      {children({ id, 'aria-describedby': note, 'aria-invalid': error ? true : undefined })}
      {(error || hint) && (
        <p id={note} className={`mt-0.5 text-[0.9rem] ${error ? 'font-bold text-signal' : 'text-ink-2'}`}>
          {error ?? hint}
        </p>
      )}
    </div>
  );
}
