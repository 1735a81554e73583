/** Decode: what a read says under a format, and how well it fits. */
import type { Bits } from '../bits/index.ts';
import { type Layout, nameOf, positionsOf } from '../format/index.ts';
import { type Compiled, compile, type Field } from './compile.ts';
import { Evaluation, evaluate } from './evaluate.ts';

/**
 * full: the length agrees and everything that can be tested holds. part: the length agrees and at least one test
 * fails, though not all of several. none: the length differs, or of two or more tests not one holds.
 */
export type Fit = 'full' | 'part' | 'none';

export interface Decoded {
  fit: Fit;
  /** Why, in words. */
  reason: string;
  /** Every value by its label, as a decimal number without leading zeros; empty when the length differs. */
  values: Record<string, string>;
  /** Shared by all reads of which the same tests fail, as `checks` are. */
  parity: readonly { at: number; holds: boolean }[];
  /** Checks, fixed bits and character parity, by their positions. */
  checks: readonly { kind: 'check' | 'fixed' | 'characters' | 'digits'; at: string; holds: boolean }[];
}

interface Entry {
  compiled: Compiled;
  evaluation: Evaluation;
  words: Words;
}
const compiledLayouts = new WeakMap<Layout, Entry>();

/** The compiled form of a layout object, kept as long as that object lives. Throws the layout's first error. */
export function compiledOf(layout: Layout): Entry {
  let entry = compiledLayouts.get(layout);
  if (!entry) {
    const compiled = compile(layout);
    entry = { compiled, evaluation: new Evaluation(compiled), words: wordsOf(compiled) };
    compiledLayouts.set(layout, entry);
  }
  return entry;
}

/** What is said of a test that holds, and of one that fails: the same for every read. */
type Told<T> = readonly [holds: T, fails: T];

/** A part of a sentence: where it begins it, and where another stands in front. */
interface Clause {
  first: string;
  next: string;
}
const clause = (text: string): Clause => ({ first: `${text[0]!.toUpperCase()}${text.slice(1)}`, next: `; ${text}` });

/** What of a description is the same for every read: put into words once a layout. */
interface Words {
  /** The facility code that no bit carries, as a value. */
  facility: string | undefined;
  /** Parity tests in the order of their bits, and the others in the order of the layout. */
  parity: { test: number; at: number; told: Told<Decoded['parity'][number]> }[];
  checks: { test: number; told: Told<Decoded['checks'][number]> }[];
  /** By test: what is wrong where it fails. */
  wrong: Clause[];
  /** By field: its place, and what is wrong where a digit is above 9. */
  digits: { told: Decoded['checks'][number]; wrong: Clause }[];
  tested: number;
  full: string;
  /** Of the read at hand: 1 for each field in which a decimal digit is above 9. */
  noDigit: Uint8Array;
  /** What was put into words already, by the set of tests that fail and of fields with such a digit. */
  judged: Map<number, Judged>;
}

/** All of a description but its values. */
type Judged = Omit<Decoded, 'values'>;

function wordsOf({ layout, fields, tests }: Compiled): Words {
  const spanOf = (index: number) => layout.spans[index]!;
  const tested = tests.length + fields.filter((field) => field.written === 'decimal digits').length;
  return {
    facility: layout.facility === undefined ? undefined : plain(layout.facility),
    parity: tests
      .flatMap(({ kind, span }, test) => {
        if (kind !== 'parity') return [];
        const at = positionsOf(spanOf(span).at)[0]!;
        return [
          {
            test,
            at,
            told: [
              { at, holds: true },
              { at, holds: false },
            ] as const,
          },
        ];
      })
      .sort((a, b) => a.at - b.at),
    checks: tests.flatMap(({ kind, span }, test) => {
      const { at } = spanOf(span);
      return kind === 'parity'
        ? []
        : [
            {
              test,
              told: [
                { kind, at, holds: true },
                { kind, at, holds: false },
              ] as const,
            },
          ];
    }),
    wrong: tests.map(({ kind, span: index }) => {
      const span = spanOf(index);
      if (span.role === 'parity') return clause(`parity bit ${span.at} (${span.sense} over ${span.covers}) fails`);
      if (kind === 'characters') return clause(`a character of ${nameOf(span)} fails its parity`);
      return clause(span.role === 'fixed' ? `bits ${span.at} are not ${span.bits}` : `the check at ${span.at} fails`);
    }),
    digits: fields.map(({ span }) => ({
      told: { kind: 'digits', at: spanOf(span).at, holds: false },
      wrong: clause(`${nameOf(spanOf(span))} holds a digit above 9`),
    })),
    tested,
    full:
      tested === 0
        ? 'The length agrees; nothing else in this format can be tested.'
        : tested === 1
          ? 'The length agrees and its one check holds.'
          : `The length agrees and all ${tested} checks hold.`,
    noDigit: new Uint8Array(fields.length),
    judged: new Map(),
  };
}

/** Decodes a read, as it arrived, under a layout. Throws when the layout itself has an error. */
export function decode(bits: Bits, layout: Layout): Decoded {
  const values: Record<string, string> = {};
  const { fit, reason, parity, checks } = decodeInto(values, bits, layout);
  return { fit, reason, values, parity, checks };
}

