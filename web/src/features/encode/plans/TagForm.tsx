/** A rewritable tag: what it sends, its password, and what of it is locked for good. */
import type { ChipPlan } from '@rawbits/api';
import { configurationWord, contentsOf, keyNamesOf, standInKnownOf, TAG_BYTES, type TagPlan } from '@rawbits/core/plan';
import { useKeySetsQuery } from '../../../platform/endpoints/keys.ts';
import { Choice, Named } from '../../../platform/forms/controls.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { identificationFields } from './edit.ts';
import { FieldsForm } from './FieldsForm.tsx';
import { KeyChoice } from './KeyChoice.tsx';

const BYTES_FREE = 1;

export function TagForm({ plan, onChange }: { plan: TagPlan; onChange?: (plan: ChipPlan) => void }) {
  const { id: site } = useSite();
  const { data: sets = [] } = useKeySetsQuery(site);
  const passwords = sets.flatMap(({ keys }) => keys.filter(({ kind }) => kind === 'tag').map(({ name }) => name));
  const set = (change: Partial<TagPlan>) => onChange?.({ ...plan, ...change });
  const { sends } = plan;
  return (
    <section className="panel p-3" aria-label="The tag">
      <fieldset disabled={!onChange} className="grid min-w-0 gap-3">
        <div className="grid grid-cols-[repeat(auto-fill,minmax(min(13rem,100%),1fr))] gap-3">
          <Named label="Name of the plan" value={plan.name} most={120} onChange={(name) => set({ name })} />
          <Choice
            label="It sends"
            value={sends.is}
            options={[
              ['string', 'its format’s bits'],
              ['identification', '40 bits, as an ID tag'],
            ]}
            onChange={(is) =>
              set({
                sends: is === 'string' ? { is } : { is, rate: 64, fields: identificationFields() },
              })
            }
          />
          {sends.is === 'identification' && (
            <Choice
              label="A bit lasts"
              value={sends.rate}
              options={[
                [64, '64 periods of the carrier'],
                [32, '32 periods'],
              ]}
              onChange={(rate) => set({ sends: { ...sends, rate } })}
            />
          )}
          <KeyChoice
            label="Password"
            value={plan.password}
            names={[...new Set([...keyNamesOf(plan), ...passwords])]}
            none="none: everybody can write it"
            onChange={(password) => set({ password, keys: [] })}
          />
          <Choice
            label="Locked for good"
            value={plan.lock}
            options={[
              ['nothing', 'nothing'],
              ['contents', 'what it sends'],
              ['everything', 'that, and how it is set up'],
            ]}
            onChange={(lock) => set({ lock })}
          />
        </div>
        {sends.is === 'identification' && (
          <FieldsForm
            cardKey={null}
            fields={sends.fields}
            size={TAG_BYTES}
            length={BYTES_FREE}
            onChange={(fields) => set({ sends: { ...sends, fields } })}
          />
        )}
        <Blocks plan={plan} />
      </fieldset>
    </section>
  );
}

/** The eight blocks of the tag: what each is for. */
function Blocks({ plan }: { plan: TagPlan }) {
  const contents = sampleOf(plan);
  const locked = (block: number) => {
    const sent = contents?.words.length ?? 0;
    if (plan.lock === 'nothing') return false;
    return (block >= 1 && block <= sent) || (plan.lock === 'everything' && (block === 0 || block === 7));
  };
  const words = (block: number): string => {
    if (block === 0)
      return contents
        ? `configuration ${configurationWord(contents, plan.password !== null)
            .toString(16)
            .toUpperCase()
            .padStart(8, '0')}`
        : 'configuration';
    if (block <= (contents?.words.length ?? 0)) return 'sent';
    if (block === 7 && plan.password !== null) return `password "${plan.password}"`;
    return 'empty';
  };
  return (
    <table className="grid-table max-w-xl" aria-label="Blocks of the tag">
      <thead>
        <tr>
          <th scope="col">block</th>
          <th scope="col">holds</th>
          <th scope="col">written by</th>
        </tr>
      </thead>
      <tbody>
        {[0, 1, 2, 3, 4, 5, 6, 7].map((block) => (
          <tr key={block}>
            <th scope="row" className="font-mono font-normal">
              {block}
            </th>
            <td className={words(block) === 'empty' ? 'text-ink-2' : ''}>{words(block)}</td>
            <td className={locked(block) ? 'font-bold' : 'text-ink-2'}>
              {locked(block) ? 'nobody, for good' : plan.password === null ? 'everybody' : 'the password'}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What it would hold for some card; undefined while its fields cannot be filled. */
function sampleOf(plan: TagPlan) {
  try {
    return contentsOf(plan, standInKnownOf(plan));
  } catch {
    return undefined;
  }
}
