/** What is read of a file of formats: the formats and the problems so far, how far reading goes, and names for what has none. */
import type { Failure } from '../failure/index.ts';
import { type Format, type Layout, labelOf } from './definition.ts';
import { problemsOf } from './problems.ts';
import { positionsOf } from './range.ts';

/** Reading a file stops at this many problems, and at this many formats: nobody reads more, and each costs time. */
export const MOST_PROBLEMS = 1000;
export const MOST_FORMATS = 10_000;
/** The most lines or rows of a file that are looked at. */
export const MOST_ROWS = 200_000;

export interface ReadIn {
  formats: { format: Format; row: number }[];
  problems: Failure[];
}

/** Whether reading goes on; where it does not, the last problem says so. */
export function goesOn({ formats, problems }: ReadIn, row: number): boolean {
  const stop = (what: string, hint: string) => {
    problems.push({ code: 'file-long', message: `Reading stopped at row ${row}: ${what}.`, where: { row }, hint });
    return false;
  };
  if (problems.length >= MOST_PROBLEMS)
    return stop(
      `${MOST_PROBLEMS} problems were found before it`,
      'Put the first ones right; is it the right kind of file?',
    );
  if (formats.length >= MOST_FORMATS) return stop(`a file holds at most ${MOST_FORMATS} formats`, 'Divide the file.');
  return row <= MOST_ROWS || stop(`a file has at most ${MOST_ROWS} rows`, 'Divide the file.');
}

/** What a layout is called when nobody named it: its length and the widths of facility code and number. */
export function structuralId(layout: Layout): string {
  const width = (role: string) => {
    const span = layout.spans.find((s) => s.role === role);
    return span ? positionsOf(span.at).length : 0;
  };
  const { reverseBytes, reverseBits, invert } = layout.arrives;
  const arrives = `${reverseBytes ? 'r' : ''}${reverseBits ? 'b' : ''}${invert ? 'i' : ''}`;
  return `${layout.bits}${arrives}-${width('facility')}-${width('number')}`;
}

export const structuralName = (layout: Layout): string => {
  const widths = layout.spans.flatMap((span) =>
    labelOf(span) === undefined ? [] : [`${labelOf(span)} ${positionsOf(span.at).length}`],
  );
  return `${layout.bits} bits, ${widths.join(' + ') || 'no value'}`.slice(0, 120);
};

/** A file while it is read; `rows` says where each id stood first. */
export interface Reading extends ReadIn {
  rows: Map<string, number>;
}

export const reading = (): Reading => ({ formats: [], problems: [], rows: new Map() });
export const readIn = ({ formats, problems }: Reading): ReadIn => ({ formats, problems });

/** Checks a format that was read and puts it to the others, or its problems to the problems. */
export function settle(into: Reading, format: Format, row: number): void {
  const errors = problemsOf(format).filter((problem) => problem.severity === 'error');
  for (const { code, message, where, hint } of errors)
    into.problems.push({
      code,
      message: `${format.id}: ${message}`,
      where: { row, field: where?.field, positions: where?.positions },
      hint,
    });
  const twin = into.rows.get(format.id);
  if (twin !== undefined)
    into.problems.push({
      code: 'format-twice',
      message: `"${format.id}" stands in row ${twin} already.`,
      where: { row, field: 'id' },
      hint: 'Give it another id, or take one of them out.',
    });
  else if (errors.length === 0) {
    into.formats.push({ format, row });
    into.rows.set(format.id, row);
  }
}
