import type { UseFormRegisterReturn } from 'react-hook-form';
import { Field } from '../../../platform/forms/Field.tsx';

interface Props {
  label: string;
  hint?: string;
  error?: string;
  /** Whether it is a new one, or one that is there already. */
  fresh?: boolean;
  className?: string;
  children: UseFormRegisterReturn;
}

/** A field whose text nobody reads over a shoulder. */
export function PassphraseField({ label, hint, error, fresh, className, children }: Props) {
  return (
    <Field label={label} hint={hint} error={error} className={className}>
      {(props) => (
        <input
          {...props}
          {...children}
          type="password"
          autoComplete={fresh ? 'new-password' : 'off'}
          className="input w-full font-mono"
        />
      )}
    </Field>
  );
}
