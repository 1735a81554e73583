/** How the site keeps its cardholders: PINs, and what an organisation or a kind brings. */
import { type CardholderRules, cardholderRulesSchema } from '@rawbits/api';
import { useFieldArray } from 'react-hook-form';
import { Link } from 'react-router';
import { DraftNote, Theirs } from '../../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useAccessQuery } from '../../../platform/endpoints/access.ts';
import { useCardholderRulesQuery, useSetCardholderRulesMutation } from '../../../platform/endpoints/people.ts';
import { ticked } from '../../../platform/forms/boxes.ts';
import { checkedAs } from '../../../platform/forms/checkedAs.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';

export function Rules() {
  const { id: site } = useSite();
  const { data, error } = useCardholderRulesQuery(site);
  return (
    <section className="panel flex min-h-0 flex-col gap-3 overflow-auto p-4" aria-label="Rules of cardholders">
      <div className="flex items-baseline">
        <h2 className="grow text-[1.15rem]">How cardholders are kept</h2>
        <Link to={`/${site}/stock/people`} className="btn btn-line">
          Close
        </Link>
      </div>
      <FailureNote failure={error} />
      {data && <Edit rules={data} />}
    </section>
  );
}

interface Typed {
  pinDigits: string;
  pinsDiffer: boolean;
  brings: { organisation: string; kind: string; groups: string[]; days: string }[];
}

const typedOf = ({ pinDigits, pinsDiffer, brings }: CardholderRules): Typed => ({
  pinDigits: String(pinDigits),
  pinsDiffer,
  brings: brings.map((rule) => ({ ...rule, days: rule.days === null ? '' : String(rule.days) })),
});

function Edit({ rules }: { rules: CardholderRules }) {
  const { id: site, may } = useSite();
  const { data: access } = useAccessQuery(site);
  const [set, { error, isLoading }] = useSetCardholderRulesMutation();
  const [form, draft] = useKeptForm('cardholder rules', site, {
    resolver: checkedAs(
      cardholderRulesSchema,
      ({ pinDigits, pinsDiffer, brings }: Typed) => ({
        pinDigits: Number(pinDigits),
        pinsDiffer,
        brings: brings.map((rule) => ({
          ...rule,
          groups: ticked(rule.groups),
          days: rule.days.trim() === '' ? null : Number(rule.days),
        })),
        revision: rules.revision,
      }),
      { deep: true },
    ),
    defaultValues: typedOf(rules),
  });
  const { register, control, formState } = form;
  const { fields, append, remove } = useFieldArray({ control, name: 'brings' });
  const submit = form.handleSubmit(async (body) => {
    if ('data' in (await set({ site, rules: body }))) draft.forget();
  });
  return (
    <form onSubmit={submit} className="flex flex-col gap-3" noValidate>
      <DraftNote draft={draft} />
      <Theirs
        draft={draft}
        words={(field, value) => [
          field === 'brings' ? 'What a kind brings' : field === 'pinDigits' ? 'Digits of a PIN' : 'PINs differ',
          field === 'brings'
            ? (value as Typed['brings']).map((rule) => `${rule.organisation} ${rule.kind} ${rule.days} days`).join('; ')
            : String(value),
        ]}
      />
      <fieldset disabled={!may('set up doors')} className="flex flex-col gap-3">
        <div className="flex flex-wrap items-end gap-4">
          <Field label="Digits of a PIN" error={formState.errors.pinDigits && 'From 4 to 12.'}>
            {(props) => (
              <input {...props} {...register('pinDigits')} inputMode="numeric" className="input w-24 font-mono" />
            )}
          </Field>
          <label className="mb-1.5 flex items-center gap-2">
            <input type="checkbox" className="checkbox checkbox-sm" {...register('pinsDiffer')} />
            no two have the same PIN
          </label>
        </div>
        <p className="text-ink-2">
          Whoever is added with an organisation or a kind comes into its groups; their cards are given so many days.
        </p>
        {fields.map((field, i) => {
          const wrong = formState.errors.brings?.[i];
          return (
            <div key={field.id} className="flex flex-col gap-2 border-t border-faint pt-2">
              <div className="flex flex-wrap items-end gap-3">
                <Field label="Organisation">
                  {(props) => <input {...props} {...register(`brings.${i}.organisation`)} className="input w-40" />}
                </Field>
                <Field label="Kind">
                  {(props) => <input {...props} {...register(`brings.${i}.kind`)} className="input w-32" />}
                </Field>
                <Field label="Days of a card" error={wrong?.days?.message && 'A number of days, or nothing.'}>
                  {(props) => (
                    <input
                      {...props}
                      {...register(`brings.${i}.days`)}
                      inputMode="numeric"
                      className="input w-24 font-mono"
                    />
                  )}
                </Field>
                <button type="button" className="switch-link mb-1.5 underline" onClick={() => remove(i)}>
                  take out<span className="sr-only"> line {i + 1}</span>
                </button>
              </div>
              <span className="flex flex-wrap gap-x-4">
                {(access?.groups ?? []).map((group) => (
                  <label key={group.id} className="flex items-center gap-1">
                    <input
                      type="checkbox"
                      value={group.id}
                      className="checkbox checkbox-xs"
                      {...register(`brings.${i}.groups`)}
                    />
                    {group.name}
                  </label>
                ))}
              </span>
            </div>
          );
        })}
        <button
          type="button"
          className="btn btn-line btn-small self-start"
          onClick={() => append({ organisation: '', kind: '', groups: [], days: '' })}
        >
          Another organisation or kind
        </button>
      </fieldset>
      <FailureNote failure={error} />
      {may('set up doors') && (
        <div>
          <button type="submit" className="btn btn-primary" disabled={isLoading}>
            Save
          </button>
        </div>
      )}
    </form>
  );
}