/** As `decode`, with the values put into an object; what is not of them is shared between reads, and not to be changed. */
export function decodeInto(values: Record<string, string>, bits: Bits, layout: Layout): Judged {
  const { compiled, evaluation, words } = compiledOf(layout);
  if (bits.length !== layout.bits) {
    const reason = `The read has ${bits.length} bits, the format ${layout.bits}.`;
    return { fit: 'none', reason, parity: [], checks: [] };
  }
  evaluate(compiled, bits.words, evaluation);
  if (words.facility !== undefined) values.facility = words.facility;
  const { fields } = compiled;
  const { noDigit } = words;
  for (let i = 0; i < fields.length; i++) {
    const value = decimalOf(fields[i]!, evaluation.limbs);
    if (value !== undefined) values[fields[i]!.label] = value;
    noDigit[i] = value === undefined ? 1 : 0;
  }
  return judge(evaluation.failed, words);
}

/** More tests and fields do not go into one number. */
const MOST_TESTS = 52;
/** Sets of failing tests that are remembered of one layout: reads that are none of it fail in ever new ways. */
const MOST_REMEMBERED = 4096;

/** The same tests fail again and again: what is to be said of each set of them is made once. */
function judge(failed: Evaluation['failed'], words: Words): Judged {
  const { noDigit } = words;
  if (failed.length + noDigit.length > MOST_TESTS) return judged(failed, words);
  let set = 0;
  for (let i = 0; i < failed.length; i++) set = set * 2 + failed[i]!;
  for (let i = 0; i < noDigit.length; i++) set = set * 2 + noDigit[i]!;
  let known = words.judged.get(set);
  if (known === undefined) {
    known = judged(failed, words);
    if (words.judged.size < MOST_REMEMBERED) words.judged.set(set, known);
  }
  return known;
}

function judged(failed: Evaluation['failed'], words: Words): Judged {
  const { tested, full } = words;
  const parity = words.parity.map(({ test, told }) => told[failed[test]!]!);
  const checks: Decoded['checks'][number][] = [];
  let [wrong, count] = ['', 0];
  for (let field = 0; field < words.noDigit.length; field++) {
    if (words.noDigit[field] === 0) continue;
    checks.push(words.digits[field]!.told);
    const { first, next } = words.digits[field]!.wrong;
    wrong += count++ === 0 ? first : next;
  }
  for (const { test, told } of words.checks) checks.push(told[failed[test]!]!);
  for (let test = 0; test < words.wrong.length; test++)
    if (failed[test] !== 0) wrong += count++ === 0 ? words.wrong[test]!.first : words.wrong[test]!.next;
  if (count === 0) return { fit: 'full', reason: full, parity, checks };
  const reason = `${wrong}.`;
  const nothingHolds = tested >= 2 && count >= tested;
  return nothingHolds
    ? { fit: 'none', reason: `Only the length agrees. ${reason}`, parity, checks }
    : { fit: 'part', reason, parity, checks };
}

const plain = (decimal: string): string => BigInt(decimal).toString();

/** The decimal value of a field, or undefined where a decimal digit is above 9. */
function decimalOf({ firstLimb, limbs: count, written }: Field, limbs: Uint32Array): string | undefined {
  const low = limbs[firstLimb]!;
  if (written === 'binary') {
    if (count === 1) return String(low);
    if (count === 2) return decimalOf64(limbs[firstLimb + 1]!, low);
    return BigInt(`0x${hexOf(limbs, firstLimb, count)}`).toString();
  }
  for (let k = firstLimb; k < firstLimb + count; k++) if (hasLetter(limbs[k]!)) return undefined;
  return count === 1 ? low.toString(16) : hexOf(limbs, firstLimb, count).replace(/^0+(?=.)/, '');
}

/** Whether one of eight hex digits is above 9: its 8 with its 4 or its 2. */
const hasLetter = (limb: number): boolean => ((limb >>> 3) & ((limb >>> 2) | (limb >>> 1)) & 0x11111111) !== 0;

const BILLION = 1_000_000_000;

/**
 * The decimal of 64 bits without a big integer. 2^32 is 4 billion and 294,967,296, and 2^48 is 281,474 billion and
 * 976,710,656: the rest, of all three parts, stays below 2^47, and so exact.
 */
function decimalOf64(high: number, low: number): string {
  if (high < 0x200000) return String(high * 0x1_0000_0000 + low);
  const [top, middle] = [high >>> 16, high & 0xffff];
  const rest = top * 976_710_656 + middle * 294_967_296 + low;
  const billions = top * 281_474 + middle * 4 + Math.floor(rest / BILLION);
  return String(billions) + String(rest % BILLION).padStart(9, '0');
}

function hexOf(limbs: Uint32Array, firstLimb: number, count: number): string {
  let hex = '';
  for (let k = count - 1; k >= 0; k--) hex += limbs[firstLimb + k]!.toString(16).padStart(8, '0');
  return hex;
}
