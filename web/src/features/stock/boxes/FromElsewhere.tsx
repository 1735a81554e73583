/** A box whose cards are known otherwise than by a format: by a settled case, or by a translation that has a layout. */
import { parseLayoutLine, printLayoutLine } from '@rawbits/core/format';
import { layoutOfTranslation } from '@rawbits/core/translate';
import { useEffect, useState } from 'react';
import { useCasesQuery } from '../../../platform/endpoints/cases.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { useFormatOf } from '../useFormatOf.ts';
import type { Entering } from './entering.ts';

export function FromElsewhere({ entering: { form, usable, translations, values } }: { entering: Entering }) {
  const { id: site } = useSite();
  const { data: cases = [] } = useCasesQuery(site);
  const { takeUp, mayTakeUp, busy, error } = useFormatOf();
  const [coming, setComing] = useState<string>();
  const settled = cases.filter((one) => one.formatId && usable.some(({ format }) => format.id === one.formatId));
  const laidOut = mayTakeUp
    ? translations.flatMap(({ id, name, translation }) => {
        const layout = layoutOfTranslation(translation);
        return layout ? [{ id, name, layout }] : [];
      })
    : [];
  // It can be chosen once it is among those that are in use.
  const isHere = coming !== undefined && usable.some(({ format }) => format.id === coming);
  const { setValue } = form;
  useEffect(() => {
    if (!isHere) return;
    setValue('formatId', coming!, { shouldDirty: true });
    setComing(undefined);
  }, [isHere, coming, setValue]);
  if (settled.length === 0 && laidOut.length === 0) return null;
  const set = (name: 'formatId' | 'first' | 'last', value: string) => form.setValue(name, value, { shouldDirty: true });
  const choose = async (choice: string) => {
    const [kind, id] = choice.split(' ');
    const one = settled.find((c) => kind === 'case' && c.id === id);
    if (one) {
      set('formatId', one.formatId!);
      // The box that the case is about is the one at hand, where no other was typed.
      if (one.settledFor && values.first === '' && values.last === '') {
        set('first', one.settledFor.from);
        set('last', one.settledFor.to);
      }
    }
    const by = laidOut.find((t) => kind === 'translation' && t.id === id);
    if (!by) return;
    setComing(await takeUp(by.layout, `as ${by.name}`));
  };
  return (
    <>
      <Field
        label="or known by"
        className="col-span-6"
        hint={laidOut.length > 0 ? 'of a translation the format is made that shows the same number' : undefined}
      >
        {(props) => (
          <select
            {...props}
            value=""
            disabled={busy}
            onChange={({ target: { value } }) => void choose(value)}
            className="select w-full"
          >
            <option value="">a case or a translation …</option>
            {settled.map(({ id, name, settledFor }) => (
              <option key={id} value={`case ${id}`}>
                the case {name}
                {settledFor && `, ${settledFor.from} – ${settledFor.to}`}
              </option>
            ))}
            {laidOut.map(({ id, name, layout }) => (
              <option key={id} value={`translation ${id}`}>
                the translation {name}: {printLayoutLine(parseLayoutLine(layout))}
              </option>
            ))}
          </select>
        )}
      </Field>
      <FailureNote failure={error} />
    </>
  );
}
