/** Choosing a key of a plan by its name. */
import { useState } from 'react';
import { Choice } from '../../../platform/forms/controls.tsx';
import { Field } from '../../../platform/forms/Field.tsx';

/** A key of the plan, the factory’s, or a new name. */
export function KeyChoice({
  label,
  value,
  names,
  none = 'the factory’s, which everybody knows',
  onChange,
}: {
  label: string;
  value: string | null;
  names: readonly string[];
  /** What it means to choose none. */
  none?: string;
  onChange: (value: string | null) => void;
}) {
  const [typing, setTyping] = useState(false);
  if (typing)
    return (
      <NewName
        label={label}
        onDone={(name) => {
          setTyping(false);
          if (name) onChange(name);
        }}
      />
    );
  const options = [
    ['', none],
    ...names.map((name) => [name, name] as const),
    ...(value !== null && !names.includes(value) ? [[value, value] as const] : []),
    [' new', 'another key …'],
  ] as const;
  return (
    <Choice
      label={label}
      value={value ?? ''}
      options={options}
      onChange={(chosen) => (chosen === ' new' ? setTyping(true) : onChange(chosen === '' ? null : chosen))}
    />
  );
}

function NewName({ label, onDone }: { label: string; onDone: (name: string) => void }) {
  const [name, setName] = useState('');
  return (
    <Field label={label} hint="as it is called in the key store">
      {(props) => (
        <input
          {...props}
          // biome-ignore lint/a11y/noAutofocus: it stands where "another key" was just chosen.
          autoFocus
          className="input w-full"
          value={name}
          maxLength={120}
          onChange={(event) => setName(event.target.value)}
          onBlur={() => onDone(name.trim())}
          onKeyDown={(event) => event.key === 'Enter' && onDone(name.trim())}
        />
      )}
    </Field>
  );
}
