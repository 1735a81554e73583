/**
 * The one table: columns by TanStack Table, and only the rows that are in sight are drawn, however many there are. More
 * are asked for when its end comes into sight.
 */
import { type ColumnDef, flexRender, getCoreRowModel, useReactTable } from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef } from 'react';

const ROW_PX = 34;
const BEYOND = 12;

interface Props<T> {
  columns: ColumnDef<T>[];
  rows: T[];
  /** How many there are in all, also those that are not here yet. */
  total: number;
  label: string;
  keyOf: (row: T) => string;
  chosen?: string;
  /** What stands in place of rows where there are none. */
  empty: string;
  /** Asks for more rows; undefined where all are here. */
  onEnd?: () => void;
}

export function DataTable<T>({ columns, rows, total, label, keyOf, chosen, empty, onEnd }: Props<T>) {
  const scroll = useRef<HTMLElement>(null);
  const table = useReactTable({ data: rows, columns, getRowId: keyOf, getCoreRowModel: getCoreRowModel() });
  const lines = table.getRowModel().rows;
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => ROW_PX,
    overscan: BEYOND,
    initialRect: { width: 1000, height: 600 },
  });
  const shown = virtual.getVirtualItems();
  const last = shown.at(-1)?.index ?? -1;
  useEffect(() => {
    if (onEnd && last >= lines.length - 1) onEnd();
  }, [onEnd, last, lines.length]);
  const above = shown[0]?.start ?? 0;
  const below = virtual.getTotalSize() - (shown.at(-1)?.end ?? 0);
  return (
    // A region that scrolls can be scrolled by the keyboard.
    // biome-ignore lint/a11y/noNoninteractiveTabindex: see above
    <section ref={scroll} tabIndex={0} className="panel min-h-0 overflow-auto" aria-label={label}>
      <table className="grid-table" aria-rowcount={total + 1}>
        <thead>
          {table.getHeaderGroups().map((group) => (
            <tr key={group.id} aria-rowindex={1}>
              {group.headers.map((header) => (
                <th key={header.id} scope="col">
                  {flexRender(header.column.columnDef.header, header.getContext())}
                </th>
              ))}
            </tr>
          ))}
        </thead>
        <tbody>
          <Gap height={above} columns={columns.length} />
          {shown.map(({ index }) => {
            const line = lines[index]!;
            return (
              <tr
                key={line.id}
                data-index={index}
                ref={virtual.measureElement}
                aria-rowindex={index + 2}
                aria-selected={line.id === chosen}
              >
                {line.getVisibleCells().map((cell) => (
                  <td
                    key={cell.id}
                    className={(cell.column.columnDef.meta as CellMeta<T> | undefined)?.className?.(line.original)}
                  >
                    {flexRender(cell.column.columnDef.cell, cell.getContext())}
                  </td>
                ))}
              </tr>
            );
          })}
          <Gap height={below} columns={columns.length} />
          {lines.length === 0 && (
            <tr>
              <td colSpan={columns.length} className="text-ink-2">
                {empty}
              </td>
            </tr>
          )}
        </tbody>
      </table>
    </section>
  );
}

/** What a column may say of its cells besides what is in them. */
export interface CellMeta<T> {
  className?: (row: T) => string;
}

/** Room for the rows that are not drawn. */
function Gap({ height, columns }: { height: number; columns: number }) {
  return height > 0 ? (
    <tr>
      <td colSpan={columns} style={{ height, padding: 0, border: 0 }} />
    </tr>
  ) : null;
}
