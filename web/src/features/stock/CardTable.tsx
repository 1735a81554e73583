import type { Card, FoundBy } from '@rawbits/api';
import type { ColumnDef } from '@tanstack/react-table';
import { useMemo } from 'react';
import { Link } from 'react-router';
import { CodeName } from '../../parts/facility/CodeName.tsx';
import { isAlarming, opensWords } from '../../parts/opens/opens.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { type CellMeta, DataTable } from '../../platform/table/DataTable.tsx';
import { lastDayBefore } from '../../platform/words/siteDays.ts';

const ENDED = ['suspended', 'lost', 'expired', 'withdrawn'];
const styled = (className: string | ((card: Card) => string)): CellMeta<Card> => ({
  className: typeof className === 'string' ? () => className : className,
});

/** How the cards of a search were meant, by their ids. */
export type FoundByCard = ReadonlyMap<string, FoundBy>;

const columnsOf = (site: string, zone: string, isNarrow: boolean, foundBy: FoundByCard): ColumnDef<Card>[] => [
  ...(foundBy.size === 0
    ? []
    : [
        {
          header: 'found by',
          cell: ({ row }) => foundBy.get(row.original.id),
          meta: styled('text-ink-2'),
        } satisfies ColumnDef<Card>,
      ]),
  {
    header: 'facility',
    cell: ({ row: { original } }) =>
      original.facility === null ? (
        <span className="font-sans text-ink-2">none</span>
      ) : (
        <>
          {original.facility} {!isNarrow && <CodeName code={original.facility} format={original.formatId} />}
        </>
      ),
    meta: styled('font-mono'),
  },
  {
    header: 'number',
    cell: ({ row }) => (
      <Link
        to={`/${site}/stock/${row.original.id}`}
        className="underline decoration-base-300 underline-offset-4 hover:text-primary"
      >
        {row.original.number}
      </Link>
    ),
    meta: styled('font-mono font-bold'),
  },
  { header: 'printed', cell: ({ row }) => row.original.printed, meta: styled('font-mono') },
  {
    header: 'held by',
    cell: ({ row }) => row.original.holder?.name ?? <span className="text-ink-2">nobody</span>,
  },
  {
    header: 'state',
    cell: ({ row }) => row.original.state,
    meta: styled(({ state }) => (ENDED.includes(state) ? 'text-signal' : '')),
  },
  {
    header: 'through',
    cell: ({ row }) => lastDayBefore(row.original.validTo, zone),
    meta: styled('whitespace-nowrap'),
  },
  {
    header: 'format',
    cell: ({ row }) => row.original.formatId,
    meta: styled('font-mono whitespace-nowrap text-ink-2'),
  },
  {
    header: 'at the doors',
    cell: ({ row }) => opensWords(row.original),
    meta: styled((card) => (isAlarming(card) ? 'text-signal' : 'text-ink-2')),
  },
];

interface Props {
  cards: Card[];
  total: number;
  chosen?: string;
  /** There is little room beside another panel. */
  isNarrow?: boolean;
  /** Empty where nothing was searched for. */
  foundBy?: FoundByCard;
  empty: string;
  onEnd?: () => void;
}

const NOTHING: FoundByCard = new Map();

export function CardTable({ isNarrow = false, foundBy = NOTHING, ...props }: Props) {
  const { id, zone } = useSite();
  const columns = useMemo(() => columnsOf(id, zone, isNarrow, foundBy), [id, zone, isNarrow, foundBy]);
  const { cards, ...rest } = props;
  return <DataTable {...rest} rows={cards} columns={columns} keyOf={(card) => card.id} label="Cards" />;
}
