/** A sheet as people, and people as a sheet. */
import type { PersonRow, WrittenPerson } from '@rawbits/api';
import { guessedBy, type Headings, type Mapping, type Sheet, sheetOf, type Told } from './table.ts';

export const PERSON_COLUMNS = [
  'name',
  'department',
  'organisation',
  'kind',
  'contact',
  'groups',
  'notes',
  'identifier',
] as const;
export type PersonColumn = (typeof PERSON_COLUMNS)[number];

/** Between the groups of a cell. */
const BETWEEN = ' | ';

/** Words that people head such columns with (common practice, no source). */
const HEADINGS: Headings<PersonColumn> = [
  ['identifier', /^identifier$|^id$/],
  ['department', /dep(ar)?t|team|unit|section/],
  ['organisation', /organi[sz]ation|company|employer|firm/],
  ['kind', /kind|type|category|status/],
  ['contact', /contact|mail|phone|mobile|address/],
  ['groups', /group|access|rights/],
  ['notes', /note|comment|remark/],
  ['name', /name|person|holder|who/],
];

/** Cells as a sheet of people: only words that head such columns make its first row a heading. */
export const peopleSheetOf = (cells: string[][]): Sheet =>
  sheetOf(cells, (head) => head.some((cell) => HEADINGS.some(([, words]) => words.test(cell.trim().toLowerCase()))));

const MOST: Record<PersonColumn, number> = {
  ...{ name: 120, department: 120, organisation: 120, kind: 40, contact: 200, groups: 4000, notes: 2000 },
  identifier: 60,
};

/** What the columns most likely are: by their headings; without any, the first is the name. */
export function guessedPeople(sheet: Sheet): Mapping<PersonColumn> {
  const mapping = guessedBy(sheet, HEADINGS);
  return mapping.includes('name') || mapping[0] !== null ? mapping : mapping.with(0, 'name');
}

/** The rows as they are sent, and those with something too long. */
export function peopleIn(sheet: Sheet, mapping: Mapping<PersonColumn>): { rows: PersonRow[]; bad: Told[] } {
  const [rows, bad]: [PersonRow[], Told[]] = [[], []];
  for (const [i, cells] of sheet.rows.entries()) {
    const of = (column: PersonColumn): string => (cells[mapping.indexOf(column)] ?? '').trim();
    if (PERSON_COLUMNS.every((column) => of(column) === '')) continue;
    const row = sheet.firstRow + i;
    const long = PERSON_COLUMNS.find((column) => of(column).length > MOST[column]);
    if (long) {
      const message = `Its ${long} has ${of(long).length} characters, and ${MOST[long]} are kept.`;
      bad.push({ row, message, hint: 'Shorten it.' });
      continue;
    }
    const [name, department, organisation, kind] = [of('name'), of('department'), of('organisation'), of('kind')];
    const [id, contact, notes, groups] = [of('identifier'), of('contact'), of('notes'), of('groups')];
    rows.push({ row, id, name, department, organisation, kind, contact, notes, groups });
  }
  return { rows, bad };
}

/** People as a sheet that comes in again without a change. */
export const sheetOfPeople = (people: readonly WrittenPerson[]): string[][] => [
  ['name', 'department', 'organisation', 'kind', 'contact', 'groups', 'notes', 'cards', 'identifier'],
  ...people.map(({ name, department, organisation, kind, contact, groups, notes, cards, id }) => [
    ...[name, department, organisation, kind, contact, groups.join(BETWEEN), notes, String(cards), id],
  ]),
];
