/** What a layout tests a read for, as parts of the flat program that `evaluate` runs. */
import { arrivalOf, type Layout, positionsOf, type Span } from '../format/index.ts';

/** The exclusive or of the bits that `mask` picks (left-justified words) must be `constant`. */
export interface Equation {
  mask: Uint32Array;
  constant: 0 | 1;
}

/** Opcodes of `testCode`. */
export const COMPARE = 0;
export const PARITY = 1;
export const SUM = 2;
export const NEAR = 3;
export const SIDE_BY_SIDE = 4;
/** What follows SUM: which sum it is. */
export const SUMS = { plain: 0, negated: 1, mod10: 2 } as const;

/** COMPARE, the number of words, then for each: word, mask, what the masked word must be. */
export function compareCode(equations: Equation[]): number[] {
  const words = new Map<number, { mask: number; wanted: number }>();
  for (const { mask, constant } of equations) {
    const word = mask.findIndex((bits) => bits !== 0);
    const entry = words.get(word) ?? { mask: 0, wanted: 0 };
    entry.mask |= mask[word]!;
    if (constant) entry.wanted |= mask[word]!;
    words.set(word, entry);
  }
  return [COMPARE, words.size, ...[...words].flatMap(([word, { mask, wanted }]) => [word, mask, wanted])];
}

/**
 * PARITY, the number of equations, then for each: its constant, the number of its words, and word, mask for each. Where none
 * has more than two words, NEAR instead, and for each equation: its constant, and two times word, mask.
 */
export function parityCode(equations: Equation[]): number[] {
  const termsOf = ({ mask }: Equation) =>
    [...mask.keys()].filter((word) => mask[word] !== 0).map((word) => [word, mask[word]! | 0]);
  const isNear = equations.every((one) => termsOf(one).length <= 2);
  const code = [isNear ? NEAR : PARITY, equations.length];
  for (const one of equations) {
    const terms = termsOf(one);
    if (isNear) code.push(one.constant, ...[terms[0] ?? [0, 0], terms[1] ?? [0, 0]].flat());
    else code.push(one.constant, terms.length, ...terms.flat());
  }
  return code;
}

/**
 * SIDE_BY_SIDE, the number of chunks, then for each: the word in which it begins and the one after it, how far in it begins, the length of
 * a group less 1, which bits of the chunk begin a group, and those of them whose group has to be odd. Undefined where the equations are not groups of
 * one length, each beside the one before, as characters with their parity are.
 */
export function sideBySideCode(equations: Equation[]): number[] | undefined {
  const starts: number[] = [];
  let length = 0;
  for (const { mask } of equations) {
    const at = placesIn(mask);
    const isRun = at.length > 0 && at.at(-1)! - at[0]! === at.length - 1;
    if (!isRun || (length > 0 && at.length !== length)) return undefined;
    length = at.length;
    starts.push(at[0]!);
  }
  const byPlace = equations
    .map(({ constant }, i) => ({ constant, start: starts[i]! }))
    .sort((a, b) => a.start - b.start);
  const isAdjacent = byPlace.every(({ start }, i) => i === 0 || start === byPlace[i - 1]!.start + length);
  if (equations.length < 2 || length > 16 || !isAdjacent) return undefined;
  const words = equations[0]!.mask.length;
  const each = Math.floor(32 / length);
  const code: number[] = [];
  for (let i = 0; i < byPlace.length; i += each) {
    const groups = byPlace.slice(i, i + each);
    const word = groups[0]!.start >>> 5;
    const bits = (of: typeof groups) =>
      of.reduce((sum, { start }) => sum | (0x80000000 >>> (start - groups[0]!.start)), 0);
    const odd = groups.filter(({ constant }) => constant === 1);
    code.push(word, Math.min(word + 1, words - 1), groups[0]!.start & 31, length - 1, bits(groups), bits(odd));
  }
  return [SIDE_BY_SIDE, code.length / 6, ...code];
}

/** The places, from 0, of the bits that a mask of words picks. */
const placesIn = (mask: Uint32Array): number[] =>
  Array.from({ length: mask.length * 32 }, (_, i) => i).filter((i) => mask[i >>> 5]! & (0x80000000 >>> (i & 31)));

/** SUM, which one, its width, 1 where the bits arrive inverted, how many bits it covers, and the places (from 0) of those and of its own. */
export function sumCode(span: Extract<Span, { role: 'check' }>, at: number[], layout: Layout): number[] {
  const { method } = span;
  const which = method.kind === 'mod10' ? 'mod10' : method.kind === 'sum' && method.negated ? 'negated' : 'plain';
  const places = [...positionsOf(span.covers), ...at].map((p) => arrivalOf(p, layout) - 1);
  return [SUM, SUMS[which], at.length, layout.arrives.invert ? 1 : 0, places.length - at.length, ...places];
}
