/**
 * One side of a dry run: what a controller with one image does with a read. It decides exactly as `access/decide`
 * does, but keeps its workings compiled and finds no words, so that a million reads can be worked through.
 */
import { type ControllerImage, type Credential, STEPS } from '../access/index.ts';
import { type Compiled, compile, Evaluation, evaluate } from '../codec/index.ts';
import { type Format, isSound } from '../format/index.ts';

/** A value as a key: a number while it is exact, else its decimal digits. */
type Key = number | string | undefined;

interface Entry {
  format: Format;
  compiled: Compiled;
  evaluation: Evaluation;
  number: FieldReader | undefined;
  facility: FieldReader | undefined;
  /** The facility code that no bit carries. */
  constant: Key;
}

type FieldReader = (limbs: Uint32Array) => Key;

interface OnFile {
  id: string;
  facility: Key;
  active: boolean;
  fromMs: number;
  toMs: number;
}

const NUMBER = STEPS.indexOf('number');
const FACILITY = STEPS.indexOf('facility');
const STATE = STEPS.indexOf('state');
const DATES = STEPS.indexOf('dates');
const CHECKS = STEPS.indexOf('checks');
const LENGTH = STEPS.indexOf('length');
/** Past every step. */
export const OPENED = STEPS.length;

export class Side {
  /** What became of the last read: the step at which it stopped, or OPENED. */
  step = LENGTH;
  /** The format that decided, where one fits in full. */
  entry: Entry | undefined;
  number: Key;
  facility: Key;
  cardId: string | undefined;
  private readonly byLength = new Map<number, Entry[]>();
  private readonly onFile: Map<Key, OnFile[]>;
  private readonly comparesFacility: boolean;

  constructor(
    readonly image: ControllerImage,
    private readonly atMs: number,
  ) {
    for (const format of image.formats.filter(isSound)) {
      const entries = this.byLength.get(format.bits) ?? [];
      entries.push(entryOf(format));
      this.byLength.set(format.bits, entries);
    }
    // As `fitsOf` does: the format with more to test first; sorting keeps the order of equals.
    for (const entries of this.byLength.values())
      entries.sort((a, b) => b.compiled.tests.length - a.compiled.tests.length);
    this.onFile = indexOf(image.credentials);
    this.comparesFacility = image.comparesFacility;
  }

  /** The formats of a length, as one text: two sides with the same text cut the same values out. */
  formatsOfLength(bits: number): string {
    return JSON.stringify((this.byLength.get(bits) ?? []).map(({ format }) => format));
  }

  /** Decides on a read; what came of it stands in the fields until the next. */
  decide(words: Uint32Array, length: number): void {
    this.entry = undefined;
    this.number = undefined;
    this.facility = undefined;
    this.cardId = undefined;
    const entries = this.byLength.get(length);
    if (!entries) {
      this.step = LENGTH;
      return;
    }
    this.step = CHECKS;
    for (const entry of entries) {
      evaluate(entry.compiled, words, entry.evaluation);
      if (entry.evaluation.failures > 0 || !digitsHold(entry)) continue;
      if (this.decideUnder(entry)) return;
    }
  }

  /** Whether the read opens under a format that fits it; notes the furthest step of those that do not. */
  private decideUnder(entry: Entry): boolean {
    const { limbs } = entry.evaluation;
    const number = entry.number?.(limbs);
    const facility = entry.facility ? entry.facility(limbs) : entry.constant;
    let step = NUMBER;
    let card: OnFile | undefined;
    const same = number === undefined ? undefined : this.onFile.get(number);
    if (same) {
      step = FACILITY;
      card = same[0];
      let matching: OnFile | undefined;
      for (const candidate of same) {
        if (this.comparesFacility && candidate.facility !== facility) continue;
        matching ??= candidate;
        if (candidate.active) {
          matching = candidate;
          break;
        }
      }
      if (matching) {
        card = matching;
        if (!matching.active) step = STATE;
        else step = this.atMs < matching.fromMs || this.atMs >= matching.toMs ? DATES : OPENED;
      }
    }
    if (this.entry === undefined || step > this.step) {
      this.step = step;
      this.entry = entry;
      this.number = number;
      this.facility = facility;
      this.cardId = card?.id;
    }
    return step === OPENED;
  }
}

