/** The holidays of a site: once, or every year on the same day of the same month. */
import type { Access } from '@rawbits/api';
import { dayName } from '@rawbits/core/access/rights';
import { dayOf, holidaySchema, weekdayOf } from '@rawbits/core/access/schedule';
import { useFieldArray, useWatch } from 'react-hook-form';
import { z } from 'zod';
import { ChangeReview } from '../../../parts/access/ChangeReview.tsx';
import { useAccessChange } from '../../../parts/access/useAccessChange.ts';
import { DraftNote, Theirs } from '../../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useUndoes } from '../../../platform/drafts/useUndoes.ts';
import { checkedAs } from '../../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';

interface Typed {
  holidays: { name: string; date: string; yearly: boolean }[];
}
const bodySchema = z.strictObject({ holidays: z.array(holidaySchema) });

export function Holidays({ access }: { access: Access }) {
  const { id, may } = useSite();
  const sorted = [...access.calendar.holidays].sort((a, b) => (a.date < b.date ? -1 : 1));
  const [form, draft] = useKeptForm('holidays', id, {
    resolver: checkedAs(bodySchema, (typed: Typed) => typed, { deep: true }),
    defaultValues: { holidays: sorted } as Typed,
  });
  const { forget } = draft;
  const changing = useAccessChange(forget, draft.undoes.length > 0);
  const words = (_field: 'holidays', value: unknown): [string, string] => [
    'Holidays',
    (value as Typed['holidays'])
      .map(({ name, date, yearly }) => `${name} ${date}${yearly ? ', every year' : ''}`)
      .join('; '),
  ];
  const undoes = useUndoes(draft, words, 'holidays');
  const { fields, append, remove } = useFieldArray({ control: form.control, name: 'holidays' });
  const typed = useWatch({ control: form.control, name: 'holidays' });
  const submit = form.handleSubmit(({ holidays }) =>
    changing.propose({ kind: 'holidays', holidays, revision: access.calendar.revision }),
  );
  const mayChange = may('set up doors');
  return (
    <section className="panel flex shrink-0 flex-col gap-3 p-4" aria-label="Holidays">
      <h2 className="text-[1.15rem]">Holidays</h2>
      <p className="text-ink-2">
        Days on which a schedule may hold otherwise. A holiday that comes every year does so from its date on.
      </p>
      <form onSubmit={submit} className="flex flex-col gap-2" noValidate>
        <DraftNote draft={draft} />
        <Theirs draft={draft} words={words} subject="holidays" />
        <fieldset disabled={!mayChange} className="flex flex-col gap-2">
          {fields.map((field, i) => {
            const wrong = form.formState.errors.holidays?.[i];
            return (
              <div key={field.id} className="flex flex-wrap items-center gap-3">
                <input
                  {...form.register(`holidays.${i}.name`)}
                  aria-label={`Name of holiday ${i + 1}`}
                  placeholder="name"
                  className="input w-80"
                  maxLength={120}
                />
                <input
                  type="date"
                  {...form.register(`holidays.${i}.date`)}
                  aria-label={`Day of holiday ${i + 1}`}
                  className="input w-40 font-mono"
                />
                <span className="w-24 text-ink-2">{typed?.[i]?.yearly ? '' : weekdayWords(typed?.[i]?.date)}</span>
                <label className="flex items-center gap-1">
                  <input type="checkbox" className="checkbox checkbox-xs" {...form.register(`holidays.${i}.yearly`)} />
                  every year
                </label>
                <button type="button" className="switch-link underline" onClick={() => remove(i)}>
                  take out<span className="sr-only"> {typed?.[i]?.name}</span>
                </button>
                {(wrong?.name ?? wrong?.date) && (
                  <p role="alert" className="w-full font-bold text-signal">
                    {wrong?.name?.message ?? wrong?.date?.message}
                  </p>
                )}
              </div>
            );
          })}
          <button
            type="button"
            className="btn btn-line btn-small self-start"
            onClick={() => append({ name: '', date: '', yearly: true })}
          >
            Another holiday
          </button>
        </fieldset>
        <FailureNote failure={changing.proposed ? undefined : changing.error} />
        {mayChange && (
          <div>
            <button type="submit" className="btn btn-primary" disabled={changing.busy}>
              Save
            </button>
          </div>
        )}
      </form>
      <ChangeReview changing={changing} undoes={undoes} />
    </section>
  );
}

function weekdayWords(date: string | undefined): string {
  try {
    return dayName(weekdayOf(dayOf(date ?? '')));
  } catch {
    return '';
  }
}
