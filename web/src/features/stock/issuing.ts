/** What the form that issues a card begins with, what the card will deliver, and what is sent of it. */
import type { SiteFormat } from '@rawbits/api';
import type { CardState } from '@rawbits/core/access';
import { Bits } from '@rawbits/core/bits';
import { encode, fitsOf } from '@rawbits/core/codec';
import { type Failure, failureOf } from '@rawbits/core/failure';
import { type Format, labelOf } from '@rawbits/core/format';
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

/** What the latest read says under the site's formats, or under the one asked for. */
export function fromRead(bits: string | undefined, formats: SiteFormat[], formatId: string | null) {
  if (!bits) return undefined;
  const usable = formats
    .filter((f) => f.adopted && (formatId === null || f.format.id === formatId))
    .map((f) => f.format);
  return fitsOf(Bits.fromBinary(bits), usable).find((fit) => fit.fit === 'full' && fit.values.number !== undefined);
}

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
