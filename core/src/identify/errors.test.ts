/**
 * One error in a case: named with its kind and its cards, and its mend gives the case back as it was. Formats of the trade (those of the
 * catalogue, each with its own source there); numbers and codes are invented.
 */
import { describe, expect, it } from 'vitest';
import { randomFrom } from '../../testing/hiddenFormats.ts';
import { isTried } from '../../testing/runs.ts';
import { CATALOGUE, catalogued } from '../catalogue/index.ts';
import { encode } from '../codec/index.ts';
import { parseLayoutLine } from '../format/index.ts';
import { slipBits } from './errors/edits.ts';
import { identify, type SpecimenInput } from './index.ts';

const FORMATS = ['26-8-16', '35-12-20'];
const card = (format: string, number: number, facility?: string): SpecimenInput => ({
  bits: encode(catalogued(format)!, { number: String(number), ...(facility && { facility }) }).toBinary(),
  printed: String(number),
});
/** Eight cards of a format: neighbours, or anywhere in a box. */
const box = (format: string, spread: boolean, facility = '71') => {
  const random = randomFrom(format.length + Number(spread));
  const numbers = new Set(Array.from({ length: 8 }, (_, i) => 9000 + (spread ? Math.floor(random() * 200) : i)));
  return [...numbers].map((number) => card(format, number, facility));
};
/** Of a small box: what is said of its cards costs more than what does not belong. */
const range = { from: 9000n, to: 9003n };
const found = (specimens: SpecimenInput[]) => identify(specimens, { library: CATALOGUE, range }).suspects;
const flip = (bits: string, at: number) => bits.slice(0, at) + (bits[at] === '1' ? '0' : '1') + bits.slice(at + 1);
/** The case with the mend of its first suspect. */
function putRight(specimens: readonly SpecimenInput[]): SpecimenInput[] {
  const [first] = found([...specimens]);
  const by = new Map(first?.mend?.map(({ row, ...change }) => [row, change]));
  return specimens.map((one, i) => ({ ...one, ...by.get(i + 1) }));
}
const both = FORMATS.flatMap((format) => [false, true].map((spread) => [format, spread] as const));

describe.each(both)('eight cards of %s (spread: %s)', (format, spread) => {
  const right = box(format, spread);

  it('as they are, nothing is suspected', () => {
    expect(found(right)).toEqual([]);
  });

  it('with any two prints exchanged, they are named, and exchanged back', () => {
    for (let a = 0; a < right.length; a++)
      for (let b = a + 1; b < right.length; b += 3) {
        if (!isTried(a + b, 3)) continue;
        const wrong = right.map((one, i) => ({ ...one, printed: right[i === a ? b : i === b ? a : i]!.printed! }));
        expect(found(wrong)[0]).toMatchObject({ kind: 'swapped pair', rows: [a + 1, b + 1] });
        expect(putRight(wrong)).toEqual(right);
      }
  });

  it('with any bit of a card misread, it is named, and turned back; of others nothing is said', () => {
    const { length } = right[2]!.bits;
    for (let p = 0; p < length; p += format === '26-8-16' ? 1 : 4) {
      if (!isTried(p, 5, length % 5)) continue;
      const wrong = right.map((one, i) => (i === 2 ? { ...one, bits: flip(one.bits, p) } : one));
      const [first] = found(wrong);
      // Of a bit at the ends of the read it may as well be that it is parity over something else.
      if (!first && (p < 2 || p > length - 3)) continue;
      expect([p, first]).toMatchObject([p, { kind: 'misread bit', rows: [3] }]);
      if (first!.mend![0]!.aside) expect(first!.words).toContain(' or ');
      else expect(putRight(wrong)).toEqual(right);
    }
  });

  it('with a read inverted, a print mistyped, a bit lost, it is named, and put right', () => {
    for (let i = 0; i < right.length; i += 3) {
      if (!isTried(i / 3, 3, Number(spread))) continue;
      const with_ = (change: Partial<SpecimenInput>) => right.map((one, k) => (k === i ? { ...one, ...change } : one));
      const { bits, printed } = right[i]!;
      const inverted = with_({ bits: [...bits].map((bit) => (bit === '1' ? '0' : '1')).join('') });
      expect(found(inverted)[0]).toMatchObject({ kind: 'inverted read', rows: [i + 1] });
      expect(putRight(inverted)).toEqual(right);
      const mistyped = with_({
        printed: `${printed!.slice(0, 2)}${(Number(printed![2]) + 3) % 10}${printed!.slice(3)}`,
      });
      expect(found(mistyped)[0]).toMatchObject({ kind: 'mistyped print', rows: [i + 1] });
      expect(putRight(mistyped)).toEqual(right);
      const short = with_({ bits: bits.slice(0, 9) + bits.slice(10) });
      expect(found(short)[0]).toMatchObject({ kind: 'lost bit', rows: [i + 1] });
      expect(putRight(short)).toEqual(right);
    }
  });

  it('with cards of another code among them, those are named, one or half of them', () => {
    const other = box(format, spread, '200');
    for (const rows of [[3], [8], [5, 6, 7, 8], [2, 5]]) {
      const mixed = right.map((one, i) => (rows.includes(i + 1) ? other[i]! : one));
      expect(found(mixed)[0]).toMatchObject({ kind: 'other facility code', rows });
    }
  });
});

