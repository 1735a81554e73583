/** Who holds what: keys × people, readers, partners; and where a leak would reach. */
import type { KeyHolding } from '@rawbits/api';
import { useState } from 'react';
import { useKeyHoldingsQuery, useKeySetsQuery } from '../../platform/endpoints/keys.ts';
import { usePlansQuery } from '../../platform/endpoints/plans.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { LeakReport } from './LeakReport.tsx';
import { type Holder, type Matrix, type MatrixRow, markOf, matrixOf } from './matrix.ts';
import { NoteHolding } from './NoteHolding.tsx';
import { holdingsOfPlans } from './version/plansOf.ts';

const KINDS: Record<KeyHolding['kind'], string> = {
  person: 'People',
  reader: 'Readers',
  partner: 'Partners',
  plan: 'Plans',
};

export function WhoHolds() {
  const { id: site, may } = useSite();
  const { data: sets = [], error } = useKeySetsQuery(site);
  const { data: holdings = [], error: noHoldings } = useKeyHoldingsQuery(site);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const { data: plans = [] } = usePlansQuery(site);
  const matrix = matrixOf(sets, [...holdings, ...holdingsOfPlans(plans, sets)]);
  const toggle = (id: string) => {
    const next = new Set(chosen);
    if (!next.delete(id)) next.add(id);
    setChosen(next);
  };
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,22rem)] gap-3 max-lg:block max-lg:space-y-3 max-lg:overflow-auto">
      <section className="panel flex min-h-0 flex-col gap-2 p-3" aria-label="Who holds what">
        <p className="text-ink-2">
          <strong className="text-base-content">■</strong> knows the key whole,{' '}
          <strong className="text-base-content">◧</strong> holds a component of it,{' '}
          <strong className="text-base-content">□</strong> held it once. Tick whoever lost something, or leaves.
        </p>
        <FailureNote failure={error ?? noHoldings} />
        <div className="min-h-0 flex-1 overflow-auto">
          <MatrixTable matrix={matrix} chosen={chosen} onToggle={toggle} />
        </div>
      </section>
      <div className="flex min-h-0 flex-col gap-3 overflow-auto">
        <LeakReport matrix={matrix} chosen={chosen} />
        {may('hold keys') && <NoteHolding sets={sets} holdings={holdings} />}
      </div>
    </div>
  );
}

interface TableProps {
  matrix: Matrix;
  chosen: ReadonlySet<string>;
  onToggle: (id: string) => void;
}

function MatrixTable({ matrix, chosen, onToggle }: TableProps) {
  const { holders, rows } = matrix;
  const kinds = [...new Set(holders.map(({ kind }) => kind))];
  if (rows.length === 0) return <p className="text-ink-2">No key yet.</p>;
  return (
    <table className="grid-table w-auto!">
      <thead>
        <tr>
          <th rowSpan={2}>key and version</th>
          {kinds.map((kind) => (
            <th
              key={kind}
              colSpan={holders.filter((h) => h.kind === kind).length}
              className="static! border-l border-base-300"
            >
              {KINDS[kind]}
            </th>
          ))}
        </tr>
        <tr>
          {holders.map((holder, i) => (
            <th key={holder.id} className={holders[i - 1]?.kind === holder.kind ? '' : 'border-l border-base-300'}>
              <label className="flex cursor-pointer items-center gap-1.5">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={chosen.has(holder.id)}
                  onChange={() => onToggle(holder.id)}
                />
                {holder.name}
              </label>
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={`${row.keyId} ${row.version}`}>
            <th scope="row" className="static! border-t border-faint text-base-content!">
              {row.name}, {row.version} <span className="font-normal text-ink-2">{row.inUse ? 'in use' : ''}</span>
            </th>
            {holders.map((holder, i) => (
              <Cell key={holder.id} row={row} holder={holder} first={holders[i - 1]?.kind !== holder.kind} />
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const MARKS = { whole: '■', part: '◧', was: '□' } as const;
const MARK_WORDS = { whole: 'knows it whole', part: 'holds a component', was: 'held it once' } as const;

function Cell({ row, holder, first }: { row: MatrixRow; holder: Holder; first: boolean }) {
  const cell = row.cells.get(holder.id);
  const mark = markOf(cell);
  return (
    <td className={first ? 'border-l border-l-base-300' : ''} title={cell?.map(({ how }) => how).join('; ')}>
      {mark && (
        <>
          <span aria-hidden="true" className={mark === 'was' ? 'text-ink-2' : ''}>
            {MARKS[mark]}
          </span>{' '}
          <span className="text-[0.9rem] text-ink-2">
            <span className="sr-only">{MARK_WORDS[mark]}: </span>
            {cell![0]!.how}
          </span>
        </>
      )}
    </td>
  );
}
