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

/** What of a description is the same for every read: put into words once a layout. */
interface Words {
  /** The facility code that no bit carries, as a value. */
  facility: string | undefined;
  /** Parity tests in the order of their bits, and the others in the order of the layout. */
  parity: { test: number; at: number; told: Told<Decoded['parity'][number]> }[];
  checks: { test: number; told: Told<Decoded['checks'][number]> }[];
  /** By test: what is wrong where it fails. */
  wrong: string[];
  /** By field: its place, and what is wrong where a digit is above 9. */
  digits: { told: Decoded['checks'][number]; wrong: string }[];
  tested: number;
  full: string;
  /** What was put into words already, by the set of tests that fail. */
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
      if (span.role === 'parity') return `parity bit ${span.at} (${span.sense} over ${span.covers}) fails`;
      if (kind === 'characters') return `a character of ${nameOf(span)} fails its parity`;
      return span.role === 'fixed' ? `bits ${span.at} are not ${span.bits}` : `the check at ${span.at} fails`;
    }),
    digits: fields.map(({ span }) => ({
      told: { kind: 'digits', at: spanOf(span).at, holds: false },
      wrong: `${nameOf(spanOf(span))} holds a digit above 9`,
    })),
    tested,
    full:
      tested === 0
        ? 'The length agrees; nothing else in this format can be tested.'
        : tested === 1
          ? 'The length agrees and its one check holds.'
          : `The length agrees and all ${tested} checks hold.`,
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
  let noDigits: number[] | undefined;
  for (let i = 0; i < fields.length; i++) {
    const value = decimalOf(fields[i]!, evaluation.limbs);
    if (value !== undefined) values[fields[i]!.label] = value;
    else (noDigits ??= []).push(i);
  }
  return noDigits ? judged(evaluation.failed, noDigits, words) : judge(evaluation.failed, words);
}

/** More tests do not go into one number. */
const MOST_TESTS = 30;
/** Sets of failing tests that are remembered of one layout: reads that are none of it fail in ever new ways. */
const MOST_REMEMBERED = 4096;
const NONE: readonly number[] = [];

/** The same tests fail again and again: what is to be said of each set of them is made once. */
function judge(failed: Evaluation['failed'], words: Words): Judged {
  const count = words.wrong.length;
  if (count > MOST_TESTS) return judged(failed, NONE, words);
  let set = 0;
  for (let i = 0; i < count; i++) set = set * 2 + failed[i]!;
  let known = words.judged.get(set);
  if (known === undefined) {
    known = judged(failed, NONE, words);
    if (words.judged.size < MOST_REMEMBERED) words.judged.set(set, known);
  }
  return known;
}

/** `noDigits`: the fields in which a decimal digit is above 9. */
function judged(failed: Evaluation['failed'], noDigits: readonly number[], words: Words): Judged {
  const { tested, full } = words;
  const parity = words.parity.map(({ test, told }) => told[failed[test]!]!);
  const checks: Decoded['checks'][number][] = [];
  let [wrong, count] = ['', 0];
  for (const field of noDigits) {
    checks.push(words.digits[field]!.told);
    wrong += count++ === 0 ? words.digits[field]!.wrong : `; ${words.digits[field]!.wrong}`;
  }
  for (const { test, told } of words.checks) checks.push(told[failed[test]!]!);
  for (let test = 0; test < words.wrong.length; test++)
    if (failed[test] !== 0) wrong += count++ === 0 ? words.wrong[test]! : `; ${words.wrong[test]!}`;
  if (count === 0) return { fit: 'full', reason: full, parity, checks };
  const reason = `${wrong[0]!.toUpperCase()}${wrong.slice(1)}.`;
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
  const digits = count === 1 ? low.toString(16) : hexOf(limbs, firstLimb, count).replace(/^0+(?=.)/, '');
  return NO_DIGIT.test(digits) ? undefined : digits;
}

const NO_DIGIT = /[a-f]/;
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
