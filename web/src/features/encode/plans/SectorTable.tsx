/** Sectors of a sector card: keys A and B, and access conditions chosen by what they allow, with their bits. */
import type { ChipPlan } from '@rawbits/api';
import { type DataAccess, dataAccess, trailerAccess } from '@rawbits/core/chip';
import { blocksIn, everySector, keyNamesOf, type PlanSector, sectorsOf } from '@rawbits/core/plan';
import { useState } from 'react';
import { Check, Choice, Named, Shaped } from '../../../platform/forms/controls.tsx';
import { FieldsForm } from './FieldsForm.tsx';
import { KeyChoice } from './KeyChoice.tsx';

/** Bytes of a block. */
const BLOCK = 16;
type SectorsPlan = Extract<ChipPlan, { kind: 'sectors' }>;
const by = (keys: string): string => (keys === '' ? 'nobody' : keys.split('').join(' or '));
const bits = (condition: number): string => condition.toString(2).padStart(3, '0');

/** A condition of data blocks by what it allows: `100: read A or B, write B, count up nobody, count down nobody`. */
const dataWords = (condition: number): string => {
  const { read, write, increment, decrement }: DataAccess = dataAccess(condition);
  const counts = increment === '' && decrement === '' ? '' : `, up ${by(increment)}, down ${by(decrement)}`;
  return `${bits(condition)}: read ${by(read)}, write ${by(write)}${counts}`;
};
const trailerWords = (condition: number): string => {
  const { keyAWrite, bitsWrite, keyBRead, keyBWrite } = trailerAccess(condition);
  return `${bits(condition)}: key A by ${by(keyAWrite)}, bits by ${by(bitsWrite)}, key B by ${by(keyBWrite)}, B read by ${by(keyBRead)}`;
};
const CONDITIONS = [0, 1, 2, 3, 4, 5, 6, 7];
const DATA = CONDITIONS.map((one) => [one, dataWords(one)] as const);
const TRAILER = CONDITIONS.map((one) => [one, trailerWords(one)] as const);

export function SectorTable({ plan, onChange }: { plan: SectorsPlan; onChange?: (plan: ChipPlan) => void }) {
  const [chosen, setChosen] = useState(1);
  const names = keyNamesOf(plan);
  const sector = everySector(plan)[chosen]!;
  const set = (change: Partial<PlanSector>) =>
    onChange?.({
      ...plan,
      sectors: [...plan.sectors.filter(({ number }) => number !== chosen), { ...sector, ...change }].sort(
        (a, b) => a.number - b.number,
      ),
    });
  const blocks = blocksIn(chosen).length - 1;
  return (
    <div className="grid gap-3">
      <fieldset
        disabled={!onChange}
        className="grid grid-cols-[repeat(auto-fill,minmax(min(13rem,100%),1fr))] items-end gap-3"
      >
        <legend className="sr-only">The card</legend>
        <Named
          label="Name of the plan"
          value={plan.name}
          most={120}
          onChange={(name) => onChange?.({ ...plan, name })}
        />
        <Choice
          label="Memory"
          value={plan.size}
          options={[
            ['1K', '1 KB, 16 sectors'],
            ['4K', '4 KB, 40 sectors'],
          ]}
          onChange={(size) => onChange?.({ ...plan, size })}
        />
        <Check
          label="directory of applications in sector 0"
          checked={plan.directory}
          onChange={(directory) => onChange?.({ ...plan, directory })}
        />
      </fieldset>
      <fieldset className="flex flex-wrap gap-1" aria-label="Sectors">
        {Array.from({ length: sectorsOf(plan) }, (_, number) => (
          <button
            // biome-ignore lint/suspicious/noArrayIndexKey: a sector is its number.
            key={number}
            type="button"
            aria-pressed={number === chosen}
            className={`min-w-9 cursor-pointer border px-1 py-1 font-mono ${plan.sectors.some((one) => one.number === number) ? 'border-base-content font-bold' : 'border-dashed border-base-300'} ${number === chosen ? 'bg-chosen' : 'bg-base-100'}`}
            onClick={() => setChosen(number)}
          >
            {number}
          </button>
        ))}
      </fieldset>
      <fieldset disabled={!onChange} className="panel grid gap-3 p-3">
        <legend className="sr-only">Sector {chosen}</legend>
        <div className="grid grid-cols-[repeat(auto-fill,minmax(min(13rem,100%),1fr))] gap-3">
          <KeyChoice label="Key A" value={sector.keyA} names={names} onChange={(keyA) => set({ keyA })} />
          <KeyChoice label="Key B" value={sector.keyB} names={names} onChange={(keyB) => set({ keyB })} />
          {plan.directory && chosen >= 1 && chosen <= 15 && (
            <Shaped
              key={chosen}
              label="Application in the directory"
              hint="cluster and code"
              value={sector.application ?? ''}
              mono
              shape={/^([0-9A-F]{4})?$/}
              complaint="four hex digits, or nothing"
              onChange={(application) => set({ application: application || null })}
            />
          )}
        </div>
        <div className="grid grid-cols-[repeat(auto-fill,minmax(20rem,1fr))] gap-3">
          {sector.access.data.map((condition, group) => (
            <Choice
              // biome-ignore lint/suspicious/noArrayIndexKey: a group is its number.
              key={group}
              label={chosen < 32 ? `Block ${group}` : `Blocks ${5 * group} to ${5 * group + 4}`}
              value={condition}
              options={DATA}
              onChange={(next) => {
                const data = sector.access.data.map((one, i) =>
                  i === group ? next : one,
                ) as PlanSector['access']['data'];
                set({ access: { ...sector.access, data } });
              }}
            />
          ))}
          <Choice
            label="Trailer: keys and access bits"
            value={sector.access.trailer}
            options={TRAILER}
            onChange={(trailer) => set({ access: { ...sector.access, trailer } })}
          />
        </div>
        <FieldsForm
          key={chosen}
          cardKey={null}
          fields={sector.fields}
          size={BLOCK * blocks}
          onChange={(fields) => set({ fields })}
        />
        {chosen === 0 && (
          <p className="text-[0.9rem] text-ink-2">
            The first sixteen bytes of sector 0 are the maker’s{plan.directory && ', the others the directory’s'}.
          </p>
        )}
        {onChange && plan.sectors.some(({ number }) => number === chosen) && (
          <button
            type="button"
            className="btn btn-line btn-small justify-self-end"
            onClick={() => onChange({ ...plan, sectors: plan.sectors.filter(({ number }) => number !== chosen) })}
          >
            Leave this sector as it is delivered
          </button>
        )}
        <p className="text-[0.9rem] text-ink-2">
          The cipher of these cards is broken: whoever has one in the hand has its keys. Dashed sectors stay as they are
          delivered.
        </p>
      </fieldset>
    </div>
  );
}
