import { CATALOGUE, catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { identify } from '@rawbits/core/identify';
import { describe, expect, it } from 'vitest';
import { fromCsv } from '../../platform/files/csv.ts';
import { bitsInLines, columnInWords, markOf, numberBits, settledInWords, verdictRuns } from './columns.ts';
import { mergeSpecimens, typedOver, withMine } from './mergeSpecimens.ts';
import { rowsFromText, specimensFromRows } from './specimensFrom.ts';
import { translationOf } from './translationOf.ts';

const bits = (number: number) => encode(catalogued('26-8-16')!, { facility: '71', number: String(number) }).toBinary();
const finding = identify(
  [40, 41, 42, 44, 43].map((n) => ({ bits: bits(n), printed: String(n) })),
  { library: CATALOGUE },
);

describe('the stack', () => {
  it('marks what changes, what never does, and what follows from others', () => {
    expect([1, 10, 25, 26].map((p) => markOf(finding.bits[p - 1]!))).toEqual([
      'never changes',
      'never changes',
      'changes',
      'follows from others',
    ]);
  });

  it('joins neighbouring columns of one standing', () => {
    expect(verdictRuns(finding.bits)).toEqual([
      { from: 1, to: 22, standing: 'presumed' },
      { from: 23, to: 26, standing: 'proven' },
    ]);
  });

  it('says in words why', () => {
    expect(columnInWords(finding, 26)).toContain(
      'Proven as far as the settled number bits go: bit 26 = n0 ⊕ n1 ⊕ n2 ⊕ 1',
    );
    expect(columnInWords(finding, 26)).toContain('Presumed odd parity over 14-25.');
    expect(columnInWords(finding, 10)).toBe(
      'Bit 10 never changes among these cards: none of the settled number bits turns it. Presumed number bit n15.',
    );
  });

  it('two neighbours prove two bits of a 26-bit read, not twenty-six', () => {
    const two = identify(
      [40, 41].map((n) => ({ bits: bits(n), printed: String(n) })),
      { library: CATALOGUE },
    );
    const proven = verdictRuns(two.bits).filter((run) => run.standing === 'proven');
    expect(proven).toEqual([{ from: 25, to: 26, standing: 'proven' }]);
    expect(settledInWords(two)).toBe(
      'n0 is settled: what it turns is proven. Nothing is known of n1 and above: they are the same on all these cards.',
    );
    expect(numberBits([0, 1, 2, 5])).toBe('n0-n2, n5');
  });
});

it('on paper, neighbours of which the same is to be said stand in one line', () => {
  const few = identify(
    [40, 41, 30000].map((n) => ({ bits: bits(n), printed: String(n) })),
    { library: CATALOGUE },
  );
  expect(bitsInLines(few)).toEqual([
    'Bit 1: presumed even parity over 2-13.',
    'Bits 2-9: presumed facility code.',
    'Bits 10-25: presumed number.',
    'Bit 26: presumed odd parity over 14-25.',
  ]);
});

describe('specimens from text', () => {
  const take = (text: string) => specimensFromRows(rowsFromText(text, fromCsv), [26, 37]);
  it.each([
    ['lines', `${bits(40)} 40\n${bits(41)} 41`],
    ['a table', `${bits(40)}\t40\n${bits(41)}\t41`],
    ['CSV with a heading', `printed,bits,facility\n40,${bits(40)},71\n41,${bits(41)},71`],
  ])('%s', (_, text) => {
    const { specimens, problems } = take(text);
    expect(problems).toEqual([]);
    expect(specimens.map((s) => [s.bits, s.printed])).toEqual([
      [bits(40), '40'],
      [bits(41), '41'],
    ]);
  });

  it('a bad row is named and the others are kept', () => {
    const { specimens, problems } = take(`${bits(40)} 40\n01x1 41\n\n${bits(42)} 4-2-x`);
    expect([specimens.length, problems.map((p) => p.where?.row)]).toEqual([1, [2, 4]]);
  });

  it('a lost length, a group and a facility code', () => {
    const { specimens } = take(`read,printed,length,group,facility\n28E4694 26 bits,9034,?,first,71`);
    expect(specimens[0]).toMatchObject({ lengthKnown: false, group: 'first', facility: '71' });
  });
});

describe('rows of a sheet', () => {
  const take = (text: string) => specimensFromRows(rowsFromText(text, fromCsv), [26, 37]);
  const expected = [
    { bits: bits(40), printed: '40', facility: '71', group: 'dock' },
    { bits: bits(41), printed: '41', facility: '71', group: 'dock' },
  ];
  it.each([
    ['tabs', '\t'],
    ['semicolons', ';'],
    ['commas', ','],
  ])('parted by %s, with and without a heading', (_, by) => {
    const rows = [40, 41].map((n) => [bits(n), n, 71, 'dock'].join(by));
    const heading = ['read', 'printed', 'facility', 'group'].join(by);
    for (const lines of [rows, [heading, ...rows]]) {
      const { specimens, problems } = take(lines.join('\n'));
      expect(problems).toEqual([]);
      expect(specimens).toMatchObject(expected);
    }
  });

  it('bytes parted by commas are one read, and columns may be empty', () => {
    expect(take('04,A2,3B,1C').specimens).toMatchObject([{ bits: BigInt('0x04A23B1C').toString(2).padStart(32, '0') }]);
    expect(take(`${bits(40)},,,dock`).specimens).toEqual([{ bits: bits(40), group: 'dock', source: 'pasted' }]);
  });
});

it('a cell that holds more than a read is a problem of its row, not a read of a part of it', () => {
  const taken = specimensFromRows(
    [
      ['n/a 12', '40'],
      ['0x04A23B1C', '41'],
    ],
    [],
  );
  expect(taken.problems.map(({ code, where }) => [code, where?.row])).toEqual([['cell-words', 1]]);
  expect(taken.specimens.map(({ printed }) => printed)).toEqual(['41']);
});

describe('two people at one case', () => {
  const [a, b, c] = [{ bits: '0001' }, { bits: '0010', printed: '2' }, { bits: '0011' }];
  it('what each added and typed stands together', () => {
    const mine = [{ ...a, printed: '1' }, b, c];
    const theirs = [a, { ...b, setAside: true }, { bits: '0111' }];
    expect(mergeSpecimens([a, b], mine, theirs)).toEqual({
      specimens: [{ ...a, printed: '1' }, { ...b, setAside: true }, { bits: '0111' }, c],
      both: [],
    });
  });

  it('what either took out stays out', () => {
    expect(mergeSpecimens([a, b], [b], [a, b, c])).toEqual({ specimens: [b, c], both: [] });
    expect(mergeSpecimens([a, b], [a, b, c], [b])).toEqual({ specimens: [b, c], both: [] });
  });

  it('of two prints typed for one specimen theirs stays until it is decided, and mine is not lost', () => {
    const [mine, theirs] = [
      { ...a, printed: '7' },
      { ...a, printed: '9' },
    ];
    const merged = mergeSpecimens([a, b], [mine, b], [theirs, b, c]);
    expect(merged).toEqual({ specimens: [theirs, b, c], both: [{ mine, theirs }] });
    expect(withMine(merged.specimens, merged.both[0]!)).toEqual([mine, b, c]);
    // One took it out, the other typed its print.
    expect(mergeSpecimens([a, b], [b], [theirs, b])).toEqual({
      specimens: [theirs, b],
      both: [{ mine: null, theirs }],
    });
    expect(withMine([theirs, b], { mine: null, theirs })).toEqual([b]);
  });

  it('a print that is being typed goes to its specimen, wherever that stands by now, and never over another print', () => {
    // The row above was taken out: what is typed is not about the specimen that came into its place.
    expect(typedOver([b, c], b, '22')).toEqual({ specimens: [{ ...b, printed: '22' }, c] });
    expect(typedOver([a, { ...b, setAside: true }], b, '22')).toEqual({
      specimens: [a, { ...b, setAside: true, printed: '22' }],
    });
    const theirs = { ...a, printed: '9' };
    expect(typedOver([theirs, b], a, '7')).toEqual({ mine: { ...a, printed: '7' }, theirs });
    expect(typedOver([b], a, '7')).toEqual({ mine: { ...a, printed: '7' }, theirs: null });
  });
});

describe('the translation of a case', () => {
  it('leads from the print to the number, where they differ', () => {
    const uids = ['04A23B1C', '1D2C4F90', 'A1B2C3D4'];
    const reads = uids.map((uid) => ({ bits: BigInt(`0x${uid}`).toString(2).padStart(32, '0'), printed: uid }));
    expect(translationOf('32r | 1-32 number', reads)).toMatchObject({ order: 'bytes reversed', from: 'hex' });
    expect(
      translationOf('26 | 1 even 2-13 | 2-9 facility | 10-25 number | 26 odd 14-25', [
        { bits: bits(40), printed: '40' },
        { bits: bits(41), printed: '00041' },
      ]),
    ).toBeUndefined();
  });
});
