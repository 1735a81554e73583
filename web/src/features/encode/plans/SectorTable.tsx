/** Sectors of a sector card: keys A and B, and access conditions chosen by what they allow, with their bits. */
import type { ChipPlan } from '@rawbits/api';
import { type DataAccess, dataAccess, trailerAccess } from '@rawbits/core/chip';
import { everySector, type PlanSector, sectorsOf } from '@rawbits/core/plan';
import { useState } from 'react';
import { Choice } from '../../../platform/forms/controls.tsx';
import { KeyChoice } from './KeyChoice.tsx';

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
  const names = [...new Set(plan.sectors.flatMap(({ keyA, keyB }) => [keyA, keyB]).filter((name) => name !== null))];
  const sector = everySector(plan)[chosen]!;
  const set = (change: Partial<PlanSector>) =>
    onChange?.({
      ...plan,
      sectors: [...plan.sectors.filter(({ number }) => number !== chosen), { ...sector, ...change }].sort(
        (a, b) => a.number - b.number,
      ),
    });
  return (
    <div className="grid gap-3">
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
        <div className="grid grid-cols-[repeat(auto-fill,minmax(13rem,1fr))] gap-3">
          <KeyChoice label="Key A" value={sector.keyA} names={names} onChange={(keyA) => set({ keyA })} />
          <KeyChoice label="Key B" value={sector.keyB} names={names} onChange={(keyB) => set({ keyB })} />
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
        <p className="text-[0.9rem] text-ink-2">
          The cipher of these cards is broken: whoever has one in the hand has its keys. Dashed sectors stay as they are
          delivered.
        </p>
      </fieldset>
    </div>
  );
}
