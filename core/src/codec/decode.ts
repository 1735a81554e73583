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

const compiledLayouts = new WeakMap<Layout, { compiled: Compiled; evaluation: Evaluation }>();

/** The compiled form of a layout object, kept as long as that object lives. Throws the layout's first error. */
export function compiledOf(layout: Layout): { compiled: Compiled; evaluation: Evaluation } {
  let entry = compiledLayouts.get(layout);
  if (!entry) {
    const compiled = compile(layout);
    entry = { compiled, evaluation: new Evaluation(compiled) };
    compiledLayouts.set(layout, entry);
  }
  return entry;
}

/** Decodes a read, as it arrived, under a layout. Throws when the layout itself has an error. */
export function decode(bits: Bits, layout: Layout): Decoded {
  const { compiled, evaluation } = compiledOf(layout);
  if (bits.length !== layout.bits) {
    const reason = `The read has ${bits.length} bits, the format ${layout.bits}.`;
    return { fit: 'none', reason, values: {}, parity: [], checks: [] };
  }
  evaluate(compiled, bits.words, evaluation);
  return describe(compiled, evaluation);
}

function describe(compiled: Compiled, evaluation: Evaluation): Decoded {
  const { layout, fields, tests } = compiled;
  const values: Record<string, string> = layout.facility === undefined ? {} : { facility: plain(layout.facility) };
  const parity: Decoded['parity'] = [];
  const checks: Decoded['checks'] = [];
  const wrong: string[] = [];
  for (const field of fields) {
    const value = decimalOf(field, evaluation.limbs);
    if (value !== undefined) values[field.label] = value;
    else {
      const span = layout.spans[field.span]!;
      checks.push({ kind: 'digits', at: span.at, holds: false });
      wrong.push(`${nameOf(span)} holds a digit above 9`);
    }
  }
  tests.forEach((test, i) => {
    const span = layout.spans[test.span]!;
    const holds = evaluation.failed[i] === 0;
    if (test.kind === 'parity') parity.push({ at: positionsOf(span.at)[0]!, holds });
    else checks.push({ kind: test.kind, at: span.at, holds });
    if (holds) return;
    if (span.role === 'parity') wrong.push(`parity bit ${span.at} (${span.sense} over ${span.covers}) fails`);
    else if (test.kind === 'characters') wrong.push(`a character of ${nameOf(span)} fails its parity`);
    else if (span.role === 'fixed') wrong.push(`bits ${span.at} are not ${span.bits}`);
    else wrong.push(`the check at ${span.at} fails`);
  });
  parity.sort((a, b) => a.at - b.at);
  const tested = tests.length + fields.filter((field) => field.written === 'decimal digits').length;
  return { ...judge(wrong, tested), values, parity, checks };
}

function judge(wrong: string[], tests: number): { fit: Fit; reason: string } {
  if (wrong.length === 0) {
    if (tests === 0) return { fit: 'full', reason: 'The length agrees; nothing else in this format can be tested.' };
    return {
      fit: 'full',
      reason:
        tests === 1 ? 'The length agrees and its one check holds.' : `The length agrees and all ${tests} checks hold.`,
    };
  }
  const words = wrong.join('; ');
  const reason = `${words[0]!.toUpperCase()}${words.slice(1)}.`;
  const nothingHolds = tests >= 2 && wrong.length >= tests;
  return nothingHolds ? { fit: 'none', reason: `Only the length agrees. ${reason}` } : { fit: 'part', reason };
}

const plain = (decimal: string): string => BigInt(decimal).toString();

/** The decimal value of a field, or undefined where a decimal digit is above 9. */
function decimalOf(field: Field, limbs: Uint32Array): string | undefined {
  if (field.limbs === 1 && field.written === 'binary') return String(limbs[field.firstLimb]);
  let hex = '';
  for (let k = field.limbs - 1; k >= 0; k--) hex += limbs[field.firstLimb + k]!.toString(16).padStart(8, '0');
  if (field.written === 'binary') return BigInt(`0x${hex}`).toString();
  return /[a-f]/.test(hex) ? undefined : plain(hex);
}
