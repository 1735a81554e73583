/** The tie-breaker: which card to read next, what it would settle, and how many more at most until all is proven. */
import { rangeOf } from '../format/index.ts';
import { type Analysis, keyOf, numbered } from './analysis.ts';
import { changingBits, roleInWords, rolesOf } from './claims.ts';
import type { TieBreaker } from './finding.ts';
import { printOf, saidBy } from './predict.ts';

export interface Range {
  from: bigint;
  to: bigint;
}

export interface TieBreakerOptions {
  /** The numbers that there are to choose from; else any in the range, else any that the layouts can hold. */
  atHand?: readonly string[];
  range?: Range;
}

const bitLength = (value: bigint): number => (value === 0n ? 1 : value.toString(2).length);

/** The widest number that the layouts that agree can hold; one more bit than seen where none agrees. */
function widest({ hypotheses, main, width }: Analysis): number {
  const widths = hypotheses.map((h) => {
    const roles = [...rolesOf(h.layout).values()];
    return roles.filter((role) => role.is === 'number').length;
  });
  return Math.max(width, ...widths, main && widths.length === 0 ? width + 1 : 1);
}

export function tieBreaker(analysis: Analysis, options: TieBreakerOptions = {}): TieBreaker | null {
  const { main } = analysis;
  if (!main?.hull.consistent || numbered(main.reading).length === 0) return null;
  // What is looked for here is numbers; where prints show a part of them alone, no card is found by its number.
  if (main.reading.kind === 'the last digits only') return null;
  // Where the numbers of the box are known, those are what there is to prove.
  const wmax = options.range ? Math.max(analysis.width, bitLength(options.range.to)) : widest(analysis);
  const rankWanted = Math.max(main.hull.width, wmax) + 1;
  const atMost = Math.max(0, rankWanted - main.hull.rank) + (main.hull.checks === 0 ? 1 : 0);
  const range = options.range ?? { from: 0n, to: (1n << BigInt(wmax)) - 1n };
  const candidates = candidatesOf(analysis, options.atHand, range, wmax);
  let best: { text: string; score: number; parted: string[][] } | undefined;
  for (const text of candidates) {
    const scored = scoreOf(analysis, text);
    if (scored && (!best || scored.score > best.score)) best = { text, ...scored };
  }
  if (!best || best.score <= 0) return atMost === 0 ? null : anyOther(analysis, range, atMost);
  const number = printOf(best.text).plain;
  const settles = settledBits(analysis, best.text);
  const span = options.atHand ? { from: number, to: number } : sameEffect(analysis, number, range, best.parted);
  return {
    printed: best.text,
    from: span.from.toString(),
    to: span.to.toString(),
    settles,
    words: words(analysis, number, span, range, settles, best.parted.length > 1),
    atMost,
  };
}

/** Numbers worth trying: each seen number with one bit turned, and the first number past each power of two. */
function candidatesOf(analysis: Analysis, atHand: readonly string[] | undefined, range: Range, wmax: number): string[] {
  if (atHand) return atHand.filter((text) => seen(analysis).every((n) => n !== tryNumber(text)));
  const numbers = seen(analysis);
  const inRange = (n: bigint) => n >= range.from && n <= range.to;
  const all = new Set<bigint>();
  for (let k = 0; k < wmax; k++) {
    for (const n of numbers.slice(0, 3)) all.add(n ^ (1n << BigInt(k)));
    all.add((1n << BigInt(k)) + (numbers[0]! & ((1n << BigInt(k)) - 1n)));
  }
  all.add(range.from);
  all.add(range.to);
  return [...all].filter((n) => inRange(n) && !numbers.includes(n)).map(String);
}

function tryNumber(text: string): bigint | undefined {
  try {
    return printOf(text).plain;
  } catch {
    return undefined;
  }
}

const seen = ({ main }: Analysis): bigint[] => [
  ...new Set(main!.reading.numbers.flatMap((n) => (n === undefined ? [] : [n]))),
];

