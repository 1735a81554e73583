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
  parity: { at: number; holds: boolean }[];
  /** Checks, fixed bits and character parity, by their positions. */
  checks: { kind: 'check' | 'fixed' | 'characters' | 'digits'; at: string; holds: boolean }[];
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

/** What of a description is the same for every read: put into words once a layout. */
interface Words {
  /** The facility code that no bit carries, as a value. */
  facility: string | undefined;
  /** Parity tests in the order of their bits, and the others in the order of the layout. */
  parity: { test: number; at: number }[];
  checks: { test: number; kind: Decoded['checks'][number]['kind']; at: string }[];
  /** By test: what is wrong where it fails. */
  wrong: string[];
  /** By field: its place, and what is wrong where a digit is above 9. */
  digits: { at: string; wrong: string }[];
  tested: number;
  full: string;
  /** What was put into words already, by the set of tests that fail. */
  judged: Map<number, Judged>;
}

function wordsOf({ layout, fields, tests }: Compiled): Words {
  const spanOf = (index: number) => layout.spans[index]!;
  const tested = tests.length + fields.filter((field) => field.written === 'decimal digits').length;
  return {
    facility: layout.facility === undefined ? undefined : plain(layout.facility),
    parity: tests
      .flatMap(({ kind, span }, test) => (kind === 'parity' ? [{ test, at: positionsOf(spanOf(span).at)[0]! }] : []))
      .sort((a, b) => a.at - b.at),
    checks: tests.flatMap(({ kind, span }, test) => (kind === 'parity' ? [] : [{ test, kind, at: spanOf(span).at }])),
    wrong: tests.map(({ kind, span: index }) => {
      const span = spanOf(index);
      if (span.role === 'parity') return `parity bit ${span.at} (${span.sense} over ${span.covers}) fails`;
      if (kind === 'characters') return `a character of ${nameOf(span)} fails its parity`;
      return span.role === 'fixed' ? `bits ${span.at} are not ${span.bits}` : `the check at ${span.at} fails`;
    }),
    digits: fields.map(({ span }) => ({
      at: spanOf(span).at,
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
  const { compiled, evaluation, words } = compiledOf(layout);
  if (bits.length !== layout.bits) {
    const reason = `The read has ${bits.length} bits, the format ${layout.bits}.`;
    return { fit: 'none', reason, values: {}, parity: [], checks: [] };
  }
  evaluate(compiled, bits.words, evaluation);
  return describe(compiled, evaluation, words);
}

function describe({ fields }: Compiled, { limbs, failed }: Evaluation, words: Words): Decoded {
  const values: Record<string, string> = words.facility === undefined ? {} : { facility: words.facility };
  const checks: Decoded['checks'] = [];
  const digits: string[] = [];
  for (let i = 0; i < fields.length; i++) {
    const value = decimalOf(fields[i]!, limbs);
    if (value !== undefined) values[fields[i]!.label] = value;
    else {
      checks.push({ kind: 'digits', at: words.digits[i]!.at, holds: false });
      digits.push(words.digits[i]!.wrong);
    }
  }
  const parity: Decoded['parity'] = [];
  for (const { test, at } of words.parity) parity.push({ at, holds: failed[test] === 0 });
  for (const { test, kind, at } of words.checks) checks.push({ kind, at, holds: failed[test] === 0 });
  // Written out: to spread one object into another takes longer than all the rest.
  const { fit, reason } = judge(failed, digits, words);
  return { fit, reason, values, parity, checks };
}

/** Of more tests than these what fails is put into words each time. */
const MOST_REMEMBERED = 12;

interface Judged {
  fit: Fit;
  reason: string;
}

/** The same tests fail again and again: of few tests the words for each set of them are made once. */
function judge(failed: Evaluation['failed'], digits: readonly string[], words: Words): Judged {
  const count = words.wrong.length;
  if (count > MOST_REMEMBERED || digits.length > 0) return judged([...digits, ...failing(failed, words)], words);
  let set = 0;
  for (let i = 0; i < count; i++) if (failed[i] !== 0) set |= 1 << i;
  let known = words.judged.get(set);
  if (!known) words.judged.set(set, (known = judged(failing(failed, words), words)));
  return known;
}

const failing = (failed: Evaluation['failed'], { wrong }: Words): string[] => wrong.filter((_, i) => failed[i] !== 0);

function judged(wrong: readonly string[], { tested, full }: Words): Judged {
  if (wrong.length === 0) return { fit: 'full', reason: full };
  const words = wrong.join('; ');
  const reason = `${words[0]!.toUpperCase()}${words.slice(1)}.`;
  const nothingHolds = tested >= 2 && wrong.length >= tested;
  return nothingHolds ? { fit: 'none', reason: `Only the length agrees. ${reason}` } : { fit: 'part', reason };
}

const plain = (decimal: string): string => BigInt(decimal).toString();

/** The decimal value of a field, or undefined where a decimal digit is above 9. */
function decimalOf(field: Field, limbs: Uint32Array): string | undefined {
  if (field.limbs === 1 && field.written === 'binary') return String(limbs[field.firstLimb]);
  // Two words hold at most 53 bits here: exact as a number.
  if (field.limbs === 2 && field.written === 'binary' && limbs[field.firstLimb + 1]! < 0x200000)
    return String(limbs[field.firstLimb + 1]! * 0x1_0000_0000 + limbs[field.firstLimb]!);
  let hex = '';
  for (let k = field.limbs - 1; k >= 0; k--) hex += limbs[field.firstLimb + k]!.toString(16).padStart(8, '0');
  if (field.written === 'binary') return BigInt(`0x${hex}`).toString();
  return /[a-f]/.test(hex) ? undefined : plain(hex);
}
