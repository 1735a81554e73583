/** A sheet as cards: columns by their headings, rows by what is written in them, what cannot be read with its reason. */
import { describe, expect, it } from 'vitest';
import { fromCsv, toCsv } from '../../../platform/files/csv.ts';
import { cardsIn, guessed } from './cardRows.ts';
import { refusedRows, sheetOf } from './table.ts';

const ZONE = 'Europe/Oslo';

describe('columns', () => {
  it.each([
    ['Card No.,Name,Dept,Valid until', ['number', 'holder', 'department', 'valid through']],
    ['Facility code;Card number;Printed number;Status', ['facility code', 'number', 'printed', 'state']],
    ['site code\tnumber\tcardholder\tcomment', ['facility code', 'number', 'holder', 'notes']],
    ['colour,card', [null, 'number']],
  ])('%s', (line, wanted) => {
    expect(guessed(sheetOf(fromCsv(`${line}\n${line.replace(/[^,;\t]+/g, '1')}`)))).toEqual(wanted);
  });

  it('without headings the first column of numbers is the number, and its first row is row 1', () => {
    const sheet = sheetOf(fromCsv('Åse Vik,11000\nBård Nes,11001\n\n'));
    expect([guessed(sheet), sheet.firstRow, sheet.rows.length]).toEqual([[null, 'number'], 1, 2]);
  });
});

describe('rows', () => {
  const sheet = sheetOf(
    fromCsv(
      [
        'number;code;holder;state;from;through;note',
        '0011000;58;Åse Vik;Active;2026-01-01;30.06.2026;"a; b"',
        '11001;;;;;;',
        '1.18406E+5;58;;;;;',
        '11003;58;;asleep;;;',
        '11004;58;;;31.02.2026;;',
        ';;;;;;',
        `11005;58;${'x'.repeat(90)};;;;`,
      ].join('\n'),
    ),
  );
  const { rows, bad } = cardsIn(sheet, guessed(sheet), '77', ZONE);

  it('are sent as they are meant: zeros in front gone, days of the site, the code of the sheet where a row has none', () => {
    expect(rows).toEqual([
      {
        row: 2,
        facility: '58',
        number: '11000',
        printed: '',
        state: 'active',
        holder: 'Åse Vik',
        department: '',
        validFrom: '2025-12-31T23:00:00.000Z',
        validTo: '2026-06-30T22:00:00.000Z',
        notes: 'a; b',
      },
      expect.objectContaining({ row: 3, facility: '77', number: '11001', validTo: null }),
    ]);
  });

  it('that cannot be read are told by their row, and go back as they came, with the reason', () => {
    expect(bad.map(({ row }) => row)).toEqual([4, 5, 6, 8]);
    expect(bad[0]!.message).toContain('rounded by the spreadsheet');
    expect(bad[2]!.message).toBe('"31.02.2026" is no day.');
    const back = fromCsv(toCsv(refusedRows(sheet, bad)));
    expect(back[0]!.slice(-2)).toEqual(['row', 'what is wrong']);
    expect(back[2]!.slice(0, 4)).toEqual(['11003', '58', '', 'asleep']);
    // Mended it is a sheet again, its two columns more left out.
    expect(guessed(sheetOf(back)).slice(0, 2)).toEqual(['number', 'facility code']);
    expect(guessed(sheetOf(back)).slice(-2)).toEqual([null, null]);
  });
});