/** Parting layouts counts most, then a new dimension, then number bits that never changed yet. */
function scoreOf(analysis: Analysis, text: string): { score: number; parted: string[][] } | undefined {
  const number = tryNumber(text);
  if (number === undefined) return undefined;
  const said = saidBy(analysis, text);
  const parts = new Map<string, string[]>();
  said.forEach((bits, i) => {
    const key = bits ?? 'no such card';
    parts.set(key, [...(parts.get(key) ?? []), analysis.hypotheses[i]!.line]);
  });
  const { main, facilities, width } = analysis;
  const inside = numbered(main!.reading);
  const facility = facilities[inside[0]!];
  const known = inside.every((i) => facilities[i] !== undefined);
  const fresh = number >> BigInt(width) !== 0n || !main!.hull.has(keyOf(number, known ? facility : undefined, width));
  const changing = changingBits(analysis);
  let unseen = 0;
  for (let k = 0; number >> BigInt(k) !== 0n; k++) if ((number >> BigInt(k)) & 1n && !changing.includes(k)) unseen++;
  const settles = fresh ? 100 - Math.min(unseen > 1 ? unseen : 0, 50) + (unseen > 0 ? 20 : 0) : 0;
  return { score: Math.max(0, parts.size - 1) * 1000 + settles, parted: [...parts.values()] };
}

/** Positions whose role is open now and that the layouts, parted by this number, would tell. */
function settledBits(analysis: Analysis, text: string): number[] {
  const said = saidBy(analysis, text);
  const groups = new Map<string, number[]>();
  said.forEach((bits, i) => {
    const key = bits ?? '-';
    groups.set(key, [...(groups.get(key) ?? []), i]);
  });
  if (groups.size < 2) return [];
  const roles = analysis.hypotheses.map((h) => rolesOf(h.layout));
  const settled: number[] = [];
  for (let p = 1; p <= analysis.length; p++) {
    const all = new Set(roles.map((r) => roleInWords(r.get(p))));
    if (all.size > 1) settled.push(p);
  }
  return settled;
}

/** All numbers around one that part the layouts as it does: from a power of two on, where size alone parts them. */
function sameEffect(analysis: Analysis, number: bigint, range: Range, parted: readonly string[][]): Range {
  if (number < 2n) return { from: number, to: number };
  const top = BigInt(bitLength(number) - 1);
  const whole = { from: max(1n << top, range.from), to: min((1n << (top + 1n)) - 1n, range.to) };
  const key = (n: bigint) => JSON.stringify(scoreOf(analysis, n.toString())?.parted);
  const wanted = JSON.stringify(parted);
  const same = [whole.from, whole.to, (whole.from + whole.to) / 2n].every((n) => key(n) === wanted);
  return same && parted.length > 1 ? whole : { from: number, to: number };
}
const max = (a: bigint, b: bigint) => (a > b ? a : b);
const min = (a: bigint, b: bigint) => (a < b ? a : b);

function words(
  analysis: Analysis,
  number: bigint,
  span: Range,
  range: Range,
  settles: readonly number[],
  parts: boolean,
): string {
  const subject =
    span.from === span.to
      ? `Card ${number}`
      : span.to >= range.to
        ? `Any card above ${(span.from - 1n).toLocaleString('en')}`
        : `Any card from ${span.from.toLocaleString('en')} to ${span.to.toLocaleString('en')}`;
  if (parts && settles.length > 0) {
    const roles = analysis.hypotheses.map((h) => rolesOf(h.layout));
    const kinds = [...new Set(settles.flatMap((p) => roles.map((r) => r.get(p)?.is ?? 'spare')))];
    const bits = settles.length === 1 ? `bit ${settles[0]}` : `bits ${rangeOf(settles)}`;
    return `${subject}: tells whether ${bits} ${settles.length === 1 ? 'belongs' : 'belong'} to the ${kinds.map(fieldName).join(' or to the ')}.`;
  }
  const near = seen(analysis).find((n) => isPower(n ^ number));
  if (near === undefined) return `${subject}: is no sum of the cards read, so it settles more of the number.`;
  const k = bitLength(near ^ number) - 1;
  return `${subject}: with card ${near} it shows what number bit ${k} does alone.`;
}

const isPower = (value: bigint): boolean => value > 0n && (value & (value - 1n)) === 0n;

const fieldName = (is: string): string =>
  is === 'facility'
    ? 'facility code'
    : is === 'parity' || is === 'check'
      ? 'checks'
      : is === 'fixed'
        ? 'fixed bits'
        : is;

/** Everything is settled but nothing tests it: any other card of the range is a check. */
function anyOther(analysis: Analysis, range: Range, atMost: number): TieBreaker {
  const numbers = seen(analysis);
  let number = range.from;
  while (numbers.includes(number) && number < range.to) number++;
  return {
    printed: number.toString(),
    from: range.from.toString(),
    to: range.to.toString(),
    settles: [],
    words:
      analysis.main!.hull.checks === 0
        ? 'Any other card: it gives the first check, which would show a mistyped or swapped print.'
        : 'Any other card: it is one more check.',
    atMost,
  };
}
