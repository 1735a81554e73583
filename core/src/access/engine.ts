/**
 * The one engine that decides what a controller does with a read: at the door, in a dry run, and for what would be after
 * a load. Formats are compiled once; a card is looked up by its number, never sought. It finds no words: `decide.ts` does.
 */
import { type Compiled, compile, Evaluation, evaluate } from '../codec/index.ts';
import { type Format, isSound } from '../format/index.ts';
import type { Credential } from './credential.ts';
import { type Key, keyOf, type Lookup, type OnFile } from './onFile.ts';

/** The steps of a decision in their order; a refusal names the one at which it stopped. */
export const STEPS = ['length', 'checks', 'number', 'facility', 'state', 'dates', 'group', 'schedule'] as const;
export type Step = (typeof STEPS)[number];

interface Entry {
  format: Format;
  compiled: Compiled;
  evaluation: Evaluation;
  number: FieldReader | undefined;
  facility: FieldReader | undefined;
  /** The facility code that no bit carries. */
  constant: Key;
}

/** What a read says under one format: the number and the facility code that a card would be on file under. */
export interface Meaning {
  format: string;
  number: number | string;
  facility: Key;
}

type FieldReader = (limbs: Uint32Array) => Key;

const NUMBER = STEPS.indexOf('number');
const FACILITY = STEPS.indexOf('facility');
const STATE = STEPS.indexOf('state');
const DATES = STEPS.indexOf('dates');
const GROUP = STEPS.indexOf('group');
const SCHEDULE = STEPS.indexOf('schedule');
const CHECKS = STEPS.indexOf('checks');
const LENGTH = STEPS.indexOf('length');
/** Past every step. */
export const OPENED = STEPS.length;

/** Whether the access groups of a card let it through where it is held to; nobody asks after them without. */
export type Passes = (card: Credential) => 'passes' | 'group' | 'schedule';

export class Engine {
  /** What became of the last read: the step at which it stopped, or OPENED. */
  step = LENGTH;
  /** The format that decided, where one fits in full. */
  entry: Entry | undefined;
  number: Key;
  facility: Key;
  /** The card that it was decided on, or came nearest to. */
  card: OnFile | undefined;
  private readonly byLength = new Map<number, Entry[]>();

  /** `comparesFacility`: whether the facility code has to agree as well as the number. */
  constructor(
    readonly formats: readonly Format[],
    private readonly comparesFacility: boolean,
  ) {
    for (const format of formats.filter(isSound)) {
      const entries = this.byLength.get(format.bits) ?? [];
      entries.push(entryOf(format));
      this.byLength.set(format.bits, entries);
    }
    // As `fitsOf` does: the format with more to test first; sorting keeps the order of equals.
    for (const entries of this.byLength.values())
      entries.sort((a, b) => b.compiled.tests.length - a.compiled.tests.length);
  }

  /** The sound formats of a length. */
  ofLength(bits: number): Format[] {
    return (this.byLength.get(bits) ?? []).map(({ format }) => format);
  }

  /** The numbers that the formats cut out of a read that fits them in full, as decimals: what could be on file for it. */
  numbersOf(words: Uint32Array, length: number): string[] {
    const numbers = new Set<string>();
    for (const entry of this.byLength.get(length) ?? []) {
      if (!fitsInFull(entry, words)) continue;
      const number = entry.number?.(entry.evaluation.limbs);
      if (number !== undefined) numbers.add(String(number));
    }
    return [...numbers];
  }

  /**
   * What a read of this length says under each format that it fits in full, as far as a card can be on file under it:
   * formats that cut out the same number and the same code say the same and stand here once. In the order in which they
   * decide; costs nothing where one format has the length.
   */
  meanings(words: Uint32Array, length: number): Meaning[] {
    const entries = this.byLength.get(length) ?? [];
    if (entries.length < 2) return [];
    const found: Meaning[] = [];
    for (const entry of entries) {
      if (!fitsInFull(entry, words)) continue;
      const number = entry.number?.(entry.evaluation.limbs);
      const facility = entry.facility ? entry.facility(entry.evaluation.limbs) : entry.constant;
      if (number === undefined || found.some((other) => other.number === number && other.facility === facility))
        continue;
      found.push({ format: entry.format.id, number, facility });
    }
    return found;
  }

