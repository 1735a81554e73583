/** A sheet of people: columns by their headings, and out and in again as it was. */
import { expect, it } from 'vitest';
import { fromCsv, toCsv } from '../../../platform/files/csv.ts';
import { guessedPeople, peopleIn, peopleSheetOf, sheetOfPeople } from './personRows.ts';

it.each([
  ['Full name,Dept.,Company,E-mail,Comments', ['name', 'department', 'organisation', 'contact', 'notes']],
  ['ID;Name;Access groups;Category', ['identifier', 'name', 'groups', 'kind']],
  ['Åse Vik\tWet labs', ['name', null]],
])('%s', (line, wanted) => {
  expect(guessedPeople(peopleSheetOf(fromCsv(`${line}\n${line}`)))).toEqual(wanted);
});

it('goes out and comes in as the same people, whatever stands in their cells', () => {
  const people = [
    {
      ...{ id: 'a1', name: 'Vik, Åse "Skipper"', department: '=Labs', organisation: '', kind: 'staff' },
      ...{ contact: '+47 555 0107', notes: 'two\nlines', groups: ['Wet labs', 'Gear; store'], cards: 2 },
    },
  ];
  const sheet = peopleSheetOf(fromCsv(toCsv(sheetOfPeople(people))));
  const { groups, cards: _, ...kept } = people[0]!;
  expect(peopleIn(sheet, guessedPeople(sheet))).toEqual({
    rows: [{ row: 2, ...kept, groups: groups.join(' | ') }],
    bad: [],
  });
});

it('without headings nobody is taken for one', () => {
  const sheet = peopleSheetOf(fromCsv('Åse Vik,Wet labs\nEli Sand,Dock'));
  const { rows } = peopleIn(sheet, guessedPeople(sheet));
  expect(rows.map(({ row, name }) => [row, name])).toEqual([
    [1, 'Åse Vik'],
    [2, 'Eli Sand'],
  ]);
});

it('a cell that is too long is told with its row; what is not among its columns does not count', () => {
  const sheet = peopleSheetOf(fromCsv(`name,kind,shoe size\nEli,${'x'.repeat(41)},38\n,,40\nUna,staff,`));
  const { rows, bad } = peopleIn(sheet, guessedPeople(sheet));
  expect([rows.map(({ name }) => name), bad.map(({ row }) => row)]).toEqual([['Una'], [2]]);
});
