/**
 * Hypotheses: layouts that agree with every specimen. Those of the library first; then structures put together from
 * where the number stands, what never changes, and what parity bits usually cover. They are presumptions: the simplest
 * that agree, with how much evidence stands against chance.
 */
import type { Bits } from '../bits/index.ts';
import { decode } from '../codec/index.ts';
import {
  checkWidth,
  type Format,
  isSound,
  type Layout,
  positionsOf,
  printLayoutLine,
  rangeOf,
  type Span,
} from '../format/index.ts';
import { type Column, isFull, isZero, varies } from './cards/columns.ts';
import type { NumberPlace } from './cards/places.ts';
import { checksAmong } from './family/index.ts';
import { type ParityFit, parityFits } from './patterns.ts';

export interface Hypothesis {
  layout: Layout;
  line: string;
  /** The library's format, or undefined for a structure put together. */
  format?: Format;
  /** How unusual it is; less is simpler. */
  cost: number;
  /** Tests that could have failed, in bits: by chance it would agree once in 2^evidence. */
  evidence: number;
  /** The facility code that all specimens have under it, where they have one. */
  facility?: string;
}

export interface Known {
  format: Format;
  fits: number;
  /** Indices of the specimens that do not fit, each with why. */
  misfits: { index: number; reason: string }[];
}

interface Cards {
  reads: readonly Bits[];
  /** The number of each, and its facility code where it is known. */
  numbers: readonly (bigint | undefined)[];
  facilities: readonly (bigint | undefined)[];
}

/** How every library format of the length does, those that fit most first. */
export function knownFormats(cards: Cards, library: readonly Format[]): Known[] {
  return library
    .filter((format) => format.bits === cards.reads[0]!.length)
    .map((format) => {
      const misfits = cards.reads.flatMap((bits, index) => {
        const reason = misfit(bits, cards.numbers[index], cards.facilities[index], format);
        return reason ? [{ index, reason }] : [];
      });
      return { format, misfits, fits: cards.reads.length - misfits.length };
    })
    .filter(({ fits }) => fits > 0)
    .sort((a, b) => b.fits - a.fits || b.format.spans.length - a.format.spans.length);
}

function misfit(
  bits: Bits,
  number: bigint | undefined,
  facility: bigint | undefined,
  layout: Layout,
): string | undefined {
  const { fit, reason, values } = decode(bits, layout);
  if (fit !== 'full') return reason;
  if (number !== undefined && values.number !== undefined && BigInt(values.number) !== number)
    return `It shows number ${values.number}, not ${number}.`;
  if (facility !== undefined && values.facility !== undefined && BigInt(values.facility) !== facility)
    return `It shows facility code ${values.facility}, not ${facility}.`;
  return undefined;
}

/** The facility code that every read has under a layout; null where they differ. */
function facilityOf(reads: readonly Bits[], layout: Layout): string | undefined | null {
  const codes = new Set(reads.map((bits) => decode(bits, layout).values.facility));
  return codes.size === 1 ? [...codes][0] : null;
}

/** Evidence of a layout: each parity bit or check that could have failed counts for every specimen beyond the first. */
function evidenceOf(layout: Layout, reads: readonly Bits[], numberBits: number): number {
  const distinct = new Set(reads.map((bits) => bits.toBinary())).size;
  const tests = layout.spans.filter((span) => span.role === 'parity').length;
  const checkBits = layout.spans.reduce((sum, s) => sum + (s.role === 'check' ? checkWidth(s.method) : 0), 0);
  return (distinct - 1) * (tests + checkBits) + numberBits;
}

/** Library formats that fit every specimen, with one facility code (or the codes that are known), as hypotheses. */
export function libraryHypotheses(known: readonly Known[], cards: Cards): Hypothesis[] {
  return known
    .filter(({ misfits, format }) => misfits.length === 0 && format.spans.some((s) => s.role === 'number'))
    .flatMap(({ format }) => {
      const facility = facilityOf(cards.reads, format);
      if (facility === null && cards.facilities.every((f) => f === undefined)) return [];
      const bits = cards.numbers.reduce((sum, n) => sum + (n === undefined ? 0 : n.toString(2).length), 0);
      return [
        {
          layout: format,
          line: printLayoutLine(format),
          format,
          cost: 0,
          evidence: evidenceOf(format, cards.reads, bits),
          ...(facility != null && { facility }),
        },
      ];
    });
}

