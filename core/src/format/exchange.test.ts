import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anyLayout } from '../../testing/anyLayout.ts';
import { CATALOGUE } from '../catalogue/index.ts';
import {
  FORMAT_SCHEMA,
  type Format,
  formatSetJsonSchema,
  paint,
  parseLayoutLine,
  printLayoutLine,
  readJson,
  readLines,
  readSpanRows,
  remove,
  replace,
  resize,
  spanRows,
  structuralId,
  toggleCovered,
  writeJson,
  writeLines,
} from './index.ts';

const formatsIn = (read: { formats: { format: Format }[] }) => read.formats.map(({ format }) => format);

const HEADING = ['format', 'bits', 'role', 'at'];

describe('files of formats', () => {
  it('the catalogue goes out and comes back as JSON and as rows of spans, whole', () => {
    expect(formatsIn(readJson(writeJson(CATALOGUE)))).toEqual(CATALOGUE);
    expect(formatsIn(readSpanRows(spanRows(CATALOGUE)))).toEqual(CATALOGUE);
  });

  it('as layout lines it keeps all but notes and source', () => {
    const back = formatsIn(readLines(writeLines(CATALOGUE)));
    expect(back.map((f) => [f.id, f.name, printLayoutLine(f)])).toEqual(
      CATALOGUE.map((f) => [f.id, f.name, printLayoutLine(f)]),
    );
  });

  it('so do random layouts, by rows of spans', () => {
    fc.assert(
      fc.property(anyLayout, (layout) => {
        const format: Format = { schema: FORMAT_SCHEMA, id: 'any', name: 'Any', ...layout };
        expect(readSpanRows(spanRows([format]))).toEqual({ formats: [{ format, row: 2 }], problems: [] });
      }),
      { numRuns: 60 },
    );
  });

  it('bare layout lines get an id and a name from their structure', () => {
    const { formats } = readLines('# from the data sheet\n\n32r | 1-32 number\n');
    expect(formats).toMatchObject([{ row: 3, format: { id: '32r-0-32', name: '32 bits, number 32' } }]);
    expect(structuralId(parseLayoutLine('26 | 2-9 facility | 10-25 number'))).toBe('26-8-16');
  });

  it('names every problem by row and field, and reads the rest', () => {
    const lines = [
      '26 | 2-9 facility',
      'x-1\tX\t26 | 2-9 facilty',
      'y\tY\t8 | 1-4 number | 4-8 facility',
      '26 | 2-9 facility',
    ];
    const read = readLines(lines.join('\n'));
    expect(read.formats).toHaveLength(1);
    expect(read.problems.map((p) => [p.code, p.where?.row, p.where?.field, p.where?.column])).toEqual([
      ['layout-word', 2, 'layout', 16],
      ['overlap', 3, 'spans.1', undefined],
      ['format-twice', 4, 'id', undefined],
    ]);
    const rows = [
      ['format', 'bits', 'role', 'at', 'covers', 'detail'],
      ['a', '8', 'number', '1-7', '', ''],
      ['a', '8', 'parity', '8', '1-7', 'evn'],
      ['b', '8', 'number', '', '', ''],
      ['c', '8', 'numbr', '1-8', '', ''],
    ];
    expect(readSpanRows(rows).problems.map((p) => [p.where?.row, p.where?.field])).toEqual([
      [3, 'detail'],
      [4, 'at'],
      [5, 'role'],
    ]);
  });

  // Each of these held a server for a minute and more before reading stopped anywhere.
  it.each([
    ['lines that are no layouts', () => readLines('x\n'.repeat(2_000_000))],
    ['empty objects', () => readJson(`[${'{},'.repeat(500_000)}{}]`)],
    ['rows of spans without one', () => readSpanRows([HEADING, ...Array(20_000).fill(['a', '8', 'x', '9'])])],
    ['one format again and again', () => readLines('8 | 1-8 number\n'.repeat(20_000))],
  ])('stops reading %s, and says where', (_, read) => {
    const { problems } = read();
    expect(problems.length).toBeLessThan(1100);
    expect(problems.at(-1)).toMatchObject({ code: 'file-long', message: expect.stringContaining('stopped at row') });
  });

  it('stops at 10,000 formats and at 200,000 rows, in time', () => {
    const many = readLines(Array.from({ length: 10_001 }, (_, i) => `f${i}\tF\t8 | 1-8 number`).join('\n'));
    expect([many.formats.length, many.problems[0]?.code]).toEqual([10_000, 'file-long']);
    expect(readLines('\n'.repeat(3_000_000)).problems[0]?.where?.row).toBe(200_001);
  });

  it('refuses a file of another kind', () => {
    expect(readJson('{"schema":"rawbits/translation@1"}').problems[0]).toMatchObject({
      code: 'file-kind',
      message: 'This is a file of another kind: rawbits/translation@1.',
    });
    expect(readJson('[1').problems[0]!.code).toBe('json');
    expect(readSpanRows([['name', 'colour']]).problems[0]!.code).toBe('file-kind');
    expect(readJson(JSON.stringify({ ...CATALOGUE[0], bits: 600 })).problems[0]!.where).toEqual({
      row: 1,
      field: 'bits',
    });
  });

  it('has a published JSON Schema', () => {
    expect(formatSetJsonSchema().properties).toHaveProperty('formats');
  });
});

describe('editing a layout', () => {
  const empty = parseLayoutLine('26');
  it('painted span by span it becomes the open format', () => {
    let layout = paint(empty, { role: 'number', at: '10-25' });
    layout = paint(layout, { role: 'facility', at: '2-9' });
    layout = paint(layout, { role: 'parity', at: '26', sense: 'odd', covers: '14-25' });
    layout = paint(layout, { role: 'parity', at: '1', sense: 'even', covers: '2-12' });
    layout = toggleCovered(layout, 0, 13);
    expect(printLayoutLine(layout)).toBe('26 | 1 even 2-13 | 2-9 facility | 10-25 number | 26 odd 14-25');
    expect(printLayoutLine(remove(layout, 1))).toBe('26 | 1 even 2-13 | 10-25 number | 26 odd 14-25');
    expect(printLayoutLine(resize(layout, 20))).toBe('20 | 1 even 2-13 | 2-9 facility | 10-20 number');
    expect(printLayoutLine(replace(layout, 1, { role: 'issue', at: '2-9' }))).toContain('2-9 issue');
  });

  it('painting takes bits away from what had them', () => {
    const layout = parseLayoutLine('12 | 1-4 fixed 1010 | 5-12 number');
    expect(printLayoutLine(paint(layout, { role: 'facility', at: '3-6' }))).toBe(
      '12 | 1-2 fixed 10 | 3-6 facility | 7-12 number',
    );
    expect(printLayoutLine(paint(layout, { role: 'number', at: '1-2' }))).toBe('12 | 1-2 number | 3-4 fixed 10');
  });
});
