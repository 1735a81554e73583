/**
 * A box by its label: the facility code, the first and the last number (common practice, no source), and what is printed on
 * its cards. Each card is worked out when it is asked for, so that a box costs nothing until then.
 */
import { z } from 'zod';
import { Bits } from '../bits/index.ts';
import { encode, greatestOf } from '../codec/index.ts';
import { fail, failureOf } from '../failure/index.ts';
import { type Format, labelOf, printedOf } from '../format/index.ts';
import { translateCard, translationSchema } from '../translate/index.ts';
import type { Range } from './ranges.ts';

/** So many cards are entered as one box at most. */
export const MOST_CARDS = 100_000;

const decimal = (digits: number) => z.string().regex(new RegExp(`^\\d{1,${digits}}$`), 'Give digits only.');

/**
 * What is printed on the cards. `number`: what their format says is printed, the number itself where it says nothing.
 * `run`: numbers of their own, from the one on the first card up or down, as many digits as that one has (zeros in front).
 * `translation`: what another device shows for the card, the bits in another order, say (`translateCard`).
 */
export const printRuleSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('number') }),
  z.strictObject({ kind: z.literal('run'), first: decimal(40), order: z.enum(['up', 'down']) }),
  z.strictObject({ kind: z.literal('translation'), translation: translationSchema }),
]);
export type PrintRule = z.infer<typeof printRuleSchema>;

export const boxLabelSchema = z.strictObject({
  /** Decimal; null where no bit of the format carries one. */
  facility: decimal(40).nullable(),
  first: decimal(160),
  last: decimal(160),
  print: printRuleSchema.default({ kind: 'number' }),
  /** The format's other values, by label, which all cards of the box have in common. */
  values: z.record(z.string().max(40), decimal(160)).default({}),
});
export type BoxLabel = z.infer<typeof boxLabelSchema>;

export interface BoxCard {
  /** Decimal, without zeros in front. */
  number: string;
  /** Empty where it is the number. */
  printed: string;
  /** As they arrive, one digit a bit. */
  bits: string;
}

export const rangeOf = ({ first, last }: Pick<BoxLabel, 'first' | 'last'>): Range => ({
  from: BigInt(first),
  to: BigInt(last),
});

/** How many cards a label is about; throws `box-order`, `box-size`. */
export function countOf(label: Pick<BoxLabel, 'first' | 'last'>): number {
  const { from, to } = rangeOf(label);
  if (to < from)
    fail('box-order', `The last number, ${to}, is below the first, ${from}.`, { field: 'last' }, 'Exchange the two.');
  if (to - from >= MOST_CARDS)
    fail(
      'box-size',
      `That are ${(to - from + 1n).toLocaleString('en')} cards; a box has at most ${MOST_CARDS.toLocaleString('en')}.`,
      { field: 'last' },
      'Look at the digits of both numbers, or enter it as several boxes.',
    );
  return Number(to - from) + 1;
}

/**
 * Whether a format can have every card of a label. Throws what stands against it, with the field: `box-no-number`,
 * `box-facility`, `box-value`, `box-range` (how many of the numbers do fit), `box-print`, and what `countOf` throws.
 */
export function checkLabel(format: Format, label: BoxLabel): void {
  const span = format.spans.find(({ role }) => role === 'number');
  if (!span) fail('box-no-number', `${format.name} has no number, so no box can be of it.`, { field: 'formatId' });
  const count = countOf(label);
  checkFacility(format, label);
  checkValues(format, label);
  const greatest = greatestOf(span);
  const { from, to } = rangeOf(label);
  if (to > greatest) {
    const fits = from > greatest ? 'none of them fits' : `${greatest - from + 1n} of the ${count} fit`;
    fail(
      'box-range',
      `The greatest number of this format is ${greatest}: ${fits}.`,
      { field: from > greatest ? 'first' : 'last' },
      'Look at the label and the format again.',
    );
  }
  const { print } = label;
  if (print.kind === 'run' && print.order === 'down' && BigInt(print.first) < BigInt(count - 1))
    fail(
      'box-print',
      `Counted down from ${print.first}, the prints of ${count} cards go below 0.`,
      { field: 'print' },
      'Give the print of the card with the lowest number.',
    );
  // What is left can only be the layout's own.
  bitsOf(format, label, from);
  if (print.kind === 'translation') checkTranslated(format, label);
}

/** So much is kept of a print. */
const MOST_PRINT = 80;