/** Fewer cards than these agree with too many checks by chance. */
const LEAST_FOR_CHECK = 3;

type CheckSpan = Extract<Span, { role: 'check' }>;

/** Checks that change among the reads and that all of them have, wherever they stand, the least unusual first. */
function checksIn(reads: readonly Bits[], inverted: boolean): CheckSpan[] {
  const known = knownChecks.get(reads) ?? new Map<boolean, CheckSpan[]>();
  knownChecks.set(reads, known);
  if (!known.has(inverted)) known.set(inverted, searchedChecks(reads, inverted));
  return known.get(inverted)!;
}
const knownChecks = new WeakMap<readonly Bits[], Map<boolean, CheckSpan[]>>();

function searchedChecks(reads: readonly Bits[], inverted: boolean): CheckSpan[] {
  const distinct = [...new Map(reads.map((bits) => [bits.toBinary(), bits])).values()];
  if (distinct.length < LEAST_FOR_CHECK) return [];
  const { length } = distinct[0]!;
  const changes = (p: number) => distinct.some((bits) => bits.at(p) !== distinct[0]!.at(p));
  const before = [0];
  for (let p = 1; p <= length; p++) before.push(before.at(-1)! + (changes(p) ? 1 : 0));
  const isWanted = (first: number, last: number) => before[last + 1]! > before[first]!;
  return checksAmong(distinct, { isWanted, inverted, most: MOST_CHECKS })
    .found.filter(({ at, width }) => isWanted(at, at + width - 1))
    .sort((a, b) => a.bits - b.bits)
    .slice(0, MOST_TRIED)
    .map(({ at, width, first, last, method }) => ({
      role: 'check',
      at: `${at + 1}-${at + width}`,
      method,
      covers: `${first + 1}-${last + 1}`,
    }));
}
const MOST_CHECKS = 100;
const MOST_TRIED = 6;

const PLAIN_WIDTHS = [16, 20, 19, 24, 32];

/** Structures put together from a place of the number. Empty where some bit that changes is left unexplained. */
export function structures(cards: Cards, columns: readonly Column[], place: NumberPlace, bcd: boolean): Hypothesis[] {
  const count = cards.reads.length;
  const widths = new Set([
    place.bits,
    ...PLAIN_WIDTHS.filter((w) => w > place.bits && w <= place.bits + place.zeros.length),
    place.bits + place.zeros.length,
  ]);
  return [...widths].flatMap((width) => {
    if (bcd && width % 4 !== 0) return [];
    const facilityCode = cards.facilities[0];
    const made = (checks: readonly CheckSpan[]) => {
      const layout = layoutFrom(columns, count, place, width, bcd, facilityCode, checks);
      return layout && isSound(layout.layout) ? [layout] : [];
    };
    const [layout] = simplestOf(made, () => checksIn(cards.reads, place.inverted));
    if (!layout) return [];
    const facility = facilityOf(cards.reads, layout.layout);
    if (facility === null) return [];
    const bits = cards.numbers.reduce((sum, n) => sum + (n === undefined ? 0 : n.toString(2).length), 0);
    const usual = width === 16 ? 0 : width % 8 === 0 ? 0.25 : PLAIN_WIDTHS.includes(width) ? 0.5 : 1;
    return [
      {
        layout: layout.layout,
        line: printLayoutLine(layout.layout),
        cost: 10 + layout.cost + usual,
        evidence: evidenceOf(layout.layout, cards.reads, bits),
        ...(facility !== undefined && { facility }),
      },
    ];
  });
}

/** Without a check, else with one, else with two. */
function simplestOf<T extends { cost: number }>(
  made: (checks: readonly CheckSpan[]) => T[],
  checks: () => readonly CheckSpan[],
): T[] {
  const plain = made([]);
  if (plain.length > 0) return plain;
  const all = checks();
  const one = all.flatMap((check) => made([check]));
  const found = one.length > 0 ? one : all.flatMap((a, i) => all.slice(i + 1).flatMap((b) => made([a, b])));
  return found.sort((a, b) => a.cost - b.cost);
}

