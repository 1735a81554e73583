/** Starting a run: what is to be done, by which plan, for which cards, at which pads. */
import { type NewRun as Body, RUN_KINDS, type RunKind } from '@rawbits/api';
import { grantsOf } from '@rawbits/core/plan';
import { useDraft } from '../../../platform/drafts/useDraft.ts';
import { useFacilityCodesQuery } from '../../../platform/endpoints/facilityCodes.ts';
import { useFormatsQuery } from '../../../platform/endpoints/formats.ts';
import { usePlanQuery, usePlansQuery } from '../../../platform/endpoints/plans.ts';
import { usePadsQuery, useStartRunMutation } from '../../../platform/endpoints/runs.ts';
import { Check, Choice, Text, Whole } from '../../../platform/forms/controls.tsx';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { RUN_WORDS } from '../words/words.ts';

interface Typed {
  kind: RunKind;
  planId: string;
  from: 'stock' | 'next numbers';
  formatId: string;
  facility: string;
  first: string;
  count: number;
  under: string;
  takesUsed: boolean;
  pads: string[] | null;
}
const EMPTY: Typed = {
  kind: 'encode',
  planId: '',
  from: 'next numbers',
  formatId: '',
  facility: '',
  first: '',
  count: 5,
  under: '',
  takesUsed: false,
  pads: null,
};

const TAKES_USED = {
  files: 'take used cards, too, as long as their master key is the factory’s',
  tag: 'take used tags, too, as long as they have no password',
} as const;

function facilityHint(from: Typed['from'], kept: readonly string[]): string {
  if (from === 'stock') return 'empty: whichever';
  return kept.length === 0
    ? 'no numbers are kept for encoding yet'
    : `numbers are kept for encoding under ${kept.join(', ')}`;
}

