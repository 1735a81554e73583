import { useId } from 'react';
import type { UseFormRegisterReturn } from 'react-hook-form';
import { Field } from './Field.tsx';

const ZONES = Intl.supportedValuesOf('timeZone');

interface Props {
  error?: string;
  className?: string;
  children: UseFormRegisterReturn;
}

/** The time zone of a site, from the IANA database. */
export function ZoneField({ error, className, children: registered }: Props) {
  const list = useId();
  return (
    <Field
      label="Time zone"
      hint="Where the site’s days begin and end: a card valid through 30 June opens until that day is over there"
      error={error}
      className={className}
    >
      {(props) => (
        <>
          <input {...props} {...registered} list={list} className="input w-full" placeholder="Europe/Oslo" />
          <datalist id={list}>
            {ZONES.map((zone) => (
              <option key={zone} value={zone} />
            ))}
          </datalist>
        </>
      )}
    </Field>
  );
}