function layoutFrom(
  columns: readonly Column[],
  count: number,
  place: NumberPlace,
  width: number,
  bcd: boolean,
  given: bigint | undefined,
  checks: readonly CheckSpan[],
): { layout: Layout; cost: number } | undefined {
  const length = columns.length;
  const numberAt = [...place.positions, ...place.zeros.slice(0, width - place.bits)].slice(0, width).reverse();
  const number: Span = { role: 'number', at: rangeOf(numberAt), ...(bcd && { written: 'bcd' as const }) };
  const taken = new Set(numberAt);
  const spans: Span[] = [number];
  let cost = 0;
  const parity: ParityFit[] = [];
  const takeParity = (fit: ParityFit) => {
    parity.push(fit);
    taken.add(fit.at);
    cost += 0.5 + fit.cover.cost;
  };
  for (const check of checks) {
    const at = positionsOf(check.at);
    if (at.some((p) => taken.has(p))) return undefined;
    for (const p of at) taken.add(p);
    spans.push(check);
    cost += 1;
  }
  const fields = [rangeOf(numberAt)];
  for (let p = 1; p <= length; p++) {
    if (taken.has(p) || !varies(columns[p - 1]!, count)) continue;
    const fit = parityFits(columns, count, p, fields).find((f) => f.tested);
    if (!fit) return undefined;
    takeParity(fit);
  }
  // Where one end is the parity of its half, the other end most likely is, too, even if it never changed.
  const ends = [1, length].filter((p) => parity.some((f) => f.at === p && f.cover.cost === 0));
  const other = ends.length === 1 ? (ends[0] === 1 ? length : 1) : undefined;
  if (other !== undefined && !taken.has(other)) {
    const fit = parityFits(columns, count, other, []).find((f) => f.cover.cost === 0);
    if (fit) takeParity(fit);
  }
  const facility = facilityRun(columns, count, taken, numberAt, place, given);
  if (facility) {
    spans.push({ role: 'facility', at: rangeOf(facility) });
    for (const p of facility) taken.add(p);
  }
  const rest = Array.from({ length }, (_, i) => i + 1).filter((p) => !taken.has(p));
  for (const range of rest.length > 0 ? rangeOf(rest).split(',') : []) {
    const [from, to = from] = range.split('-').map(Number) as [number, number?];
    const bits = Array.from({ length: to! - from + 1 }, (_, i) =>
      constantOf(columns[from + i - 1]!, place.inverted),
    ).join('');
    spans.push({ role: 'fixed', at: range, bits });
    cost += 0.5;
  }
  for (const { at, sense, cover } of parity)
    spans.push({
      role: 'parity',
      at: String(at),
      sense: place.inverted && cover.positions.length % 2 === 0 ? (sense === 'even' ? 'odd' : 'even') : sense,
      covers: cover.text,
    });
  const first = (span: Span) => Number(/\d+/.exec(span.at)![0]);
  spans.sort((a, b) => first(a) - first(b));
  const arrives = { reverseBytes: false, reverseBits: false, invert: place.inverted };
  return { layout: { bits: length, spans, arrives }, cost };
}

const constantOf = (column: Column, inverted: boolean): '0' | '1' => (isZero(column) === inverted ? '1' : '0');

/** Bits that never changed and stand before the number, or the longest run of such: most likely the facility code. */
function facilityRun(
  columns: readonly Column[],
  count: number,
  taken: ReadonlySet<number>,
  numberAt: readonly number[],
  place: NumberPlace,
  given: bigint | undefined,
): number[] | undefined {
  const constant = (p: number) =>
    p >= 1 && p <= columns.length && !taken.has(p) && (isZero(columns[p - 1]!) || isFull(columns[p - 1]!, count));
  const runs: number[][] = [];
  for (let p = 1; p <= columns.length; p++) {
    if (!constant(p)) continue;
    const last = runs.at(-1);
    if (last && last.at(-1) === p - 1) last.push(p);
    else runs.push([p]);
  }
  const holds = (run: number[]) =>
    given === undefined ||
    BigInt(`0b${run.map((p) => constantOf(columns[p - 1]!, place.inverted)).join('')}`) === given;
  const lowest = Math.min(...numberAt);
  const before = runs.find((run) => run.at(-1) === lowest - 1);
  if (before && holds(before)) return before;
  return [...runs].sort((a, b) => b.length - a.length).find((run) => run.length >= 4 && holds(run));
}
