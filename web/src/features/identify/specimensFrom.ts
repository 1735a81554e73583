/** Specimens from what is pasted or from CSV: each row a read in any notation and the print, more columns if named. */
import type { CaseSpecimen } from '@rawbits/api';
import { type Failure, fail, failureOf } from '@rawbits/core/failure';
import { printedNumbers } from '@rawbits/core/identify';
import { intake } from '@rawbits/core/intake';

export interface Taken {
  specimens: CaseSpecimen[];
  problems: Failure[];
}

const COLUMNS = ['read', 'printed', 'facility', 'group', 'length'] as const;
type Column = (typeof COLUMNS)[number];
const NAMES: Record<string, Column> = {
  read: 'read',
  bits: 'read',
  hex: 'read',
  printed: 'printed',
  print: 'printed',
  number: 'printed',
  facility: 'facility',
  group: 'group',
  box: 'group',
  length: 'length',
};

/** Rows of cells; the first may be a heading, else the columns are read, printed, facility, group, length. */
export function specimensFromRows(rows: readonly (readonly string[])[], lengths: readonly number[]): Taken {
  const taken: Taken = { specimens: [], problems: [] };
  const heading = (rows[0] ?? []).map((cell) => NAMES[cell.trim().toLowerCase()]);
  const hasHeading = heading.includes('read');
  const columns: (Column | undefined)[] = hasHeading ? heading : [...COLUMNS];
  rows.slice(hasHeading ? 1 : 0).forEach((row, i) => {
    if (row.every((cell) => cell.trim() === '')) return;
    const cell = (column: Column) => (row[columns.indexOf(column)] ?? '').trim();
    const at = i + (hasHeading ? 2 : 1);
    try {
      taken.specimens.push(specimenFrom(cell, lengths));
    } catch (error) {
      const { code, message, where, hint } = failureOf(error);
      taken.problems.push({ code, message, hint, where: { ...where, row: at } });
    }
  });
  return taken;
}

function specimenFrom(cell: (column: Column) => string, lengths: readonly number[]): CaseSpecimen {
  const length = /^\d+$/.test(cell('length')) ? Number(cell('length')) : undefined;
  const { readings, passedOver } = intake(cell('read'), { length, lengths });
  // In a cell nobody sees what was passed over.
  if (passedOver !== '')
    fail(
      'cell-words',
      `The cell holds more than a read: ${passedOver}.`,
      { field: 'read' },
      'Leave the read alone in its cell.',
    );
  const printed = cell('printed');
  // A print that is no number is told at once, with its row, and not only when the case is worked out.
  if (printed !== '') printedNumbers(printed);
  const facility = cell('facility');
  return {
    bits: readings[0].bits.toBinary(),
    ...(printed && { printed }),
    ...(/^\d+$/.test(facility) && { facility }),
    ...(cell('group') && { group: cell('group') }),
    ...(cell('length') === '?' && { lengthKnown: false }),
    source: 'pasted',
  };
}

/** Lines as pasted: the columns of a sheet, or read, a blank, the print. */
export function rowsFromText(text: string, fromCsv: (text: string) => string[][]): string[][] {
  const lines = text.split(/\r?\n/).filter((line) => line.trim() !== '');
  if (isSheet(lines)) return fromCsv(text);
  return text.split(/\r?\n/).map((line) => {
    const match = /^(\S+)\s+(.+)$/.exec(line.trim());
    return match ? [match[1]!, match[2]!] : [line.trim()];
  });
}

/**
 * Whether lines are rows of a sheet: they have a heading, or tabs or semicolons, or as many commas each and no blank before the first.
 * Bytes parted by commas are one read.
 */
function isSheet(lines: readonly string[]): boolean {
  const heading = (lines[0] ?? '').split(/[,;\t]/).some((cell) => NAMES[cell.trim().toLowerCase()] === 'read');
  if (heading || lines.some((line) => /[\t;]/.test(line))) return true;
  const cells = lines.map((line) => line.split(',').map((cell) => cell.trim()));
  const [first] = cells;
  if (!first || first.length < 2 || cells.some((row) => row.length !== first.length || /\s/.test(row[0]!)))
    return false;
  return !cells.every((row) => row.every((cell) => /^(0x)?[0-9a-f]{1,2}$/i.test(cell)));
}
