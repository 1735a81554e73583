/** What the Read screen says about a read, without a view: fits with the print, windows, the sentence, the next step. */
import type { Card, Controller, DecisionNow, SiteFormat } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { type FitOf, fitsOf } from '@rawbits/core/codec';
import { type Failure, failureOf } from '@rawbits/core/failure';
import type { Format } from '@rawbits/core/format';
import {
  type Agreement,
  agreementOf,
  type PrintedNumber,
  printedNumbers,
  type Window,
  windowsOf,
} from '@rawbits/core/identify';
import type { PastedReading, TapeOrder } from '../../parts/inHand/slice.ts';

export interface FitRow extends FitOf<Format> {
  adopted: boolean;
  /** How the print comes out of this format: undefined when nothing is printed, null when it does not. */
  print: Agreement | null;
}

export interface ReadView {
  /** The formats of the library have not come yet: nothing is said of what fits. */
  isLoading: boolean;
  rows: FitRow[];
  /** How many formats of the library have this length. */
  ofLength: number;
  prints: PrintedNumber[];
  printFailure?: Failure;
  windows: Window[];
  moreWindows: number;
  chosen?: FitRow;
  sentence: string;
}

/** Where the bit that arrived at a position stands when the read is shown in an order. */
export function shownAt(order: TapeOrder, length: number): (arrival: number) => number {
  if (order === 'bits reversed') return (p) => length + 1 - p;
  if (order === 'bytes reversed') return (p) => length - 7 - ((p - 1) & ~7) + ((p - 1) & 7);
  return (p) => p;
}

export function inOrder(bits: Bits, order: TapeOrder): Bits {
  if (order === 'bits reversed') return bits.reverseBits();
  if (order === 'bytes reversed') return bits.reverseBytes();
  return order === 'inverted' ? bits.invert() : bits;
}

export function viewOf(
  binary: string,
  library: readonly SiteFormat[] | undefined,
  printed: string,
  chosenId: string | null,
): ReadView {
  const bits = Bits.fromBinary(binary);
  const formats = library ?? [];
  let prints: PrintedNumber[] = [];
  let printFailure: Failure | undefined;
  try {
    if (printed.trim() !== '') prints = printedNumbers(printed);
  } catch (error) {
    printFailure = failureOf(error);
  }
  const adopted = new Map(formats.map((f) => [f.format.id, f.adopted]));
  const rows = fitsOf(
    bits,
    formats.map((f) => f.format),
  ).map((fit) => ({
    ...fit,
    adopted: adopted.get(fit.format.id) ?? false,
    print: prints.length === 0 ? undefined : (agreementOf(fit.values, prints, fit.format) ?? null),
  }));
  rows.sort((a, b) => rank(a) - rank(b));
  const found = prints.map((print) => windowsOf(bits, print.number ?? print.value));
  return {
    isLoading: library === undefined,
    rows,
    ofLength: formats.filter((f) => f.format.bits === bits.length).length,
    prints,
    printFailure,
    windows: found.flatMap((f) => f.windows),
    moreWindows: found.reduce((sum, f) => sum + f.more, 0),
    chosen: rows.find((row) => row.format.id === chosenId) ?? rows[0],
    sentence: library ? sentenceFor(bits, rows, formats) : 'Loading …',
  };
}

export interface BorneOut {
  reading: PastedReading;
  rows: FitRow[];
}

/** The other readings of a pasted text that the print bears out, of any length, those with a format in use first. */
export function borneOut(
  readings: readonly PastedReading[],
  binary: string,
  formats: readonly SiteFormat[],
  printed: string,
): BorneOut[] {
  if (printed.trim() === '') return [];
  return readings
    .filter((reading, i) => reading.bits !== binary && readings.findIndex(({ bits }) => bits === reading.bits) === i)
    .map((reading) => ({
      reading,
      rows: viewOf(reading.bits, formats, printed, null).rows.filter((row) => row.fit === 'full' && row.print),
    }))
    .filter(({ rows }) => rows.length > 0)
    .sort((a, b) => Number(b.rows.some(({ adopted }) => adopted)) - Number(a.rows.some(({ adopted }) => adopted)));
}

/** Full before part; among full ones, what the print agrees with, then what the site has adopted. */
const rank = (row: FitRow): number => (row.fit === 'full' ? 0 : 100) + (row.print ? 0 : 10) + (row.adopted ? 0 : 1);

