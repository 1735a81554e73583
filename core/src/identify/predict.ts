/** Predictions: the exact bits of a card not read yet, and how far the specimens settle them. */
import type { Bits } from '../bits/index.ts';
import { encode } from '../codec/index.ts';
import { labelOf } from '../format/index.ts';
import { type Analysis, keyOf, numbered, type Read } from './analysis.ts';
import { valueAt } from './cards/places.ts';
import { printedNumbers } from './cards/print.ts';
import { type PrintValue, printValue, readingInWords } from './cards/readings.ts';
import { checkInWords } from './family/index.ts';
import type { PredictionFinding } from './finding.ts';
import type { Hypothesis } from './hypotheses.ts';

/** A typed number as a print; throws what a print is refused for. */
export const printOf = (text: string): PrintValue => printValue({ text, numbers: printedNumbers(text) });

/** The facility code that all specimens have, where it is known; a print that names one must agree with it. */
function facilityFor({ main, facilities }: Analysis, print: PrintValue): bigint | undefined | null {
  const inside = numbered(main!.reading);
  if (!inside.every((i) => facilities[i] !== undefined)) return undefined;
  if (print.facility !== undefined) return print.facility;
  const codes = new Set(inside.map((i) => facilities[i]!));
  if (main!.reading.kind === 'facility and number joined in one decimal' && print.decimal !== undefined)
    return print.decimal / 100_000n;
  return codes.size === 1 ? [...codes][0]! : null;
}

/** `layouts`: whether the layouts that fit are asked where the cards do not add up to it. */
export function predict(analysis: Analysis, print: PrintValue, { layouts = true } = {}): PredictionFinding {
  const { main } = analysis;
  const { text } = print;
  const open = (why: string): PredictionFinding => ({
    printed: text,
    bits: null,
    standing: 'open',
    odds: null,
    rival: null,
    checks: 0,
    why,
  });
  if (!main) return open('No specimen has a print yet.');
  const number = main.reading.numberOf(print);
  if (number === undefined)
    return open(`Under this reading (${readingInWords(main.reading)}) the print does not tell the number.`);
  if (!main.hull.consistent) return open('The specimens do not agree with one another: look at the suspects first.');
  const facility = facilityFor(analysis, print);
  if (facility === null) return open('The specimens have several facility codes: type the code with the number.');
  const exact = main.hull.predict(keyOf(number, facility, analysis.width));
  const exactInside = exact && number >> BigInt(analysis.width) === 0n ? exact : undefined;
  if (!exactInside)
    return layouts ? structural(analysis, text, print, number, open) : open('No sum of the cards read.');
  const inside = numbered(main.reading);
  const from = exactInside.from.map((k) => analysis.specimens[inside[k]!]!.index + 1);
  const doubted = exactInside.from.find((k) => analysis.nearPlaces[0]?.misses.includes(inside[k]!));
  if (doubted !== undefined)
    return open(
      `It would follow from card ${analysis.specimens[inside[doubted]!]!.index + 1}, whose print does not stand where the others have theirs: look at the suspects.`,
    );
  const checks = main.hull.checksOn(exactInside.from);
  const told = {
    printed: text,
    bits: exactInside.bits.toBinary(),
    odds: null,
    rival: null,
    checks,
    from,
  };
  const against = analysis.rivals.find((rival) => !agrees(analysis, rival, print, exactInside.bits));
  if (against)
    return open(
      `Another way to read the prints also fits every card and says otherwise: ${readingInWords(against.reading)}.`,
    );
  if (main.sum)
    return {
      ...told,
      standing: 'presumed',
      why: `It adds up from the cards read, but for a sum that carries: ${checkInWords(main.sum)}, as on every card read.`,
    };
  if (main.reading.kind !== 'as printed')
    return {
      ...told,
      standing: 'presumed',
      why: `It adds up from the cards read, if ${readingInWords(main.reading)}.`,
    };
  const words = from.length === 1 ? `It is card ${from[0]} itself.` : `It adds up (⊕) from cards ${from.join(', ')}.`;
  return { ...told, odds: 1, standing: 'proven', why: `${words} ${checkWords(checks)}` };
}