describe('in whatever order the cards were read', () => {
  const wrong: [string, (cards: SpecimenInput[]) => void][] = [
    ['two prints exchanged', (c) => ([c[2]!.printed, c[5]!.printed] = [c[5]!.printed, c[2]!.printed])],
    ['a print mistyped', (c) => (c[1]!.printed = `${c[1]!.printed!.slice(0, 3)}9`)],
    ['half of another code', (c) => c.splice(4, 4, ...box('26-8-16', true, '9').slice(4))],
    ['a bit misread', (c) => (c[6]!.bits = flip(c[6]!.bits, 12))],
    ['nothing', () => {}],
  ];
  it.each(wrong)('%s: the same is found, and every card of the box stands as it did', (_, spoil) => {
    const cards = box('26-8-16', true).map((one) => ({ ...one }));
    spoil(cards);
    const all = { from: 9000n, to: 9031n };
    const seen = [cards, cards.toReversed(), [...cards.slice(3), ...cards.slice(0, 3)]].map((order) => {
      const { suspects, range: found } = identify(order, { library: CATALOGUE, range: all });
      const named = suspects.map(({ kind, rows, odds }) => [
        kind,
        rows.map((row) => order[row - 1]!.bits).sort(),
        odds?.toFixed(6),
      ]);
      return { named, cards: found!.cards.map(({ standing, bits }) => [standing, bits]) };
    });
    expect(seen[1]).toEqual(seen[0]);
    expect(seen[2]).toEqual(seen[0]);
  });
});

describe('two formats in one case', () => {
  it('of one length: the fewer cards are named', () => {
    const uids = [3_000_123_456, 2_999_888_777, 3_100_000_001].map((n) => card('34-0-32', n));
    const mixed = [...box('34-16-16', true), ...uids];
    expect(found(mixed)[0]).toMatchObject({ kind: 'other format', rows: [9, 10, 11] });
  });

  it('of two lengths: the other is named, as no bit that was lost', () => {
    const mixed = [...box('26-8-16', true), card('37-16-19', 9003, '71')];
    expect(found(mixed)[0]).toMatchObject({ kind: 'other format', rows: [9], mend: [{ row: 9, group: '37 bits' }] });
  });
});

describe('lost zeros', () => {
  const short = (one: SpecimenInput) => ({ ...one, bits: one.bits.replace(/^0+/, '') });

  it('of one card are put back', () => {
    const right = box('34-16-16', true, '3');
    const wrong = right.map((one, i) => (i === 4 ? short(one) : one));
    expect(wrong[4]!.bits.length).toBeLessThan(33);
    expect(found(wrong)[0]).toMatchObject({ kind: 'lost zeros', rows: [5] });
    expect(putRight(wrong)).toEqual(right);
  });

  it('of all cards make the length a question, though nobody said so', () => {
    const numbers = [17, 500, 12_000, 777, 40_731];
    const finding = identify(
      numbers.map((n) => short(card('32-0-32', n))),
      { library: CATALOGUE },
    );
    expect(finding.suspects[0]).toMatchObject({ kind: 'lost zeros' });
    expect(finding.lengths!.map(({ length }) => length)).toContain(32);
  });
});

