/** Where the bits of a format stand in a read, as `arrives` says. */
import type { Layout } from './definition.ts';

/**
 * The place (1-based) at which a bit of the format's own order arrives. Reversing bytes and bits are each their own
 * inverse and their order does not matter.
 */
export function arrivalOf(position: number, layout: Pick<Layout, 'bits' | 'arrives'>): number {
  let i = position - 1;
  if (layout.arrives.reverseBytes) i = layout.bits - 8 - (i - (i & 7)) + (i & 7);
  if (layout.arrives.reverseBits) i = layout.bits - 1 - i;
  return i + 1;
}
