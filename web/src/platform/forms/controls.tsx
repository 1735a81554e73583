/** Small controls of forms that are no form library’s: each tells its value as soon as it is one. */
import { useId, useState } from 'react';
import { Field } from './Field.tsx';

export function Check({
  label,
  checked,
  onChange,
}: {
  label: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
}) {
  return (
    <label className="flex items-center gap-2">
      <input
        type="checkbox"
        className="checkbox checkbox-sm"
        checked={checked}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  );
}

interface TextProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  hint?: string;
  mono?: boolean;
  className?: string;
  placeholder?: string;
  list?: readonly string[];
}

export function Text({ label, value, onChange, hint, mono, className, placeholder, list }: TextProps) {
  const listId = useId();
  return (
    <Field label={label} hint={hint} className={className}>
      {(props) => (
        <>
          <input
            {...props}
            className={`input w-full ${mono ? 'font-mono' : ''}`}
            value={value}
            placeholder={placeholder}
            list={list && listId}
            onChange={(event) => onChange(event.target.value)}
          />
          {list && (
            <datalist id={listId}>
              {list.map((one) => (
                <option key={one} value={one} />
              ))}
            </datalist>
          )}
        </>
      )}
    </Field>
  );
}

/** A text that has to be of a shape: what is typed stays, and is taken over only once it is right. */
interface ShapedProps extends TextProps {
  shape: RegExp;
  complaint: string;
  /** In a table whose head says what it is: its name for those who do not see that. */
  called?: string;
}

export function Shaped({ shape, complaint, onChange, called, ...props }: ShapedProps) {
  const [typed, setTyped] = useState<string>();
  const isRight = typed === undefined || shape.test(typed);
  return (
    <Field label={props.label} hint={props.hint} error={isRight ? undefined : complaint} className={props.className}>
      {(own) => (
        <input
          {...own}
          aria-label={called}
          className={`input w-full ${props.mono ? 'font-mono' : ''}`}
          value={typed ?? props.value}
          placeholder={props.placeholder}
          onChange={(event) => {
            const text = event.target.value.toUpperCase();
            setTyped(text);
            if (shape.test(text)) onChange(text);
          }}
          onBlur={() => shape.test(typed ?? '') && setTyped(undefined)}
        />
      )}
    </Field>
  );
}

interface WholeProps {
  label: string;
  value: number;
  min: number;
  max: number;
  onChange: (value: number) => void;
  className?: string;
}

/** A whole number within limits: what is typed stays, and is taken over only once it is one. */
export function Whole({ label, value, min, max, onChange, className }: WholeProps) {
  const [typed, setTyped] = useState<string>();
  const of = (text: string) => (/^-?\d{1,10}$/.test(text) ? Number(text) : undefined);
  const isRight = typed === undefined || ((of(typed) ?? min - 1) >= min && (of(typed) ?? max + 1) <= max);
  return (
    <Field label={label} error={isRight ? undefined : `from ${min} to ${max}`} className={className}>
      {(own) => (
        <input
          {...own}
          inputMode="numeric"
          className="input w-full"
          value={typed ?? String(value)}
          onChange={(event) => {
            const text = event.target.value.trim();
            setTyped(text);
            const number = of(text);
            if (number !== undefined && number >= min && number <= max) onChange(number);
          }}
          onBlur={() => isRight && setTyped(undefined)}
        />
      )}
    </Field>
  );
}

interface ChoiceProps<T extends string | number> {
  label: string;
  value: T;
  options: readonly (readonly [value: T, words: string])[];
  onChange: (value: T) => void;
  className?: string;
  hint?: string;
}

export function Choice<T extends string | number>({
  label,
  value,
  options,
  onChange,
  className,
  hint,
}: ChoiceProps<T>) {
  return (
    <Field label={label} className={className} hint={hint}>
      {(props) => (
        <select
          {...props}
          className="select w-full"
          value={String(value)}
          onChange={(event) => onChange(options.find(([one]) => String(one) === event.target.value)![0])}
        >
          {options.map(([one, words]) => (
            <option key={one} value={String(one)}>
              {words}
            </option>
          ))}
        </select>
      )}
    </Field>
  );
}
