/** Fits: one read under many formats, best first. */
import type { Bits } from '../bits/index.ts';
import { type Format, isSound } from '../format/index.ts';
import { type Decoded, decodeInto, type Fit } from './decode.ts';

export interface FitOf<F extends Format = Format> extends Decoded {
  format: F;
}

const RANK: Record<Fit, number> = { full: 0, part: 1, none: 2 };

/**
 * A read under every format given, full fits first, then part fits; within each, the format with more to test first,
 * as more could have spoken against it. Formats that do not fit come last, or not at all unless `all`. A format whose
 * layout has an error (an older file or version may) can say nothing and is left out.
 */
export function fitsOf<F extends Format>(bits: Bits, formats: readonly F[], all = false): FitOf<F>[] {
  const fits: FitOf<F>[] = [];
  for (const format of formats) {
    if (!isSound(format)) continue;
    const values: Record<string, string> = {};
    const { fit, reason, parity, checks } = decodeInto(values, bits, format);
    if (all || fit !== 'none') fits.push({ format, fit, reason, values, parity, checks });
  }
  return fits.length < 2 ? fits : fits.sort((a, b) => RANK[a.fit] - RANK[b.fit] || tested(b) - tested(a));
}

const tested = (fit: Decoded): number => fit.parity.length + fit.checks.length;
