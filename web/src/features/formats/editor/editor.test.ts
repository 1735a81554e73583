import { catalogued } from '@rawbits/core/catalogue';
import { parseLayoutLine, printLayoutLine } from '@rawbits/core/format';
import { describe, expect, it } from 'vitest';
import { adviceFor, checkLine } from './checked.ts';
import {
  draftDiscarded,
  draftDrawn,
  draftOpened,
  draftRedone,
  draftSlice,
  draftTyped,
  draftUndone,
  emptyDraft,
} from './drafts.ts';
import { spanFor, spanFromCells } from './roles.ts';

const reduce = draftSlice.reducer;
const opened = reduce({}, draftOpened({ key: 'a', draft: emptyDraft('26') }));

describe('drafts', () => {
  it('undo and redo step through every edit, without limit', () => {
    let drafts = opened;
    const lines = Array.from({ length: 500 }, (_, i) => `${i + 1} | 1 fixed 1`);
    for (const line of lines) drafts = reduce(drafts, draftDrawn({ key: 'a', line }));
    for (const line of [...lines].reverse().slice(1)) {
      drafts = reduce(drafts, draftUndone('a'));
      expect(drafts.a!.line).toBe(line);
    }
    drafts = reduce(drafts, draftUndone('a'));
    expect([drafts.a!.line, drafts.a!.past.length]).toEqual(['26', 0]);
    for (const line of lines) {
      drafts = reduce(drafts, draftRedone('a'));
      expect(drafts.a!.line).toBe(line);
    }
  });

  it('a burst of typing is one step back, a new edit forgets what was undone', () => {
    let drafts = opened;
    for (const line of ['26 |', '26 | 1', '26 | 1-9 number']) drafts = reduce(drafts, draftTyped('a', line));
    expect(reduce(drafts, draftUndone('a')).a!.line).toBe('26');
    drafts = reduce(reduce(drafts, draftUndone('a')), draftDrawn({ key: 'a', line: '30' }));
    expect(drafts.a!.future).toEqual([]);
    expect(reduce(drafts, draftDiscarded('a'))).toEqual({});
  });

  it('opening again keeps the draft that is there', () => {
    expect(reduce(opened, draftOpened({ key: 'a', draft: emptyDraft('99') })).a!.line).toBe('26');
  });
});

describe('giving bits a role', () => {
  const layout = parseLayoutLine('26 | 2-9 facility');
  const text = (at: string, role: Parameters<typeof spanFor>[2]) =>
    printLayoutLine({ ...layout, spans: [spanFor(layout, at, role)] });
  it.each([
    ['1', 'even', '26 | 1 even 2-13'],
    ['26', 'odd', '26 | 26 odd 14-25'],
    ['14', 'even', '26 | 14 even 1-13'],
    ['25-10', 'number', '26 | 25-10 number'],
    ['1-4', 'fixed', '26 | 1-4 fixed 0000'],
    ['5-8', 'value', '26 | 5-8 value "value 1"'],
    ['19-26', 'check', '26 | 19-26 check xor8 1-16'],
  ] as const)('%s as %s begins as %s', (at, role, line) => {
    expect(text(at, role)).toBe(line);
  });

  it('a row of the table that makes no sense says so', () => {
    const cells = { at: '1', role: 'even', detail: '', written: 'binary', covers: '' };
    expect(() => spanFromCells(26, cells)).toThrow('positions that the parity bit covers');
    expect(spanFromCells(26, { ...cells, covers: '2-13' })).toMatchObject({ sense: 'even', covers: '2-13' });
    expect(spanFromCells(26, { ...cells, role: 'value', detail: 'a "b"', written: 'bcd' })).toMatchObject({
      label: 'a "b"',
      written: 'bcd',
    });
  });
});

describe('live checks', () => {
  it('a line that cannot be read has a column, one that can be read but not used has problems', () => {
    expect(checkLine('26 | 2-9 facilty')).toMatchObject({ sound: false, failure: { where: { column: 10 } } });
    expect(checkLine('8 | 1-4 number | 4-8 facility')).toMatchObject({
      sound: false,
      problems: [{ code: 'overlap' }],
    });
    expect(checkLine('26 | 2-9 facility').sound).toBe(true);
  });

  it('advice leaves the format itself out', () => {
    const format = catalogued('26-8-16')!;
    expect(adviceFor(format, [format], '26-8-16', ['58']).map((a) => a.code)).toEqual(['copied']);
  });
});