const checkWords = (checks: number): string =>
  checks === 0
    ? 'No check is left over for these cards: a mistyped or swapped print would not show. Read one more.'
    : `${checks} ${checks === 1 ? 'check holds' : 'checks hold'}.`;

/** Whether a rival reading says the same bits for a print: at its place, and in all bits where it determines them. */
function agrees(analysis: Analysis, rival: Read, print: PrintValue, bits: Bits): boolean {
  const number = rival.reading.numberOf(print);
  if (number === undefined) return false;
  const [place] = rival.places;
  if (place) {
    const mask = (1n << BigInt(place.positions.length)) - 1n;
    if (valueAt(place, bits) !== (number & mask)) return false;
  }
  const width = Math.max(1, ...rival.reading.numbers.flatMap((n) => (n === undefined ? [] : [n.toString(2).length])));
  if (number >> BigInt(width) !== 0n) return false;
  const codes = numbered(rival.reading).map((i) => analysis.specimens[i]!.facility ?? rival.reading.facilities[i]);
  const known = codes.every((c) => c !== undefined);
  if (known && new Set(codes).size > 1) return false;
  const theirs = rival.hull.predict(keyOf(number, known ? codes[0] : undefined, width));
  // Where the rival does not determine the other bits, nothing of what it says is otherwise.
  return theirs === undefined || theirs.bits.equals(bits);
}

/** Fewer cards than these fit too many structures by chance. */
const LEAST_FOR_STRUCTURE = 3;

/** Outside the hull only the layouts that agree can tell: all of them must say the same. */
function structural(
  analysis: Analysis,
  text: string,
  print: PrintValue,
  number: bigint,
  open: (why: string) => PredictionFinding,
): PredictionFinding {
  const { hypotheses, main } = analysis;
  if (hypotheses.length === 0)
    return open('Not determined by these cards: the number is no sum of theirs, and no usual layout fits.');
  const library = hypotheses.some((h) => h.format);
  if (!library && main!.hull.size < LEAST_FOR_STRUCTURE)
    return open(
      `Not determined: ${main!.hull.size === 1 ? 'one card is' : `${main!.hull.size} cards are`} too few to presume a structure that no library format has.`,
    );
  const said = hypotheses.map((h) => encoded(analysis, h, print, number));
  // Of structures that differ only in how many leading zeros belong to the number, those too narrow say nothing.
  const heard = library ? said : said.filter((bits) => bits !== undefined);
  const texts = new Set(heard.map((bits) => bits?.toBinary()));
  if (texts.size === 1 && heard[0]) {
    const [best] = hypotheses;
    return {
      printed: text,
      bits: heard[0].toBinary(),
      standing: 'presumed',
      odds: null,
      rival: null,
      checks: main!.hull.checks,
      why: `Not a sum of the cards read; ${hypotheses.length === 1 ? 'the simplest layout that fits them' : `all ${heard.length} layouts that fit them`} says so: ${best!.line}.`,
    };
  }
  if (heard.every((bits) => bits === undefined))
    return open('Not determined: the number is larger than any layout that fits can hold.');
  return open(`Not determined: the layouts that fit these cards say different bits for ${text}.`);
}

export function encoded(analysis: Analysis, h: Hypothesis, print: PrintValue, number: bigint): Bits | undefined {
  const labels = h.layout.spans.flatMap((span) => labelOf(span) ?? []);
  const facility = facilityFor(analysis, print)?.toString() ?? h.facility;
  const written = h.layout.spans.find((span) => span.role === 'number');
  const bcd = written && 'written' in written && written.written === 'bcd';
  try {
    return encode(h.layout, {
      ...Object.fromEntries(labels.filter((l) => l !== 'number' && l !== 'facility').map((l) => [l, '0'])),
      number: bcd ? number.toString(16) : number.toString(),
      ...(labels.includes('facility') && { facility: facility ?? '0' }),
    });
  } catch {
    return undefined;
  }
}

/** What each layout that agrees says for a number; used to find the card that parts them. */
export function saidBy(analysis: Analysis, text: string): (string | undefined)[] {
  const print = printOf(text);
  const number = analysis.main?.reading.numberOf(print);
  if (number === undefined) return analysis.hypotheses.map(() => undefined);
  return analysis.hypotheses.map((h) => encoded(analysis, h, print, number)?.toBinary());
}