export function NewRun({ onStarted, onCancel }: { onStarted: (id: string) => void; onCancel?: () => void }) {
  const { id: site } = useSite();
  const [draft, setDraft] = useDraft<Typed>('runs', `${site} new`);
  const typed = draft ?? EMPTY;
  const set = (change: Partial<Typed>) => setDraft({ ...typed, ...change });
  const { data: plans = [] } = usePlansQuery(site);
  const { data: formats } = useFormatsQuery(site);
  const { data: codes = [] } = useFacilityCodesQuery(site);
  const { data: pads = [], isLoading: isFinding } = usePadsQuery(site);
  const [start, { error, isLoading }] = useStartRunMutation();
  const planId = plans.some(({ id }) => id === typed.planId) ? typed.planId : (plans[0]?.id ?? '');
  const { data: plan } = usePlanQuery({ site, id: planId }, { skip: planId === '' });
  const adopted = (formats ?? []).filter((one) => one.adopted).map(({ format }) => format);
  const formatId = adopted.some(({ id }) => id === typed.formatId) ? typed.formatId : (adopted[0]?.id ?? '');
  // The only code with numbers kept for encoding needs not be typed.
  const kept = codes.flatMap((code) =>
    code.reserved.some(({ forEncoding }) => forEncoding) && (code.formatId ?? formatId) === formatId ? code.code : [],
  );
  const facility = typed.facility.trim() || (typed.from === 'next numbers' && kept.length === 1 ? kept[0]! : '');
  const current = plan?.versions.find(({ version }) => version === plan.current)?.plan;
  const grants = current?.kind === 'files' ? grantsOf(current).map(({ under }) => under) : [];
  const under = grants.includes(typed.under) ? typed.under : (grants[0] ?? '');
  const freePads = pads.filter(({ run }) => run === null);
  const chosenPads = typed.pads ?? freePads.slice(0, 1).map(({ id }) => id);
  const submit = async () => {
    const cards = { formatId, facility: facility || null, count: typed.count };
    const body: Body = {
      kind: typed.kind,
      planId,
      pads: chosenPads,
      ...(typed.kind === 'encode' && {
        takesUsed: typed.takesUsed,
        cards:
          typed.from === 'stock'
            ? { from: 'stock', ...cards }
            : { from: 'next numbers', ...cards, first: typed.first.trim() || null },
      }),
      ...(typed.kind === 'hand back' && { under }),
    };
    const { data } = await start({ params: { site }, body });
    if (!data) return;
    setDraft(undefined);
    onStarted(data.id);
  };
  return (
    <form
      className="panel grid content-start gap-3 overflow-auto p-4"
      aria-label="Start a run"
      onSubmit={(event) => {
        event.preventDefault();
        void submit();
      }}
    >
      <h2 className="text-[1.15rem]">Start a run</h2>
      <div className="grid max-w-3xl grid-cols-2 gap-3">
        <Choice
          label="What is to be done"
          value={typed.kind}
          options={RUN_KINDS.map((kind) => [kind, RUN_WORDS[kind]] as const)}
          onChange={(kind) => set({ kind })}
        />
        <Choice
          label="By the plan"
          value={planId}
          options={plans.map(({ id, name, current: version }) => [id, `${name}, version ${version}`] as const)}
          onChange={(id) => set({ planId: id })}
        />
      </div>
      {plan && plan.errors > 0 && (
        <p className="text-signal">This plan has errors and cannot be encoded: put them right first.</p>
      )}
      {typed.kind === 'encode' && (
        <div className="grid max-w-3xl grid-cols-2 gap-3">
          <Choice
            label="Which cards"
            value={typed.from}
            options={[
              ['stock', 'blanks in stock, by number'],
              ['next numbers', 'the next numbers kept for encoding'],
            ]}
            onChange={(from) => set({ from })}
          />
          <Choice
            label="Of the format"
            value={formatId}
            options={adopted.map(({ id, name }) => [id, name] as const)}
            onChange={(id) => set({ formatId: id })}
          />
          <Text
            label="Facility code"
            value={typed.facility}
            onChange={(code) => set({ facility: code })}
            hint={facilityHint(typed.from, kept)}
          />
          <Whole label="How many" value={typed.count} min={1} max={5000} onChange={(count) => set({ count })} />
          {typed.from === 'next numbers' && (
            <Text
              label="The least of them"
              value={typed.first}
              onChange={(first) => set({ first })}
              hint="empty: the next of the range kept for encoding"
            />
          )}
          {current && current.kind !== 'sectors' && (
            <Check
              label={TAKES_USED[current.kind]}
              checked={typed.takesUsed}
              onChange={(takesUsed) => set({ takesUsed })}
            />
          )}
        </div>
      )}
      {typed.kind === 'hand back' &&
        (grants.length === 0 ? (
          <p className="text-signal">This plan has no hand-back grant.</p>
        ) : (
          <Choice
            label="By the grant for"
            value={under}
            options={grants.map((one) => [one, one] as const)}
            onChange={(one) => set({ under: one })}
            className="max-w-md"
          />
        ))}
      <fieldset className="grid gap-0.5">
        <legend className="field-label">At the pads</legend>
        {pads.map(({ id, name, connected, run }) => (
          <span key={id} className="flex gap-2">
            <Check
              label={name}
              checked={chosenPads.includes(id)}
              onChange={(on) => set({ pads: on ? [...chosenPads, id] : chosenPads.filter((one) => one !== id) })}
            />
            <span className="text-ink-2">
              {run !== null ? 'another run has it' : connected ? '' : 'does not answer'}
            </span>
          </span>
        ))}
        {pads.length === 0 && !isFinding && (
          <p className="text-ink-2">
            No pad yet. Bring the rig in under Site, or start a desk where a card reader is plugged in.
          </p>
        )}
      </fieldset>
      <FailureNote failure={error} />
      <div className="flex gap-2">
        <button
          type="submit"
          className="btn btn-primary"
          disabled={isLoading || planId === '' || chosenPads.length === 0}
        >
          Start
        </button>
        {onCancel && (
          <button type="button" className="btn btn-line" onClick={onCancel}>
            Cancel
          </button>
        )}
      </div>
    </form>
  );
}
