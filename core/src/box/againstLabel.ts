/**
 * A box held against its label: what a few of its cards say, and which to present next. A label that is wrong as a whole
 * shows at once: its cards have another code, another format, other numbers. What one card cannot show is a range that is
 * off (its ends do), another format that has this card alike (a card that parts the two does), and other cards mixed in
 * (only chance does: how likely is counted exactly).
 */
import type { Bits } from '../bits/index.ts';
import { decode, encode, fitsOf } from '../codec/index.ts';
import { RawBitsError } from '../failure/index.ts';
import type { Format } from '../format/index.ts';
import { type BoxLabel, codeOf, countOf, printOn, rangeOf } from './label.ts';

export interface Presented {
  bits: Bits;
  /** What is printed on it; empty or undefined where nobody typed it. */
  printed?: string;
}

export type Verdict =
  | { is: 'of the box'; number: string }
  /** Its print is another than the label's rule gives. */
  | { is: 'printed otherwise'; number: string; expected: string }
  | { is: 'outside the range'; number: string }
  | { is: 'another code'; facility: string; number: string }
  /** It has other values than the label says: an issue level, for one. */
  | { is: 'another value'; label: string; value: string; number: string }
  /** The formats that it fits in full instead, best first. */
  | { is: 'another format'; fits: { format: string; facility: string | null; number: string | null }[] };

/** A card to present next, and what it would show. */
export interface ToPresent {
  number: string;
  why: 'the first' | 'the last' | 'parts the formats';
  /** The formats that have all cards so far alike. */
  formats?: string[];
}

export interface AgainstLabel {
  verdicts: Verdict[];
  /** How many different cards of the box were presented, and agree. */
  agreeing: number;
  /** With so many others in the box, or more, one would have shown among those that agree with at least 95 % certainty. */
  wouldHaveShown: number | null;
  /** The cards after which a label that is wrong as a whole, or whose range is off, would have shown. */
  next: ToPresent[];
  /** Other formats that have every card of the box alike, of those that were looked at: the box cannot tell which it is of. */
  alike: string[];
}

const CERTAIN = 0.95;
/** So many cards of a box are looked at for one that parts two formats. */
const LOOKED_AT = 2048;

/** Holds the cards presented against a checked label. `formats` are those that they may be of instead. */
export function againstLabel(
  format: Format,
  label: BoxLabel,
  formats: readonly Format[],
  presented: readonly Presented[],
): AgainstLabel {
  const verdicts = presented.map((card) => verdictOn(format, label, formats, card));
  const seen = new Set(verdicts.flatMap((verdict) => (verdict.is === 'of the box' ? [verdict.number] : [])));
  const count = countOf(label);
  const isRight = verdicts.every(({ is }) => is === 'of the box');
  return {
    verdicts,
    agreeing: seen.size,
    wouldHaveShown: othersThatShow(count, seen.size),
    ...(isRight ? nextCards(format, label, formats, seen) : { next: [], alike: [] }),
  };
}

function verdictOn(format: Format, label: BoxLabel, formats: readonly Format[], { bits, printed }: Presented): Verdict {
  const { fit, values } = decode(bits, format);
  if (fit !== 'full' || values.number === undefined) {
    const others = fitsOf(
      bits,
      formats.filter(({ id }) => id !== format.id),
    );
    return {
      is: 'another format',
      fits: others
        .filter((other) => other.fit === 'full')
        .map((other) => ({
          format: other.format.id,
          facility: other.values.facility ?? null,
          number: other.values.number ?? null,
        })),
    };
  }
  const { number } = values;
  const code = codeOf(format, label);
  if (values.facility !== undefined && values.facility !== code)
    return { is: 'another code', facility: values.facility, number };
  for (const [name, value] of Object.entries(label.values))
    if (values[name] !== undefined && values[name] !== BigInt(value).toString())
      return { is: 'another value', label: name, value: values[name], number };
  const { from, to } = rangeOf(label);
  const n = BigInt(number);
  if (n < from || n > to) return { is: 'outside the range', number };
  const expected = printOn(format, label, n) || number;
  if (printed?.trim() && !samePrint(printed, expected)) return { is: 'printed otherwise', number, expected };
  return { is: 'of the box', number };
}

const bare = (print: string): string => print.replace(/[\s.,:/-]/g, '').replace(/^0+(?=.)/, '');
/** Whether two prints are one: zeros in front and what parts groups of digits make no other. */
export const samePrint = (a: string, b: string): boolean => bare(a) === bare(b);

/**
 * The least number of others among `count` cards of which `drawn` different ones would have shown at least one with 95 %:
 * drawing without putting back, the chance to miss all m of them is C(count − m, drawn) / C(count, drawn). Null where
 * nothing was drawn.
 */
export function othersThatShow(count: number, drawn: number): number | null {
  if (drawn === 0) return null;
  let missed = 1;
  for (let others = 1; others <= count; others++) {
    // C(count − m, drawn) from C(count − m + 1, drawn).
    missed *= Math.max(0, count - others + 1 - drawn) / (count - others + 1);
    if (missed <= 1 - CERTAIN + 1e-12) return others;
  }
  return count;
}

function nextCards(
  format: Format,
  label: BoxLabel,
  formats: readonly Format[],
  seen: ReadonlySet<string>,
): Pick<AgainstLabel, 'next' | 'alike'> {
  const { from, to } = rangeOf(label);
  const next: ToPresent[] = [];
  if (!seen.has(from.toString())) next.push({ number: from.toString(), why: 'the first' });
  if (to !== from && !seen.has(to.toString())) next.push({ number: to.toString(), why: 'the last' });
  const known = [...seen, ...next.map(({ number }) => number)].map(BigInt);
  let rivals = formats.filter((other) => other.id !== format.id && other.bits === format.bits);
  rivals = rivals.filter((rival) => known.every((number) => isAlike(format, rival, label, number)));
  while (rivals.length > 0) {
    const parting = partingNumber(format, rivals, label);
    if (parting === undefined) break;
    const parted = rivals.filter((rival) => !isAlike(format, rival, label, parting));
    next.push({ number: parting.toString(), why: 'parts the formats', formats: parted.map(({ id }) => id) });
    rivals = rivals.filter((rival) => !parted.includes(rival));
  }
  return { next, alike: rivals.map(({ id }) => id) };
}

/** Whether a card of the box would look the same under another format: it fits in full and has the same number. */
function isAlike(format: Format, rival: Format, label: BoxLabel, number: bigint): boolean {
  try {
    const values = { ...label.values, number: number.toString() };
    const carried = format.spans.some(({ role }) => role === 'facility');
    const bits = encode(format, { ...values, ...(carried && label.facility !== null && { facility: label.facility }) });
    const { fit, values: theirs } = decode(bits, rival);
    return fit === 'full' && theirs.number === number.toString();
  } catch (error) {
    if (error instanceof RawBitsError) return false;
    throw error;
  }
}

/** A card of the box that at least one of the rivals has otherwise; undefined where, of those looked at, none is. */
function partingNumber(format: Format, rivals: readonly Format[], label: BoxLabel): bigint | undefined {
  const { from } = rangeOf(label);
  const count = countOf(label);
  // Of many, every so manieth with an odd step: an even one would pass over half of what the low bits can be.
  const step = Math.floor(count / LOOKED_AT) | 1;
  for (let i = 0; i < count; i += step) {
    const number = from + BigInt(i);
    if (rivals.some((rival) => !isAlike(format, rival, label, number))) return number;
  }
  return undefined;
}