function entryOf(format: Format): Entry {
  const compiled = compile(format);
  const reader = (label: string): FieldReader | undefined => {
    const field = compiled.fields.find((f) => f.label === label);
    return field && readerOf(field);
  };
  return {
    format,
    compiled,
    evaluation: new Evaluation(compiled),
    number: reader('number'),
    facility: reader('facility'),
    constant: format.facility === undefined ? undefined : keyOf(BigInt(format.facility).toString()),
  };
}

function readerOf({ firstLimb, limbs: count, written }: Compiled['fields'][number]): FieldReader {
  if (written === 'decimal digits') return (limbs) => keyOf(BigInt(`0x${hexOf(limbs, firstLimb, count)}`).toString(16));
  if (count === 1) return (limbs) => limbs[firstLimb]!;
  return (limbs) => {
    const [low, high] = [limbs[firstLimb]!, limbs[firstLimb + 1]!];
    let rest = 0;
    for (let k = 2; k < count; k++) rest |= limbs[firstLimb + k]!;
    if (rest === 0 && high < 0x200000) return high * 0x100000000 + low;
    return BigInt(`0x${hexOf(limbs, firstLimb, count)}`).toString();
  };
}

function hexOf(limbs: Uint32Array, firstLimb: number, count: number): string {
  let text = '';
  for (let k = count - 1; k >= 0; k--) text += limbs[firstLimb + k]!.toString(16).padStart(8, '0');
  return text;
}

/** Whether every decimal digit of a read is at most 9. */
function digitsHold({ compiled, evaluation }: Entry): boolean {
  for (const field of compiled.fields) {
    if (field.written !== 'decimal digits') continue;
    if (/[a-f]/.test(hexOf(evaluation.limbs, field.firstLimb, field.limbs))) return false;
  }
  return true;
}

/** A decimal as a key, where it is written as a decoded value would be; other spellings match nothing, as at the door. */
function keyOf(decimal: string): Key {
  if (!/^(0|[1-9]\d*)$/.test(decimal)) return undefined;
  return decimal.length <= 15 || BigInt(decimal) < 1n << 53n ? Number(decimal) : decimal;
}

function indexOf(credentials: readonly Credential[]): Map<Key, OnFile[]> {
  const index = new Map<Key, OnFile[]>();
  for (const { id, number, facility, state, validFrom, validTo } of credentials) {
    const key = keyOf(number);
    if (key === undefined) continue;
    const list = index.get(key) ?? [];
    list.push({
      id,
      facility: facility === null ? undefined : (keyOf(facility) ?? 'no code'),
      active: state === 'active',
      fromMs: validFrom ? Date.parse(validFrom) : Number.NEGATIVE_INFINITY,
      toMs: validTo ? Date.parse(validTo) : Number.POSITIVE_INFINITY,
    });
    index.set(key, list);
  }
  return index;
}

/** Whether two sides cut the same values out of the read that both last decided on. */
export function sameValues(a: Side, b: Side): boolean {
  if (a.entry === undefined || b.entry === undefined) return a.entry === b.entry;
  if (a.number !== b.number || a.facility !== b.facility) return false;
  const [one, other] = [a.entry.compiled.fields, b.entry.compiled.fields];
  if (one.length !== other.length) return false;
  for (const field of one) {
    if (field.label === 'number' || field.label === 'facility') continue;
    const twin = other.find((f) => f.label === field.label);
    if (!twin || twin.written !== field.written) return false;
    for (let k = 0; k < Math.max(field.limbs, twin.limbs); k++) {
      const left = k < field.limbs ? a.entry.evaluation.limbs[field.firstLimb + k] : 0;
      const right = k < twin.limbs ? b.entry.evaluation.limbs[twin.firstLimb + k] : 0;
      if (left !== right) return false;
    }
  }
  return true;
}