  /** Of the cards on file under a meaning's number, those that this engine would take for it. */
  cardsOf({ number, facility }: Meaning, onFile: Lookup): OnFile[] {
    return (onFile(number) ?? []).filter((card) => !this.comparesFacility || card.facility === facility);
  }

  /** The formats of a length, as one text: two engines with the same text cut the same values out. */
  formatsOfLength(bits: number): string {
    return JSON.stringify(this.ofLength(bits));
  }

  /**
   * Decides on a read at an instant (milliseconds since 1970), with what `onFile` finds under a number; what came of it
   * stands in the fields until the next. Costs the formats of that length and the cards of that number, however many
   * others there are.
   */
  decide(words: Uint32Array, length: number, atMs: number, onFile: Lookup, passes?: Passes): void {
    this.entry = undefined;
    this.number = undefined;
    this.facility = undefined;
    this.card = undefined;
    const entries = this.byLength.get(length);
    if (!entries) {
      this.step = LENGTH;
      return;
    }
    this.step = CHECKS;
    for (const entry of entries) {
      if (fitsInFull(entry, words) && this.decideUnder(entry, atMs, onFile, passes)) return;
    }
  }

  /** Whether the read opens under a format that fits it; notes the furthest step of those that do not. */
  private decideUnder(entry: Entry, atMs: number, onFile: Lookup, passes: Passes | undefined): boolean {
    const { limbs } = entry.evaluation;
    const number = entry.number?.(limbs);
    const facility = entry.facility ? entry.facility(limbs) : entry.constant;
    let step = NUMBER;
    let card: OnFile | undefined;
    const same = number === undefined ? undefined : onFile(number);
    if (same && same.length > 0) {
      step = FACILITY;
      card = same[0];
      // Of several cards that match, the one that comes furthest.
      for (const candidate of same) {
        if (this.comparesFacility && candidate.facility !== facility) continue;
        const itsStep = stepOf(candidate, atMs, passes);
        if (itsStep <= step) continue;
        step = itsStep;
        card = candidate;
        if (step === OPENED) break;
      }
    }
    if (this.entry === undefined || step > this.step) {
      this.step = step;
      this.entry = entry;
      this.number = number;
      this.facility = facility;
      this.card = card;
    }
    return step === OPENED;
  }
}

/** How far a card comes that is on file under what was read. */
function stepOf({ active, fromMs, toMs, credential }: OnFile, atMs: number, passes: Passes | undefined): number {
  if (!active) return STATE;
  if (atMs < fromMs || atMs >= toMs) return DATES;
  const standing = passes?.(credential) ?? 'passes';
  return standing === 'passes' ? OPENED : standing === 'group' ? GROUP : SCHEDULE;
}

function fitsInFull(entry: Entry, words: Uint32Array): boolean {
  evaluate(entry.compiled, words, entry.evaluation);
  return entry.evaluation.failures === 0 && digitsHold(entry);
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

/** Whether two engines cut the same values out of the read that both last decided on. */
export function sameValues(a: Engine, b: Engine): boolean {
  if (a.entry === undefined || b.entry === undefined) return a.entry === b.entry;
  if (a.number !== b.number || a.facility !== b.facility) return false;
  // A facility code may be carried by bits or belong to the format: it is the value that counts, not where it comes from.
  const [one, other] = [a, b].map(({ entry }) =>
    entry!.compiled.fields.filter(({ label }) => label !== 'number' && label !== 'facility'),
  ) as [Compiled['fields'], Compiled['fields']];
  if (one.length !== other.length) return false;
  for (const field of one) {
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