function sentenceFor(bits: Bits, rows: FitRow[], formats: readonly SiteFormat[]): string {
  const full = rows.filter((row) => row.fit === 'full');
  const agreeing = full.filter((row) => row.print);
  if (rows.length === 0) return nothingFits(bits, formats);
  if (full.length === 0)
    return 'No format fits in full: a bit was misread, the line is at fault, or the format is another.';
  if (full[0]!.print === undefined) {
    if (full.length === 1)
      return 'One format fits in full. What is printed on the card tells whether it is the right one.';
    return `${full.length} formats fit in full: each of them is possible. Type what is printed on the card.`;
  }
  if (agreeing.length === 0)
    return 'The print agrees with none of them: another format, another card, or a mistyped print.';
  if (agreeing.length === 1)
    return full.length === 1
      ? 'The print agrees. One card settles little: read a second, well apart in number.'
      : 'The print leaves one, for this card. One card settles little: read a second, well apart in number.';
  return `The print agrees with ${agreeing.length} of them: read a card with a greater number to part them.`;
}

function nothingFits(bits: Bits, formats: readonly SiteFormat[]): string {
  const inverted = fitsOf(
    bits.invert(),
    formats.map((f) => f.format),
  ).find((f) => f.fit === 'full' && f.parity.length > 0);
  if (inverted)
    return `Nothing fits as it is; inverted, it is ${inverted.format.name}. Are the two data wires swapped?`;
  if (formats.some((f) => f.format.bits === bits.length))
    return 'The length agrees with a format, but nothing else does.';
  const near = formats.find((f) => Math.abs(f.format.bits - bits.length) === 1);
  if (near)
    return `No format has ${bits.length} bits. ${near.format.bits} bits are known: was a bit lost or added on the line?`;
  return `No format in the library has ${bits.length} bits. Read more of these cards, with their prints, to find out.`;
}

/** What is known of the card in hand beyond its bits: on file under the format that is chosen. */
export type OnFile = Pick<Card, 'facility' | 'number' | 'holder'>;

/** The sentence about the fits; where one of several is in use here, or the card is on file under it, that is said first. */
export function verdictOf(
  { rows, chosen, sentence }: Pick<ReadView, 'rows' | 'chosen' | 'sentence'>,
  card?: OnFile,
): string {
  const full = rows.filter((row) => row.fit === 'full');
  if (full.length < 2 || full[0]!.print !== undefined || chosen?.fit !== 'full') return sentence;
  const inUse = full.filter((row) => row.adopted);
  const many = `${full.length} formats fit in full.`;
  const called =
    card && `${card.facility ? `${card.facility}/` : ''}${card.number}${card.holder ? `, ${card.holder.name}` : ''}`;
  if (card && chosen.adopted)
    return `${many} By ${chosen.format.name}, which is in use here, it is on file as ${called}. Check it against the print.`;
  if (inUse.length === 1)
    return `${many} One is in use here: ${inUse[0]!.format.name}. The print tells whether it is the right one.`;
  return sentence;
}

/** What the doors would do now, in a sentence a kind: `Now it opens Boat shed. It is refused at Gear store.` */
export function nowInWords(decisions: readonly DecisionNow[]): string {
  const doors = (outcome: DecisionNow['outcome']) => [
    ...new Set(decisions.flatMap((one) => (one.outcome === outcome ? [one.door.name] : []))),
  ];
  const [opened, refused] = [doors('opened'), doors('refused').filter((door) => !doors('opened').includes(door))];
  if (decisions.length === 0) return 'No door of this site has been loaded yet.';
  if (opened.length === 0)
    return `As the controllers are loaded now, ${refused.length === 1 ? `${refused[0]} refuses it` : `none of ${refused.length} doors opens`}.`;
  return `As the controllers are loaded now, it opens ${opened.join(', ')}${refused.length === 0 ? '' : `, and not ${refused.join(', ')}`}.`;
}

export type NextStep = { step: 'accept' | 'issue' | 'stock' | 'present' | 'none'; words: string };

/** The likely next step for the chosen fit: accept the format at a door, issue the card, or look it up; undefined is not known yet. */
export function nextStep(
  { chosen: row, rows }: Pick<ReadView, 'chosen' | 'rows'>,
  controllers: readonly Controller[] | undefined,
  onFile: boolean | undefined,
): NextStep {
  if (row?.fit === 'full' && controllers === undefined) return { step: 'none', words: 'Loading …' };
  if (row?.fit !== 'full' || controllers === undefined) return { step: 'none', words: '' };
  const accepting = controllers.filter((c) => c.wantedFormats.includes(row.format.id));
  const rivals = rows.filter((other) => other.fit === 'full' && (row.print ? other.print : true));
  if (accepting.length === 0 && rivals.length > 1)
    return { step: 'none', words: 'First type what is printed on the card: it tells the formats apart.' };
  if (accepting.length === 0)
    return { step: 'accept', words: 'No controller of this site is to accept this format yet.' };
  if (onFile === undefined) return { step: 'none', words: 'Loading …' };
  if (!onFile) return { step: 'issue', words: 'The card is not on file.' };
  return { step: 'stock', words: 'The card is on file.' };
}
