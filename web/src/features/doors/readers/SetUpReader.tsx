/** Setting a reader up to read a field of a plan; the keys go to the reader and are not shown. */
import type { Reader, ReaderPlan, SiteFormat } from '@rawbits/api';
import { type AnyPlan, type CredentialPlace, placesOf, placeWords, readerAt } from '@rawbits/core/plan';
import { useWatch } from 'react-hook-form';
import { DraftNote, Theirs } from '../../../platform/drafts/DraftNote.tsx';
import { useKeptForm } from '../../../platform/drafts/useKeptForm.ts';
import { useControllersQuery } from '../../../platform/endpoints/doors.ts';
import { useFormatsQuery } from '../../../platform/endpoints/formats.ts';
import { usePlanQuery, usePlansQuery } from '../../../platform/endpoints/plans.ts';
import { useEndReaderPlanMutation, useSetReaderPlanMutation } from '../../../platform/endpoints/readerPlans.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { Field } from '../../../platform/forms/Field.tsx';
import { useSite } from '../../../platform/site/useSite.ts';

interface Typed {
  /** Empty for the first that there is. */
  planId: string;
  field: string;
  bits: string;
}

const typedOf = (plan: ReaderPlan | undefined): Typed => ({
  planId: plan?.plan.id ?? '',
  field: plan?.field ?? '',
  bits: plan && 'bits' in plan.settings ? String(plan.settings.bits) : '26',
});
const NAMES: Record<keyof Typed, string> = { planId: 'Plan', field: 'Field', bits: 'Bits over the line' };

interface Props {
  reader: Reader;
  plan: ReaderPlan | undefined;
  onDone: () => void;
}

/** The formats in use by their numbers of bits: a reader sends so many, whichever of them they are. */
function namesByLength(formats: readonly SiteFormat[]): Map<number, string[]> {
  const lengths = new Map<number, string[]>();
  for (const { format, adopted } of formats)
    if (adopted) lengths.set(format.bits, [...(lengths.get(format.bits) ?? []), format.name]);
  return new Map([...lengths].sort(([a], [b]) => a - b));
}

/** How many bits the reader would send; undefined where it could not be set up so. */
function sentBits(plan: AnyPlan, place: CredentialPlace, bits: string): number | undefined {
  try {
    const settings = readerAt(plan, place, bits.trim() === '' ? undefined : Number(bits));
    return 'bits' in settings ? settings.bits : undefined;
  } catch {
    return undefined;
  }
}

/** Why every card would be refused: its controller accepts no format of so many bits. */
function useLengthProblem({ controllerId }: Reader, sent: number | undefined): string | undefined {
  const { id: site } = useSite();
  const { data: controllers } = useControllersQuery(site);
  const { data: formats } = useFormatsQuery(site);
  const controller = controllers?.find(({ id }) => id === controllerId);
  if (sent === undefined || !controller || !formats) return undefined;
  const accepted = formats.filter(({ format }) => controller.wantedFormats.includes(format.id));
  if (accepted.some(({ format }) => format.bits === sent)) return undefined;
  return `${controller.name} accepts no format of ${sent} bits: every card would be refused.`;
}

