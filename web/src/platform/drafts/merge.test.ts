import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { mergeField } from './merge.ts';

const hours = (from: string, to: string, days = ['1', '2']) => ({ days, from, to });
const merge = (base: unknown, mine: unknown, theirs: unknown) => mergeField('field', base, mine, theirs);
const value = (base: unknown, mine: unknown, theirs: unknown) => {
  const { value: merged, conflicts } = merge(base, mine, theirs);
  expect(conflicts).toEqual([]);
  return merged;
};

describe('a field that two people change', () => {
  it('is what the one who changed it made of it; where both did, it is asked', () => {
    expect(value('a', 'a', 'b')).toBe('b');
    expect(value('a', 'b', 'a')).toBe('b');
    expect(value('a', 'b', 'b')).toBe('b');
    expect(merge('a', 'mine', 'theirs')).toEqual({
      value: 'mine',
      conflicts: [{ field: 'field', key: '["field","a","theirs"]', mine: 'mine', theirs: 'theirs', taken: 'theirs' }],
    });
  });

  it('ticked: what either ticked or unticked, also where a form gives one box for a list', () => {
    expect(value(['1', '2'], ['2', '3'], ['1', '2', '4'])).toEqual(['2', '4', '3']);
    expect(value(['1'], false, ['1', '2'])).toEqual(['2']);
    expect(value([], '3', ['1'])).toEqual(['1', '3']);
  });
});

describe('rows that two people change', () => {
  const [night, day, noon] = [hours('22:00', '06:00'), hours('07:00', '17:00'), hours('11:00', '13:00')];

  it('what one took out stays out, whatever the other does to the other rows', () => {
    expect(value([night, day], [hours('22:00', '06:00'), hours('07:00', '18:00')], [day])).toEqual([
      hours('07:00', '18:00'),
    ]);
    expect(value([night, day], [day], [night, hours('07:00', '16:00')])).toEqual([hours('07:00', '16:00')]);
    expect(value([night, day], [night], [day])).toEqual([]);
  });

  it('what each added is there once', () => {
    expect(value([night], [night, day], [night, noon])).toEqual([night, noon, day]);
    expect(value([night], [night, day], [night, day])).toEqual([night, day]);
  });

  it('one row that both changed: what only one changed of it is merged, the rest is asked for that row alone', () => {
    expect(value([day], [hours('07:00', '18:00')], [hours('06:00', '17:00')])).toEqual([hours('06:00', '18:00')]);
    expect(value([day], [hours('07:00', '17:00', ['1', '2', '6'])], [hours('07:00', '17:00', ['2'])])).toEqual([
      hours('07:00', '17:00', ['2', '6']),
    ]);
    const asked = merge([day, night], [hours('07:00', '18:00'), night, noon], [hours('07:00', '19:00'), night]);
    expect(asked.value).toEqual([hours('07:00', '18:00'), night, noon]);
    expect(asked.conflicts).toMatchObject([
      {
        mine: [hours('07:00', '18:00')],
        theirs: [hours('07:00', '19:00')],
        // Taking theirs leaves what else was typed.
        taken: [hours('07:00', '19:00'), night, noon],
      },
    ]);
  });

  it('a row that one took out and the other changed is asked', () => {
    expect(merge([night, day], [night, hours('07:00', '18:00')], [night])).toMatchObject({
      value: [night, hours('07:00', '18:00')],
      conflicts: [{ mine: [hours('07:00', '18:00')], theirs: [], taken: [night] }],
    });
    expect(merge([night, day], [night], [night, hours('07:00', '18:00')])).toMatchObject({
      value: [night],
      conflicts: [{ mine: [], theirs: [hours('07:00', '18:00')], taken: [night, hours('07:00', '18:00')] }],
    });
  });

  it('holds for whatever rows: untouched ones are theirs, taken out stays out, added stays, and merging again changes nothing', () => {
    const row = fc.record({
      name: fc.constantFrom('a', 'b', 'c', 'd', 'e', 'f'),
      date: fc.constantFrom('1', '2', '3'),
    });
    const rows = fc.uniqueArray(row, { selector: ({ name }) => name, maxLength: 5 });
    const edit = fc.array(fc.tuple(fc.constantFrom('out', 'in', 'date'), fc.nat(5), fc.constantFrom('7', '8', '9')), {
      maxLength: 3,
    });
    type Rows = { name: string; date: string }[];
    const edited = (start: Rows, edits: [string, number, string][], fresh: string): Rows => {
      const all = start.map((one) => ({ ...one }));
      for (const [what, at, date] of edits) {
        if (what === 'in') all.push({ name: `${fresh}${at}`, date });
        else if (all.length > 0 && what === 'out') all.splice(at % all.length, 1);
        else if (all.length > 0) all[at % all.length]!.date = date;
      }
      return all;
    };
    fc.assert(
      fc.property(rows, edit, edit, (base, own, other) => {
        const [mine, theirs] = [edited(base, own, 'm'), edited(base, other, 't')];
        expect(merge(base, base, theirs)).toEqual({ value: theirs, conflicts: [] });
        expect(merge(base, mine, base)).toEqual({ value: mine, conflicts: [] });
        const { value: merged, conflicts } = merge(base, mine, theirs) as {
          value: Rows;
          conflicts: { mine: Rows; theirs: Rows }[];
        };
        const names = (some: Rows) => some.map(({ name }) => name);
        const asked = conflicts.flatMap((one) => [...names(one.mine), ...names(one.theirs)]);
        for (const name of names(base)) {
          const isOut = !names(mine).includes(name) || !names(theirs).includes(name);
          if (isOut && !asked.includes(name)) expect(names(merged)).not.toContain(name);
          if (!isOut) expect(names(merged)).toContain(name);
        }
        for (const name of [...names(mine), ...names(theirs)].filter((one) => /^[mt]/.test(one)))
          expect(names(merged)).toContain(name);
        // Where nothing is asked, what was merged is a change of theirs alone.
        if (conflicts.length === 0) expect(merge(theirs, merged, theirs)).toEqual({ value: merged, conflicts: [] });
      }),
      { numRuns: 500 },
    );
  });
});
