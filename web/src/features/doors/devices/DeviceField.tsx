/** The device of a controller or a reader: one that a host of the site offers and nobody has, or any other by its name. */
import { type InputHTMLAttributes, useId } from 'react';
import { useOfferedDevicesQuery } from '../../../platform/endpoints/doors.ts';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { counted } from '../../../platform/words/words.ts';

interface Props extends InputHTMLAttributes<HTMLInputElement> {
  of: 'controllers' | 'readers';
  error: string | undefined;
}

export function DeviceField({ of, error, ...input }: Props) {
  const { id: site } = useSite();
  const { data } = useOfferedDevicesQuery(site);
  const list = useId();
  const free = data?.[of] ?? [];
  return (
    <Field label="Device" hint={hintOf(data?.answers, free.length)} error={error}>
      {(props) => (
        <>
          <input {...props} {...input} list={list} className="input w-56 font-mono" autoComplete="off" />
          <datalist id={list}>
            {free.map((device) => (
              <option key={device} value={device} />
            ))}
          </datalist>
        </>
      )}
    </Field>
  );
}

function hintOf(answers: boolean | undefined, free: number): string {
  if (answers === undefined) return 'Loading what device hosts offer …';
  if (!answers) return 'No device host answers: type the name that it uses';
  if (free === 0) return 'All devices that hosts offer are in use: type another name';
  return `${counted(free, 'device')} offered and not in use: choose one, or type a name`;
}