export function SetUpReader({ reader, plan, onDone }: Props) {
  const { id: site } = useSite();
  const { data: plans = [] } = usePlansQuery(site);
  const [form, draft] = useKeptForm<Typed>('reader plans', `${site} ${reader.id}`, { defaultValues: typedOf(plan) });
  const { setValue } = form;
  const { planId, field, bits } = useWatch({ control: form.control }) as Typed;
  const chosenId = planId || plans[0]?.id || '';
  const put = (name: keyof Typed) => (event: { target: { value: string } }) =>
    setValue(name, name === 'bits' ? event.target.value.replace(/\D/g, '') : event.target.value, { shouldDirty: true });
  const { data: chosen } = usePlanQuery({ site, id: chosenId }, { skip: chosenId === '' });
  const current = chosen?.versions.find(({ version }) => version === chosen.current)?.plan;
  const places = current ? placesOf(current) : [];
  const [set, { error, isLoading }] = useSetReaderPlanMutation();
  const [end, ending] = useEndReaderPlanMutation();
  const called = (one: CredentialPlace) => `${one.field}, ${placeWords(one)}`;
  const which = places.find((one) => called(one) === field || one.field === field) ?? places[0];
  // A string is taken whole: it has the bits that its card’s format has.
  const isWhole = current?.kind === 'tag' && current.sends.is === 'string';
  const problem = useLengthProblem(reader, current && which && !isWhole ? sentBits(current, which, bits) : undefined);
  const { data: formats = [] } = useFormatsQuery(site);
  const lengths = namesByLength(formats);
  const params = { site, id: reader.id };
  const over = plan?.setAt ?? null;
  const finish = () => {
    draft.forget();
    onDone();
  };
  const submit = form.handleSubmit(async () => {
    if (!which) return;
    const { data } = await set({
      params,
      body: { planId: chosenId, at: which, over, ...(bits.trim() !== '' && !isWhole && { bits: Number(bits) }) },
    });
    if (data) finish();
  });
  return (
    <form
      className="mt-2 grid gap-2 border border-base-300 p-3"
      aria-label={`Set ${reader.name} up`}
      onSubmit={(event) => void submit(event)}
    >
      <DraftNote draft={draft} />
      <Theirs
        draft={draft}
        subject={`reader ${reader.name}`}
        words={(name, value) => [
          NAMES[name],
          name === 'planId' ? (plans.find(({ id }) => id === value)?.name ?? '') : String(value ?? ''),
        ]}
      />
      <div className="grid grid-cols-[repeat(auto-fill,minmax(min(12rem,100%),1fr))] gap-3">
        <Field label="By the plan">
          {(props) => (
            <select {...props} className="select w-full" value={chosenId} onChange={put('planId')}>
              {plans.map(({ id, name, current: version }) => (
                <option key={id} value={id}>
                  {name}, version {version}
                </option>
              ))}
            </select>
          )}
        </Field>
        <Field
          label="It reads the field"
          error={chosen && places.length === 0 ? 'No field of this plan holds a credential.' : undefined}
        >
          {(props) => (
            <select {...props} className="select w-full" value={which ? called(which) : ''} onChange={put('field')}>
              {places.map((one) => (
                <option key={called(one)} value={called(one)}>
                  {called(one)}
                </option>
              ))}
            </select>
          )}
        </Field>
        {!isWhole && (
          <Field label="Format of the cards">
            {(props) => (
              <select
                {...props}
                className="select w-full"
                value={lengths.has(Number(bits)) ? bits : ''}
                onChange={({ target }) => setValue('bits', target.value, { shouldDirty: true })}
              >
                <option value="">another</option>
                {[...lengths].map(([length, names]) => (
                  <option key={length} value={length}>
                    {names.join(' · ')}
                  </option>
                ))}
              </select>
            )}
          </Field>
        )}
        <Field
          label="Bits over the line"
          error={problem}
          hint={isWhole ? 'as many as are on the tag' : 'as many as the format has; empty: the whole field'}
        >
          {(props) => (
            <input
              {...props}
              name="bits"
              disabled={isWhole}
              className="input w-full"
              inputMode="numeric"
              value={isWhole ? '' : bits}
              onChange={put('bits')}
            />
          )}
        </Field>
      </div>
      <p className="text-[0.9rem] text-ink-2">
        {current?.kind === 'tag'
          ? 'A tag is read without a key: whoever comes near reads it, too.'
          : 'The key store has to be unlocked: the reader is given the version of the key that is in use.'}
      </p>
      <FailureNote failure={error ?? ending.error} />
      <div className="flex flex-wrap gap-2">
        <button type="submit" className="btn btn-primary btn-small" disabled={!which || isLoading}>
          Set it up
        </button>
        {plan && (
          <button
            type="button"
            className="btn btn-line btn-small"
            onClick={() =>
              void end({ ...params, over: plan.setAt }).then(
                (answer) => !('error' in answer && answer.error) && finish(),
              )
            }
          >
            Have it read as before
          </button>
        )}
        <button type="button" className="btn btn-line btn-small" onClick={finish}>
          Cancel
        </button>
      </div>
    </form>
  );
}
