/** A card as it stands on file: how it is called, and its facility code and number held against its format. */
import { encode } from '@rawbits/core/codec';
import { RawBitsError } from '@rawbits/core/failure';
import { type Format, labelOf } from '@rawbits/core/format';
import type { Queryable } from '../../platform/database/index.ts';
import { conflict, HttpProblem, invalid } from '../../platform/problem/problem.ts';
import { adoptedFormats } from '../library/index.ts';

/** Facility code, empty where the format has none, and number, both in their canonical spelling. */
export interface Called {
  facility: string;
  number: string;
}

export const nameOf = (card: Called): string => `card ${card.facility ? `${card.facility}/` : ''}${card.number}`;

/** Throws where somebody changed a card since it was looked at. */
export function checkRevision(card: { revision: number }, seen: number): void {
  if (card.revision !== seen)
    throw conflict(
      'changed-meanwhile',
      'Somebody changed this card meanwhile.',
      'Look at it as it is now, and change it again.',
    );
}

/** A format that the site has adopted. */
export async function adoptedFormat(db: Queryable, site: string, id: string): Promise<Format> {
  const format = (await adoptedFormats(db, site)).find((f) => f.format.id === id)?.format;
  if (!format) throw invalid('formatId', 'The site has not adopted this format.', 'Adopt it under Formats first.');
  return format;
}

/** Checks number and facility code against the format by encoding them; gives both in their canonical spelling. */
export function canonicalCard(format: Format, facility: string | null, number: string): Called {
  const labels = format.spans.flatMap((span) => labelOf(span) ?? []);
  if (!labels.includes('number'))
    throw invalid('formatId', `${format.name} has no number, so no card can be entered by it.`);
  const carried = labels.includes('facility');
  if (carried && facility === null) throw invalid('facility', 'This format carries a facility code: give the card’s.');
  if (!carried && format.facility === undefined && facility !== null)
    throw invalid('facility', 'This format carries no facility code.', 'Leave it empty.');
  const other = Object.fromEntries(labels.filter((l) => l !== 'number' && l !== 'facility').map((l) => [l, '0']));
  try {
    encode(format, { ...other, number, ...(facility !== null && { facility }) });
  } catch (error) {
    if (!(error instanceof RawBitsError)) throw error;
    throw new HttpProblem(422, {
      ...error.toFailure(),
      where: { field: error.where?.field?.replace('values.', '') ?? 'number' },
    });
  }
  const code = carried ? facility! : (format.facility ?? '');
  return { number: BigInt(number).toString(), facility: code === '' ? '' : BigInt(code).toString() };
}
