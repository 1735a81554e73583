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

/** Which of some names are chosen, a check mark each. */
export function Checks({
  names,
  chosen,
  onChange,
}: {
  names: readonly string[];
  chosen: readonly string[];
  onChange: (chosen: string[]) => void;
}) {
  return names.map((name) => (
    <Check
      key={name}
      label={name}
      checked={chosen.includes(name)}
      onChange={(on) => onChange(on ? [...chosen, name] : chosen.filter((one) => one !== name))}
    />
  ));
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
          <Offered id={listId} list={list} />
        </>
      )}
    </Field>
  );
}

const Offered = ({ id, list }: { id: string; list: readonly string[] | undefined }) =>
  list && (
    <datalist id={id}>
      {list.map((one) => (
        <option key={one} value={one} />
      ))}
    </datalist>
  );

/** What is typed stays as it is typed, and is taken over as soon as it can be read; left while it cannot, it stays, too. */
function useTyped<T>(shown: string, read: (text: string) => T | undefined, take: (value: T) => void) {
  const [typed, setTyped] = useState<string>();
  const isRight = typed === undefined || read(typed) !== undefined;
  return {
    text: typed ?? shown,
    isRight,
    type: (text: string) => {
      setTyped(text);
      const value = read(text);
      if (value !== undefined) take(value);
    },
    leave: () => {
      if (isRight) setTyped(undefined);
    },
  };
}

interface NamedProps extends TextProps {
  /** Characters that it may have. */
  most: number;
  /** Names that others have. */
  taken?: readonly string[];
  /** Whether it may have none. */
  isOptional?: boolean;
}

/** A name, without spaces around it. Cleared where it must not be, the one before stays until another is typed. */
export function Named({ most, taken = [], isOptional = false, value, onChange, ...props }: NamedProps) {
  const listId = useId();
  const complaintOf = (text: string) =>
    text.trim() === '' && !isOptional
      ? 'it has to be called something'
      : text.trim().length > most
        ? `up to ${most} characters, these are ${text.trim().length}`
        : text.trim() !== value && taken.includes(text.trim())
          ? 'another is called so'
          : undefined;
  const { text, isRight, type, leave } = useTyped(
    value,
    (text) => (complaintOf(text) === undefined ? text.trim() : undefined),
    onChange,
  );
  return (
    <Field
      label={props.label}
      hint={props.hint}
      error={isRight ? undefined : complaintOf(text)}
      className={props.className}
    >
      {(own) => (
        <>
          <input
            {...own}
            className="input w-full"
            value={text}
            placeholder={props.placeholder}
            list={props.list && listId}
            onChange={(event) => type(event.target.value)}
            onBlur={leave}
          />
          <Offered id={listId} list={props.list} />
        </>
      )}
    </Field>
  );
}

/** A text in capitals that has to be of a shape. */
interface ShapedProps extends TextProps {
  shape: RegExp;
  complaint: string;
  /** What others have: it can not be one of these. */
  taken?: readonly string[];
  /** In a table whose head says what it is: its name for those who do not see that. */
  called?: string;
}

export function Shaped({ shape, complaint, taken = [], onChange, called, ...props }: ShapedProps) {
  const isTaken = (text: string) => text !== props.value && taken.includes(text);
  const { text, isRight, type, leave } = useTyped(
    props.value,
    (text) => (shape.test(text) && !isTaken(text) ? text : undefined),
    onChange,
  );
  return (
    <Field
      label={props.label}
      hint={props.hint}
      error={isRight ? undefined : isTaken(text) ? 'another has it' : complaint}
      className={props.className}
    >
      {(own) => (
        <input
          {...own}
          aria-label={called}
          className={`input w-full ${props.mono ? 'font-mono' : ''}`}
          value={text}
          placeholder={props.placeholder}
          onChange={(event) => type(event.target.value.toUpperCase())}
          onBlur={leave}
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
  /** Numbers that others have. */
  taken?: readonly number[];
  onChange: (value: number) => void;
  className?: string;
}

const wholeOf = (text: string): number | undefined => (/^\s*-?\d{1,10}\s*$/.test(text) ? Number(text) : undefined);

/** A whole number within limits. */
export function Whole({ label, value, min, max, taken = [], onChange, className }: WholeProps) {
  const isTaken = (number: number | undefined) => number !== undefined && number !== value && taken.includes(number);
  const { text, isRight, type, leave } = useTyped(
    String(value),
    (text) => {
      const number = wholeOf(text);
      return number !== undefined && number >= min && number <= max && !isTaken(number) ? number : undefined;
    },
    onChange,
  );
  const complaint = isTaken(wholeOf(text)) ? 'another has it' : `from ${min} to ${max}`;
  return (
    <Field label={label} error={isRight ? undefined : complaint} className={className}>
      {(own) => (
        <input
          {...own}
          inputMode="numeric"
          className="input w-full"
          value={text}
          onChange={(event) => type(event.target.value)}
          onBlur={leave}
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
