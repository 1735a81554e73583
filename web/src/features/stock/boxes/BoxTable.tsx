import type { Box } from '@rawbits/api';
import { CARD_STATES } from '@rawbits/core/access';
import type { ColumnDef } from '@tanstack/react-table';
import { useMemo } from 'react';
import { Link } from 'react-router';
import { CodeName } from '../../../parts/facility/CodeName.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { type CellMeta, DataTable } from '../../../platform/table/DataTable.tsx';
import { dayOf } from '../../../platform/words/siteDays.ts';

const meta = (className: string): CellMeta<Box> => ({ className: () => className });

/** `180 in stock, 20 active`. */
export const statesInWords = (states: Box['states']): string =>
  CARD_STATES.flatMap((state) => (states[state] ? `${states[state].toLocaleString('en')} ${state}` : [])).join(', ') ||
  'none on file';

const columnsOf = (site: string, zone: string): ColumnDef<Box>[] => [
  {
    header: 'box',
    cell: ({ row: { original } }) => (
      <Link
        to={`/${site}/stock/boxes/${original.id}`}
        className="underline decoration-base-300 underline-offset-4 hover:text-primary"
      >
        {original.name}
      </Link>
    ),
    meta: meta('font-bold'),
  },
  {
    header: 'facility',
    cell: ({ row: { original } }) =>
      original.facility === null ? (
        <span className="font-sans text-ink-2">none</span>
      ) : (
        <>
          {original.facility} <CodeName code={original.facility} format={original.formatId} />
        </>
      ),
    meta: meta('font-mono'),
  },
  {
    header: 'numbers',
    cell: ({ row: { original } }) => `${original.first} – ${original.last}`,
    meta: meta('font-mono whitespace-nowrap'),
  },
  { header: 'cards', cell: ({ row }) => row.original.count.toLocaleString('en'), meta: meta('text-right') },
  { header: 'on file', cell: ({ row }) => statesInWords(row.original.states) },
  { header: 'format', cell: ({ row }) => row.original.formatId, meta: meta('font-mono whitespace-nowrap text-ink-2') },
  {
    header: 'entered',
    cell: ({ row }) => dayOf(row.original.enteredAt, zone),
    meta: meta('whitespace-nowrap text-ink-2'),
  },
];

interface Props {
  boxes: Box[];
  chosen?: string;
  /** There is little room beside another panel. */
  isNarrow: boolean;
  isLoading: boolean;
  onEnd?: () => void;
}

const WIDE = ['facility', 'format', 'entered'];

export function BoxTable({ boxes, chosen, isNarrow, isLoading, onEnd }: Props) {
  const { id, zone } = useSite();
  const columns = useMemo(
    () => columnsOf(id, zone).filter(({ header }) => !isNarrow || !WIDE.includes(header as string)),
    [id, zone, isNarrow],
  );
  return (
    <DataTable
      rows={boxes}
      total={boxes.length}
      columns={columns}
      keyOf={(box) => box.id}
      label="Boxes"
      chosen={chosen}
      onEnd={onEnd}
      empty={
        isLoading
          ? 'Loading …'
          : 'No box was entered yet. Take the label of one in the hand: facility code, first and last number.'
      }
    />
  );
}