/**
 * A translation that suits the first and the last card suits those between: it asks for no more bits than they have. One
 * that takes something off may go below 0 at any of them: then each is tried.
 */
function checkTranslated(format: Format, label: BoxLabel): void {
  const { print } = label;
  const { from, to } = rangeOf(label);
  const isTried = print.kind === 'translation' && print.translation.add.startsWith('-');
  for (let number = from; number <= to; number = isTried || number === to ? number + 1n : to) {
    const wrong = failing(() => {
      const { length } = printOn(format, label, number);
      if (length > MOST_PRINT) fail('box-print', `it has ${length} characters, and ${MOST_PRINT} are kept.`);
    });
    if (wrong !== undefined)
      fail(
        'box-print',
        `What is printed on card ${number} does not follow by this translation: ${wrong}`,
        { field: 'print' },
        'Choose a translation that begins with what these cards deliver.',
      );
  }
}

/** Why something cannot be; undefined where it can. */
function failing(act: () => unknown): string | undefined {
  try {
    act();
    return undefined;
  } catch (error) {
    return failureOf(error).message;
  }
}

function checkFacility(format: Format, { facility }: BoxLabel): void {
  const span = format.spans.find(({ role }) => role === 'facility');
  const where = { field: 'facility' };
  if (!span) {
    if (facility !== null && (format.facility === undefined || BigInt(format.facility) !== BigInt(facility)))
      fail('box-facility', 'No bit of this format carries a facility code.', where, 'Leave it empty.');
    return;
  }
  if (facility === null) fail('box-facility', 'This format carries a facility code.', where, 'Give the label’s.');
  const greatest = greatestOf(span);
  if (BigInt(facility) > greatest)
    fail('box-facility', `Facility code ${facility} is above ${greatest}, the greatest of this format.`, where);
}

function checkValues(format: Format, { values }: BoxLabel): void {
  const others = othersOf(format);
  for (const label of others)
    if (values[label] === undefined)
      fail(
        'box-value',
        `Cards of this format also carry "${label}".`,
        { field: 'values' },
        'Give the one that they share.',
      );
  for (const label of Object.keys(values))
    if (!others.includes(label)) fail('box-value', `This format has no value "${label}".`, { field: 'values' });
}

/** The values of a format besides facility code and number. */
export const othersOf = (format: Format): string[] =>
  format.spans.flatMap((span) => labelOf(span) ?? []).filter((label) => label !== 'facility' && label !== 'number');

/** The facility code that the cards are on file under: the one that the bits carry, or that belongs to the format. */
export function codeOf(format: Format, { facility }: Pick<BoxLabel, 'facility'>): string {
  const code = format.spans.some(({ role }) => role === 'facility') ? facility : (format.facility ?? null);
  return code === null ? '' : BigInt(code).toString();
}

function bitsOf(format: Format, { facility, values }: BoxLabel, number: bigint): string {
  const carried = format.spans.some(({ role }) => role === 'facility');
  return encode(format, {
    ...values,
    number: number.toString(),
    ...(carried && facility !== null && { facility }),
  }).toBinary();
}

/** What is printed on a card of the box; empty where it is the number. */
export function printOn(format: Format, label: BoxLabel, number: bigint): string {
  const { print, first } = label;
  if (print.kind === 'run') {
    const away = number - BigInt(first);
    const value = BigInt(print.first) + (print.order === 'up' ? away : -away);
    const text = value.toString().padStart(print.first.length, '0');
    return text === number.toString() ? '' : text;
  }
  if (print.kind === 'translation') {
    const bits = Bits.fromBinary(bitsOf(format, label, number));
    const text = translateCard(print.translation, { bits, facility: label.facility, number: number.toString() });
    return text === number.toString() ? '' : text;
  }
  const facility = codeOf(format, label);
  const printed = printedOf(format, { number: number.toString(), ...(facility !== '' && { facility }) });
  return printed === undefined || printed === number.toString() ? '' : printed;
}

/** The cards of a checked label from the `at`-th on (0 is the first), at most `most`; costs those cards. */
export function cardsOf(format: Format, label: BoxLabel, at = 0, most = Number.POSITIVE_INFINITY): BoxCard[] {
  const count = countOf(label);
  const first = BigInt(label.first);
  const cards: BoxCard[] = [];
  for (let i = at; i < Math.min(count, at + most); i++) {
    const number = first + BigInt(i);
    cards.push({
      number: number.toString(),
      printed: printOn(format, label, number),
      bits: bitsOf(format, label, number),
    });
  }
  return cards;
}
