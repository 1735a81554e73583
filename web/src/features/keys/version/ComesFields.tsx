/** Where a version comes from: made here, typed, or put together by custodians; its number and its days. */
import type { KeyKind } from '@rawbits/core/key';
import { KEY_BYTES } from '@rawbits/core/key';
import type { FieldErrors, UseFormReturn } from 'react-hook-form';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { zoneHint } from '../../../platform/words/siteDays.ts';
import type { ComesTyped } from './comes.ts';

const WAYS = [
  ['made', 'Made here', 'from the server’s random source; nobody sees it'],
  ['typed', 'Typed', 'as a supplier or another system gave it'],
  ['components', 'From components', 'by several custodians, none of whom sees the whole'],
] as const;

interface Props {
  form: Pick<UseFormReturn<ComesTyped>, 'register' | 'watch'>;
  kind: KeyKind;
  /** Of the body, where it has been tried. */
  errors: FieldErrors;
}

export function ComesFields({ form, kind, errors }: Props) {
  const { register, watch } = form;
  const { zone } = useSite();
  const how = watch('how');
  const messageOf = (field: string) => (errors[field] as { message?: string } | undefined)?.message;
  return (
    <>
      <fieldset>
        <legend className="field-label">It comes</legend>
        <div className="grid gap-1">
          {WAYS.map(([value, word, about]) => (
            <label key={value} className="flex items-baseline gap-2">
              <input type="radio" value={value} className="radio radio-xs" {...register('how')} />
              <span>
                <strong>{word}</strong>, {about}
              </span>
            </label>
          ))}
        </div>
      </fieldset>
      {how === 'typed' && (
        <div className="grid gap-2">
          <Field
            label={`The key, ${KEY_BYTES[kind]} bytes in hex`}
            hint="Whoever types a key knows it: that is noted under Who holds what."
            error={messageOf('comes')}
          >
            {(props) => (
              <input
                {...props}
                {...register('hex')}
                className="input w-full font-mono"
                autoComplete="off"
                spellCheck={false}
              />
            )}
          </Field>
          <label className="flex items-center gap-2">
            <input type="checkbox" className="checkbox checkbox-xs" {...register('evenWeak')} />
            keep it even if it is weak, such as the factory’s, or has not the parity of a DES key
          </label>
        </div>
      )}
      {how === 'components' && (
        <Field label="Custodians, each with a component" error={messageOf('comes')}>
          {(props) => (
            <select {...props} {...register('parts')} className="select w-24">
              {[2, 3, 4, 5].map((n) => (
                <option key={n}>{n}</option>
              ))}
            </select>
          )}
        </Field>
      )}
      {how !== 'made' && (
        <Field label="Its check value, if you have it" hint="Six hex digits; another key is then refused">
          {(props) => (
            <input
              {...props}
              {...register('check')}
              className="input w-32 font-mono"
              maxLength={6}
              autoComplete="off"
            />
          )}
        </Field>
      )}
      <div className="flex flex-wrap gap-3">
        <Field label="Version, 0 to 255" error={messageOf('version')}>
          {(props) => (
            <input {...props} {...register('version')} className="input w-20 font-mono" inputMode="numeric" />
          )}
        </Field>
        <Field label="Good from" hint={zoneHint(zone)} error={messageOf('validFrom')}>
          {(props) => <input {...props} {...register('validFrom')} type="date" className="input w-40" />}
        </Field>
        <Field label="Good through" error={messageOf('validTo')}>
          {(props) => <input {...props} {...register('validTo')} type="date" className="input w-40" />}
        </Field>
      </div>
    </>
  );
}