describe('what a slip of the finger costs', () => {
  it('a digit, two neighbours exchanged, one left out: less than another number', () => {
    const other = slipBits('118406', '990713');
    for (const typed of ['118407', '118460', '11840', '1184066'])
      expect(slipBits('118406', typed)).toBeLessThan(other / 2);
  });
});

describe('too little to go by', () => {
  it('one card settles nothing but itself, though a format of the library fits it', () => {
    const finding = identify([card('26-8-16', 9000, '71')], {
      library: CATALOGUE,
      range: { from: 9000n, to: 9199n },
      predict: ['9001'],
    });
    expect(finding.range).toMatchObject({ proven: 1, settled: 0 });
    expect(['open', 'presumed']).toContain(finding.predictions[0]!.standing);
  });

  it('where it is not sure what is wrong, nothing is proven with it', () => {
    const random = randomFrom(77);
    for (let trial = 0; trial < 12; trial++) {
      const numbers = [...new Set(Array.from({ length: 5 }, () => Math.floor(random() * 60_000)))];
      const specimens = numbers.map((n) => card('24-8-16', n, '71'));
      // Without parity a bit that is otherwise may be the code's as well.
      specimens[1]!.bits = flip(specimens[1]!.bits, 2);
      const finding = identify(specimens, { library: CATALOGUE, predict: ['4021'] });
      for (const { standing, bits } of finding.predictions)
        if (standing === 'proven' || standing === 'settled') expect(bits).toBe(card('24-8-16', 4021, '71').bits);
    }
  });
});

describe('facility codes that are named at the site', () => {
  it('make a format that shows one likelier, and nothing proven or settled', () => {
    const cards = box('26-8-16', true).slice(0, 6);
    const odds = (codes: string[]) => {
      const { range: all } = identify(cards, { library: CATALOGUE, codes, range: { from: 9000n, to: 9019n } });
      const unread = all!.cards.filter(({ row }) => row === undefined);
      return { of: unread.map((one) => one.odds ?? 0), standings: unread.map((one) => one.standing !== 'open') };
    };
    const [plain, named, other] = [odds([]), odds(['71']), odds(['72'])];
    expect(other).toEqual(plain);
    expect(plain.of.every((one, i) => named.of[i]! >= one)).toBe(true);
    expect(named.of.some((one, i) => one > plain.of[i]!)).toBe(true);
  });
});

describe('formats with a check', () => {
  // The format and its cards are invented; the CRC is filled by the codec.
  const layout = parseLayoutLine('56 | 1-16 facility | 17-40 number | 41-56 check crc16(poly=1021,init=FFFF) 1-40');
  const numbers = [700_000, 700_013, 700_044, 700_071, 700_106, 700_155, 700_180];
  const cards = (): SpecimenInput[] =>
    numbers.map((number) => ({
      bits: encode(layout, { facility: '4100', number: String(number) }).toBinary(),
      printed: String(number),
    }));
  const range = { from: 700_000n, to: 700_199n };

  it('are of the family: what is said of the box is right, and most of it is known', () => {
    const box = identify(cards(), { library: CATALOGUE, range }).range!;
    for (const { number, standing, bits } of box.cards)
      if (standing !== 'open') expect(bits).toBe(encode(layout, { facility: '4100', number }).toBinary());
    expect(box.open).toBe(0);
  });

  it('show a bit misread, where nothing but the check is otherwise', () => {
    const all = cards();
    const bits = [...(all[3]!.bits as string)];
    bits[46] = bits[46] === '1' ? '0' : '1';
    all[3] = { ...all[3]!, bits: bits.join('') };
    const [suspect] = identify(all, { library: CATALOGUE, range }).suspects;
    expect([suspect?.kind, suspect?.rows]).toEqual(['misread bit', [4]]);
  });
});
