/**
 * A strip: the numbers of a box in rows of a hundred, a cell a number, or a cell for several where there are many. What a cell
 * shows is the least that is known of its numbers.
 */
export type StripStanding = 'proven' | 'settled' | 'likely' | 'open';
export interface StripCard {
  number: string;
  standing: StripStanding;
  row?: number;
}

export interface StripCell {
  /** Indices of its cards, both ends included. */
  from: number;
  to: number;
  x: number;
  y: number;
  standing: StripStanding;
  isRead: boolean;
}

export interface StripGeometry {
  cells: StripCell[];
  cellWidth: number;
  rowHeight: number;
  /** The first number of each row, and where it stands. */
  rows: { number: string; y: number }[];
  width: number;
  height: number;
}

const PER_ROW = 100;
const MOST_ROWS = 2;
const LABEL = 92;
export const ROW_HEIGHT = 20;
const ORDER: StripStanding[] = ['open', 'likely', 'settled', 'proven'];

/** How many cards stand in a cell. */
export const cardsInCell = (count: number): number => Math.max(1, Math.ceil(count / (PER_ROW * MOST_ROWS)));

/** Fits a width in pixels; a cell has three at least. */
export function layOutStrip(cards: readonly StripCard[], width: number): StripGeometry {
  const each = cardsInCell(cards.length);
  const cellWidth = Math.max(3, Math.min(14, Math.floor((width - LABEL) / PER_ROW)));
  const count = Math.ceil(cards.length / each);
  const cells = Array.from({ length: count }, (_, i): StripCell => {
    const [from, to] = [i * each, Math.min(cards.length, (i + 1) * each) - 1];
    const own = cards.slice(from, to + 1);
    return {
      from,
      to,
      x: LABEL + (i % PER_ROW) * cellWidth,
      y: Math.floor(i / PER_ROW) * ROW_HEIGHT,
      standing: ORDER.find((standing) => own.some((card) => card.standing === standing))!,
      isRead: own.some((card) => card.row !== undefined),
    };
  });
  const rows = cells.flatMap(({ from, y }, i) => (i % PER_ROW === 0 ? [{ number: cards[from]!.number, y }] : []));
  return {
    cells,
    cellWidth,
    rowHeight: ROW_HEIGHT,
    rows,
    width: LABEL + Math.min(count, PER_ROW) * cellWidth + 1,
    height: rows.length * ROW_HEIGHT,
  };
}

/** The cell at a place; undefined beside them. */
export function cellAt({ cells, cellWidth }: StripGeometry, x: number, y: number): number | undefined {
  if (x < LABEL || y < 0) return undefined;
  const column = Math.floor((x - LABEL) / cellWidth);
  const index = Math.floor(y / ROW_HEIGHT) * PER_ROW + column;
  return column < PER_ROW && index < cells.length ? index : undefined;
}

/** Where a key leads from a cell: along the row, up and down a hundred, to either end. */
export function cellAfter(key: string, at: number, count: number): number | undefined {
  const by: Record<string, number> = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: PER_ROW, ArrowUp: -PER_ROW };
  if (key === 'Home') return 0;
  if (key === 'End') return count - 1;
  const step = by[key];
  if (step === undefined) return undefined;
  const next = at + step;
  return next < 0 || next >= count ? at : next;
}
