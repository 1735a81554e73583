/**
 * Structure: what a layout does to the bits as they arrive, whatever it is called and however it is written. Parity,
 * checks and fixed bits together are one affine space over GF(2); two layouts with the same space and the same values
 * at the same places are the same format.
 */
import { Gf2Space, leadingColumn } from '../bits/index.ts';
import { arrivalOf, checkWidth, isLinear, type Layout, labelOf, positionsOf, printMethod } from '../format/index.ts';
import { highestFirst, testEquations } from './compile.ts';

/** The equations that a full fit meets; the last column (the length of the format) is the constant. */
export function constraintsOf(layout: Layout): Gf2Space {
  const space = new Gf2Space(layout.bits + 1);
  for (const { mask, constant } of testEquations(layout)) {
    const row = new Uint32Array(space.words);
    row.set(mask);
    if (constant) row[layout.bits >>> 5]! ^= 0x80000000 >>> (layout.bits & 31);
    space.add(row);
  }
  return space;
}

/** Whether no string of bits can meet the equations: they ask for 0 = 1. */
export function isImpossible(space: Gf2Space): boolean {
  return space.reducedRows().some((row) => leadingColumn(row) === space.columns - 1);
}

/** A text that two layouts share exactly when they are the same format: the same values, the same tests. */
export function structureOf(layout: Layout): string {
  const fields = layout.spans.flatMap((span) => {
    const label = labelOf(span);
    if (label === undefined) return [];
    const at = positionsOf(span.at).map((p) => arrivalOf(p, layout));
    const written = ('written' in span && span.written) || 'binary';
    // Digits that stand lowest first are those that stand highest first at other places.
    const [places, how] = written === 'bcd-low' ? [highestFirst(at), 'bcd'] : [at, written];
    return [`${label} ${places.join(',')} ${how}${layout.arrives.invert ? ' inverted' : ''}`];
  });
  const tests = constraintsOf(layout)
    .reducedRows()
    .map((row) => [...row].map((word) => word.toString(16)).join('.'));
  const sums = sumsOf(layout).map(({ text }) => text);
  const facility = layout.facility === undefined ? '' : ` facility=${BigInt(layout.facility)}`;
  return `${layout.bits}${facility} | ${fields.sort().join(' | ')} | ${[...tests, ...sums.sort()].join(' ')}`;
}

/** Checks that are no equations, each as a text that the same check elsewhere has, too. */
function sumsOf(layout: Layout): { text: string; width: number }[] {
  return layout.spans.flatMap((span) => {
    if (span.role !== 'check' || isLinear(span.method)) return [];
    const places = (range: string) =>
      positionsOf(range)
        .map((p) => arrivalOf(p, layout))
        .join(',');
    const flip = layout.arrives.invert ? ' inverted' : '';
    const text = `${printMethod(span.method)} ${places(span.at)} of ${places(span.covers)}${flip}`;
    return [{ text, width: checkWidth(span.method) }];
  });
}

/** Of the cards of one format, how many a second one of the same length also takes, as a power of one half. */
export interface Shared {
  /** 0: all of them; k: one in 2^k; null: none. */
  fits: number | null;
  /** The same for those whose number both show alike; null also where one of them has no binary number. */
  sameNumber: number | null;
}

export interface SharedOptions {
  /** Facility codes are fixed to this one in the first format, as on one site. */
  facility?: bigint;
}

/** Exact where values are in binary and checks are no additive sums; decimal digits are counted as if every nibble were one, a sum as if it held by chance. */
export function sharedCards(mine: Layout, other: Layout, { facility }: SharedOptions = {}): Shared {
  if (mine.bits !== other.bits) return { fits: null, sameNumber: null };
  const own = constraintsOf(mine);
  const code = mine.spans.find((span) => span.role === 'facility');
  if (facility !== undefined && code && !('written' in code && code.written)) fixValue(own, mine, code.at, facility);
  if (isImpossible(own)) return { fits: null, sameNumber: null };
  const both = own.copy();
  for (const row of constraintsOf(other).reducedRows()) both.add(row);
  if (isImpossible(both)) return { fits: null, sameNumber: null };
  const known = new Set(sumsOf(mine).map(({ text }) => text));
  const sums = sumsOf(other).reduce((bits, { text, width }) => (known.has(text) ? bits : bits + width), 0);
  const fits = both.rank - own.rank + sums;
  const numbers = [mine, other].map((layout) => layout.spans.find((span) => span.role === 'number'));
  if (numbers.some((span) => !span || ('written' in span && span.written))) return { fits, sameNumber: null };
  const same = both.copy();
  const [a, b] = [mine, other].map((layout, i) => {
    const at = positionsOf(numbers[i]!.at).map((p) => arrivalOf(p, layout) - 1);
    return { bits: at.reverse(), flip: layout.arrives.invert ? 1 : 0 };
  }) as [{ bits: number[]; flip: number }, { bits: number[]; flip: number }];
  for (let k = 0; k < Math.max(a.bits.length, b.bits.length); k++) {
    const row = new Uint32Array(same.words);
    let constant = 0;
    for (const side of [a, b]) {
      const column = side.bits[k];
      if (column === undefined) continue;
      row[column >>> 5]! ^= 0x80000000 >>> (column & 31);
      constant ^= side.flip;
    }
    if (constant) row[mine.bits >>> 5]! ^= 0x80000000 >>> (mine.bits & 31);
    same.add(row);
  }
  return { fits, sameNumber: isImpossible(same) ? null : same.rank - own.rank + sums };
}

function fixValue(space: Gf2Space, layout: Layout, at: string, value: bigint): void {
  const positions = positionsOf(at);
  positions.forEach((p, i) => {
    const column = arrivalOf(p, layout) - 1;
    const row = new Uint32Array(space.words);
    row[column >>> 5]! ^= 0x80000000 >>> (column & 31);
    const bit = Number((value >> BigInt(positions.length - 1 - i)) & 1n) ^ (layout.arrives.invert ? 1 : 0);
    if (bit) row[layout.bits >>> 5]! ^= 0x80000000 >>> (layout.bits & 31);
    space.add(row);
  });
}
