import { Fragment } from 'react';
import { CodeName } from '../../parts/facility/CodeName.tsx';
import type { FitRow } from './view.ts';

interface FitsTableProps {
  rows: FitRow[];
  chosen?: FitRow;
  onChoose: (formatId: string) => void;
}

const otherValues = (row: FitRow): [string, string][] =>
  Object.entries(row.values).filter(([label]) => label !== 'facility' && label !== 'number');

function checksOf(row: FitRow): string {
  const tests = [...row.parity, ...row.checks];
  const failing = tests.filter((t) => !t.holds).length;
  if (tests.length === 0) return 'nothing to test';
  if (failing > 0) return `${failing} of ${tests.length} fail`;
  return tests.length === 1 ? 'holds' : tests.length === 2 ? 'both hold' : `all ${tests.length} hold`;
}

export function FitsTable({ rows, chosen, onChoose }: FitsTableProps) {
  const printed = rows.some((row) => row.print !== undefined);
  return (
    <table className="grid-table">
      <thead>
        <tr>
          <th>format</th>
          <th>facility</th>
          <th>number</th>
          <th>checks</th>
          <th>fit</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => {
          const selected = row === chosen;
          return (
            <Fragment key={row.format.id}>
              <tr aria-selected={selected}>
                <td>
                  <button
                    type="button"
                    className={`cursor-pointer text-left hover:text-primary ${selected ? 'font-bold' : ''}`}
                    aria-pressed={selected}
                    title={row.reason}
                    onClick={() => onChoose(row.format.id)}
                  >
                    {row.format.name}
                  </button>
                  {!row.adopted && <span className="block text-[0.85rem] text-ink-2">not in use at this site</span>}
                </td>
                <td className="font-mono">
                  {row.values.facility ?? <span className="font-sans text-ink-2">none</span>}
                  <span className="block">
                    <CodeName code={row.values.facility} format={row.format.id} />
                  </span>
                </td>
                <td
                  className={`font-mono font-bold ${(row.values.number?.length ?? 0) > 12 ? 'max-w-40 break-all' : 'whitespace-nowrap'}`}
                >
                  {row.values.number ?? <span className="font-sans font-normal text-ink-2">none</span>}
                </td>
                <td className={`whitespace-nowrap ${row.fit === 'full' ? '' : 'text-signal'}`}>{checksOf(row)}</td>
                <td>
                  <span className={row.fit === 'full' ? 'font-bold text-primary' : 'font-bold text-signal'}>
                    {row.fit}
                  </span>
                  {printed && (
                    <span
                      className={`block text-[0.9rem] whitespace-nowrap ${row.print ? 'font-bold text-primary' : 'text-signal'}`}
                    >
                      {row.print ? 'print agrees' : 'print differs'}
                    </span>
                  )}
                </td>
              </tr>
              {selected && otherValues(row).length > 0 && (
                <tr>
                  <td colSpan={5}>
                    {otherValues(row).map(([label, value]) => (
                      <span key={label} className="mr-4 inline-block">
                        {label} <span className="font-mono font-bold">{value}</span>
                      </span>
                    ))}
                  </td>
                </tr>
              )}
            </Fragment>
          );
        })}
      </tbody>
    </table>
  );
}
