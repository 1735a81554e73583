/** Bit masks of a layout: for each value, parity and check, the bits that it takes. Design §4, settings sheets. */
import type { Bits } from '../bits/index.ts';
import { type Layout, labelOf } from './definition.ts';
import { maskOf } from './maskText.ts';
import { positionsOf } from './range.ts';

/**
 * One mask a value (under its label), a parity bit (`parity@26`: the bits that it covers) and a check (`check@33-40`:
 * the bits that it covers). Bit 1 of a mask is the first bit of the format's own order.
 */
export function masksOf(layout: Layout): Record<string, Bits> {
  const masks: Record<string, Bits> = {};
  for (const span of layout.spans) {
    const label = labelOf(span);
    if (label !== undefined) masks[label] = maskOf(positionsOf(span.at), layout.bits);
    else if (span.role === 'parity' || span.role === 'check')
      masks[`${span.role}@${span.at}`] = maskOf(positionsOf(span.covers), layout.bits);
  }
  return masks;
}
