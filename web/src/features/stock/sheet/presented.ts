/** Cards that are held to a reader one after the other, as rows of a sheet. */

import { Bits } from '@rawbits/core/bits';
import { decode } from '@rawbits/core/codec';
import type { Format } from '@rawbits/core/format';
import { toCsv } from '../../../platform/files/csv.ts';
import { carriesFacility } from '../issuing.ts';
import type { Column } from './cardRows.ts';
import type { Mapping, Sheet } from './table.ts';

export interface PresentedCard {
  facility: string;
  number: string;
}

/** The card that a read is under a format, or why it is none. */
export function cardOf(bits: string, format: Format): PresentedCard | { not: string } {
  if (bits.length !== format.bits)
    return { not: `A read of ${bits.length} bits; cards of ${format.id} have ${format.bits}.` };
  const { fit, values } = decode(Bits.fromBinary(bits), format);
  if (fit !== 'full' || values.number === undefined)
    return { not: `A read of ${bits.length} bits, but ${format.id} does not read it in full.` };
  return { facility: values.facility ?? '', number: values.number };
}

const plain = (number: string): string => number.trim().replace(/^0+(?=\d)/, '');

/** The place among the rows (from 0) where a card stands already; -1 where it does not. `code` is of the rows that have none. */
export function placeOf(sheet: Sheet, mapping: Mapping<Column>, code: string, card: PresentedCard): number {
  const [number, facility] = [mapping.indexOf('number'), mapping.indexOf('facility code')];
  return sheet.rows.findIndex(
    (cells) =>
      plain(cells[number] ?? '') === card.number &&
      (card.facility === '' || plain((cells[facility] ?? '').trim() || code) === card.facility),
  );
}

/** The sheet as text, with one card more at its end; an empty one gets its headings. */
export function withCard(sheet: Sheet, mapping: Mapping<Column>, format: Format, card: PresentedCard): string {
  if (sheet.rows.length === 0) {
    const head = [...(carriesFacility(format) ? ['facility code'] : []), 'number', 'printed'];
    const cells = [...(carriesFacility(format) ? [card.facility] : []), card.number, ''];
    return toCsv([head, cells]);
  }
  const cells = mapping.map((column) =>
    column === 'number' ? card.number : column === 'facility code' ? card.facility : '',
  );
  return textOf(sheet, [...sheet.rows, cells]);
}

/** The sheet as text, with what is printed on the card of a row; undefined where it has no column for that. */
export function withPrint(sheet: Sheet, mapping: Mapping<Column>, row: number, printed: string): string | undefined {
  const at = mapping.indexOf('printed');
  if (at < 0) return undefined;
  const rows = sheet.rows.map((cells, i) =>
    i === row ? Array.from({ length: mapping.length }, (_, c) => (c === at ? printed : (cells[c] ?? ''))) : cells,
  );
  return textOf(sheet, rows);
}

const textOf = ({ headings }: Sheet, rows: string[][]): string =>
  toCsv(headings.some((heading) => heading !== '') ? [headings, ...rows] : rows);
