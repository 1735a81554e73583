/** About how many formats the family has. */
import { covers, coversOf } from './covers.ts';

/** How many places a number of a width has: in one piece, in three orders, or in two; inverted or not. */
function placesOf(length: number, width: number): number {
  const [once, spare] = [length - width + 1, length - width];
  const onePiece = once * (1 + (width > 1 ? 1 : 0) + (width > 8 ? 1 : 0));
  // A cut, an order of the two pieces, and how the free positions lie before, between (at least one) and after them; the low
  // piece directly after the high one is one piece.
  const apart = (spare * (spare + 1)) / 2;
  return 2 * (onePiece + (width - 1) * (2 * apart + once));
}

/**
 * About how many members the family has before any card is read, as a power of ten: for each place of the number, every position
 * outside is a constant, or parity in either sense over any cover, in which each of the four ends is a constant or parity itself.
 */
export function sizeOf(length: number, widths: readonly number[]): string {
  const key = `${length} ${widths.join()}`;
  let size = known.get(key);
  if (size === undefined) {
    size = counted(length, widths);
    if (known.size < MOST_KNOWN) known.set(key, size);
  }
  return size;
}
/** It goes by these numbers alone, and a case asks the same again and again. */
const known = new Map<string, string>();
const MOST_KNOWN = 1000;

function counted(length: number, widths: readonly number[]): string {
  const all = coversOf(length);
  const ends = [...new Set([0, 1, length - 2, length - 1])];
  let parities = 0;
  for (let i = 0; i < all.count; i++) parities += (1 + all.count) ** ends.filter((end) => covers(all, i, end)).length;
  const each = Math.log10(2 * (1 + parities));
  const logs = widths.map((width) => Math.log10(placesOf(length, width)) + (length - width) * each);
  const most = Math.max(...logs);
  const log = most + Math.log10(logs.reduce((sum, one) => sum + 10 ** (one - most), 0));
  const power = Math.floor(log);
  return `${(10 ** (log - power)).toFixed(1)}e${power}`;
}
