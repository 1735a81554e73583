/**
 * A card that is known by its whole string alone: as long as nobody knows which bits are what, all of them together are its
 * number. Such a format says nothing of a read but its length, so any other that a read fits in full comes before it.
 */
import type { Layout } from './definition.ts';
import { positionsOf } from './range.ts';

/** The layout line of whole strings of a length, 1 to 512 bits. */
export const wholeLayout = (bits: number): string => `${bits} | 1-${bits} number`;

/** Whether a layout takes its reads whole, as they arrive. */
export function isWhole({ bits, spans, arrives }: Layout): boolean {
  const [only] = spans;
  if (spans.length !== 1 || only?.role !== 'number' || ('written' in only && only.written)) return false;
  if (arrives.reverseBytes || arrives.reverseBits || arrives.invert) return false;
  const at = positionsOf(only.at);
  return at.length === bits && at.every((position, i) => position === i + 1);
}
