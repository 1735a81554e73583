/** Which card a read is, what the form that issues it begins with, what the card will deliver, and what is sent of it. */
import type { SiteFormat } from '@rawbits/api';
import type { CardState } from '@rawbits/core/access';
import { Bits } from '@rawbits/core/bits';
import { samePrint } from '@rawbits/core/box';
import { encode, type FitOf, fitsOf } from '@rawbits/core/codec';
import { type Failure, failureOf } from '@rawbits/core/failure';
import { type Format, isWhole, labelOf } from '@rawbits/core/format';
import { agreementOf, printedNumbers } from '@rawbits/core/identify';
import { beginningOf, endOf } from '../../platform/words/siteDays.ts';
import { NEW_HOLDER } from './NewHolder.tsx';

export const EMPTY = {
  formatId: '',
  facility: '',
  number: '',
  printed: '',
  holderId: '',
  newName: '',
  newDepartment: '',
  state: 'active',
  validFrom: '',
  validTo: '',
};
export type Typed = typeof EMPTY;

/** A format in use that a read fits in full, with the number that it gives. */
export type Way = FitOf<Format>;

/** The formats in use at the site, or the one asked for, under which a read is a card. */
export function waysOf(bits: string, formats: readonly SiteFormat[], formatId: string | null): Way[] {
  const usable = formats.filter((f) => f.adopted && (formatId === null || f.format.id === formatId));
  const ways = fitsOf(
    Bits.fromBinary(bits),
    usable.map((f) => f.format),
  ).filter((fit) => fit.fit === 'full' && fit.values.number !== undefined);
  // A whole string says nothing of a card that another format reads.
  const known = ways.filter(({ format }) => !isWhole(format));
  return known.length > 0 ? known : ways;
}

/** The one way that there is, or the one that the print bears out; undefined where several are left. */
export function toldWay(ways: readonly Way[], printed: string): Way | undefined {
  if (ways.length <= 1) return ways[0];
  if (printed.trim() === '') return undefined;
  try {
    const prints = printedNumbers(printed);
    const agreeing = ways.filter(({ values, format }) => agreementOf(values, prints, format));
    return agreeing.length === 1 ? agreeing[0] : undefined;
  } catch {
    return undefined;
  }
}

/** What a way fills in. */
export const filledBy = ({ format, values: { facility = '', number = '' } }: Way) => ({
  formatId: format.id,
  facility,
  number,
});

export const carriesFacility = (format: Format | undefined): boolean =>
  format?.spans.some(({ role }) => role === 'facility') ?? false;

/** The bits of the card, or why it has none; undefined while something of it is missing. */
export function previewOf(
  format: Format | undefined,
  { facility, number }: Partial<Pick<Typed, 'facility' | 'number'>>,
): { bits?: Bits; failure?: Failure } | undefined {
  if (!format || !number || (carriesFacility(format) && !facility)) return undefined;
  const other = format.spans.flatMap((s) => labelOf(s) ?? []).filter((l) => l !== 'number' && l !== 'facility');
  try {
    return {
      bits: encode(format, {
        ...Object.fromEntries(other.map((l) => [l, '0'])),
        number,
        ...(carriesFacility(format) && { facility: facility! }),
      }),
    };
  } catch (thrown) {
    return { failure: failureOf(thrown) };
  }
}

/**
 * What does not agree between the print that was typed and the card that the reader delivered; undefined where nothing
 * speaks against it. A card of a box with prints of its own is held against the one that the box gives it.
 */
export function printDoubt(
  print: string,
  { facility, number }: Pick<Typed, 'facility' | 'number'>,
  inStock: { printed: string } | undefined,
  format: Format | undefined,
): string | undefined {
  if (print.trim() === '' || !/^\d+$/.test(number)) return undefined;
  const given = inStock?.printed ?? '';
  if (given !== '') return samePrint(given, print) ? undefined : `By its box ${given} is printed on this card.`;
  let prints: ReturnType<typeof printedNumbers>;
  try {
    prints = printedNumbers(print);
  } catch {
    return undefined;
  }
  const values = { number: BigInt(number).toString(), ...(/^\d+$/.test(facility) && { facility }) };
  if (agreementOf(values, prints, format)) return undefined;
  return `The reader delivered number ${number}, and ${print.trim()} is printed: one of the two is of another card.`;
}

/** What is sent; somebody new has no id yet. */
export function bodyOf(formats: readonly SiteFormat[], zone: string, typed: Typed) {
  const format = formats.find((f) => f.format.id === typed.formatId)?.format;
  return {
    formatId: typed.formatId,
    facility: carriesFacility(format) ? typed.facility : null,
    number: typed.number,
    printed: typed.printed,
    holderId: typed.holderId === '' || typed.holderId === NEW_HOLDER ? null : typed.holderId,
    state: typed.holderId === '' ? ('in stock' as const) : (typed.state as CardState),
    validFrom: beginningOf(typed.validFrom, zone),
    validTo: endOf(typed.validTo, zone),
  };
}
