/** The bits that a reader takes of a field’s bytes, and in which order they go over the line. */
import { z } from 'zod';
import { Bits } from '../../bits/index.ts';
import { hexOf } from '../../cipher/index.ts';
import { fail } from '../../failure/index.ts';
import type { Field, Placed } from '../fields/index.ts';

export const cutShape = {
  /** The first byte, counted from 0, and how many. */
  from: z.number().int().min(0).max(8191),
  length: z.number().int().min(1).max(64),
  /** How many bits of them, from the first or up to the last. */
  bits: z.number().int().min(1).max(512),
  align: z.enum(['left', 'right']),
  order: z.enum(['big', 'little']),
};
const cutSchema = z.object(cutShape);
export type Cut = z.output<typeof cutSchema>;

/** How a field is taken; all of its bits without `bits`. Throws `door-field` where it has not so many. */
export function cutOf({ field, from, to }: Placed, bits?: number): Cut {
  const length = to - from;
  const wanted = bits ?? 8 * length;
  if (wanted > 8 * length)
    fail('door-field', `"${field.name}" has ${8 * length} bits, and ${wanted} are to be taken.`, { field: 'bits' });
  const { content } = field;
  return {
    from,
    length,
    bits: wanted,
    align: content.is === 'bits' ? content.align : 'right',
    order: content.is === 'number' ? content.order : 'big',
  };
}

/** The bits of the field’s bytes, the first to go over the line first. */
export function cut(bytes: Uint8Array, { bits, align, order }: Pick<Cut, 'bits' | 'align' | 'order'>): Bits {
  const all = Bits.fromHex(hexOf(order === 'big' ? bytes : bytes.toReversed()), 8 * bytes.length);
  return align === 'left' ? all.slice(1, bits) : all.slice(all.length - bits + 1, all.length);
}

const MOST_BYTES = 64;
/** Whether a reader could take a credential from a field. */
export const holdsCredential = ({ content, length }: Field): boolean =>
  (content.is === 'bits' || (content.is === 'number' && content.as === 'binary')) && length <= MOST_BYTES;
