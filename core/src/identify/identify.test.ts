/** From cards and prints to what is proven, presumed and open. The numbers of the cards are made up. */
import { describe, expect, it } from 'vitest';
import { boxNumbers, hiddenFormat, randomFrom } from '../../testing/hiddenFormats.ts';
import { met, seeds } from '../../testing/runs.ts';
import { Bits } from '../bits/index.ts';
import { CATALOGUE, catalogued } from '../catalogue/index.ts';
import { encode } from '../codec/index.ts';
import { failureOf } from '../failure/index.ts';
import { type IdentifyOptions, identify as identifyWith, type SpecimenInput } from './index.ts';

const identify = (specimens: SpecimenInput[], options: Partial<IdentifyOptions> = {}) =>
  identifyWith(specimens, { library: CATALOGUE, ...options });
const card = (format: string, facility: string | undefined, number: string | number, more = {}): SpecimenInput => ({
  bits: encode(catalogued(format)!, { number: String(number), ...(facility && { facility }) }).toBinary(),
  printed: String(number),
  ...more,
});
const truth = (format: string, facility: string | undefined, number: number) => card(format, facility, number).bits;
const bitsOf = (finding: ReturnType<typeof identify>, ...at: number[]) => at.map((p) => finding.bits[p - 1]!);

describe('clean cases of hidden formats', () => {
  it('no proven claim or prediction is wrong, and all of the hull is proven unless a rival stands against it', () => {
    let proven = 0;
    for (const seed of seeds(400)) {
      const random = randomFrom(seed);
      const format = hiddenFormat(random, { facilities: 1 });
      const [facility] = format.facilities as [bigint];
      const count = 1 + Math.floor(random() * 24);
      const numbers = boxNumbers(random, format, count + 4);
      const specimens = numbers.slice(0, count);
      const any = () => specimens[Math.floor(random() * specimens.length)]!;
      const sums = [any() ^ any() ^ any(), any() ^ any() ^ any()];
      const asked = [...numbers.slice(count), ...sums];
      const finding = identify(
        specimens.map((n) => ({ bits: format.bitsOf(n, facility).toBinary(), printed: n.toString() })),
        { predict: asked.map(String), family: false },
      );
      finding.predictions.forEach((p, i) => {
        if (p.standing === 'proven') {
          proven++;
          expect([seed, p.bits]).toEqual([seed, format.bitsOf(asked[i]!, facility).toBinary()]);
        } else if (i >= asked.length - sums.length) expect([seed, finding.rivals.length > 0]).toEqual([seed, true]);
      });
      let changed = 0n;
      for (const n of specimens) changed |= n ^ specimens[0]!;
      const within = [...specimens, ...asked].filter((n) => ((n ^ specimens[0]!) & ~changed) === 0n);
      for (const bit of finding.bits.filter((b) => b.standing === 'proven')) {
        for (const n of within) {
          const value = bit.xorOf!.reduce((sum, k) => sum ^ Number((n >> BigInt(k)) & 1n), bit.plus as number);
          expect([seed, bit.at, value]).toEqual([seed, bit.at, format.bitsOf(n, facility).at(bit.at)]);
        }
      }
    }
    expect(proven).toBeGreaterThan(met(800));
  });
});

describe('two formats that show the same small number', () => {
  // DOMAIN §2, common practice: with facility code 0 both show the printed number and part ways on the next box.
  it.each([
    ['37-16-19', '37-0-35', 524_288, '2-17'],
    ['26-8-16', '26-0-24', 65_536, '2-9'],
    ['34-16-16', '34-0-32', 65_536, '2-17'],
  ])('%s and %s end open, with a card that parts them', (split, whole, from, range) => {
    const numbers = [17, 500, 12000, 777, 40731];
    const finding = identify(
      numbers.map((n) => card(split, '0', n)),
      { predict: [String(from + 5), String(17 ^ 500 ^ 777)] },
    );
    expect(
      finding.known
        .filter((k) => k.fits === 5)
        .map((k) => k.format)
        .sort(),
    ).toEqual([split, whole].sort());
    const [first, last] = range.split('-').map(Number) as [number, number];
    for (let p = first; p <= last; p++) expect(bitsOf(finding, p)[0]).toMatchObject({ standing: 'open' });
    expect(finding.predictions.map((p) => p.standing)).toEqual(['open', 'proven']);
    const breaker = finding.tieBreaker!;
    expect(BigInt(breaker.printed)).toBeGreaterThanOrEqual(BigInt(from));
    expect(breaker.words).toContain(`tells whether bits ${range} belong to the facility code or to the number`);
    // Read that card, of the number-only format: the other is out.
    const next = identify([...numbers.map((n) => card(whole, undefined, n)), card(whole, undefined, breaker.printed)]);
    expect(next.layouts.map((l) => l.format)).toEqual([whole]);
  });

  it('where the length is lost too, formats of several lengths compete', () => {
    const lost = (c: SpecimenInput) => ({ ...c, bits: c.bits.replace(/^0+(?=.)/, ''), lengthKnown: false });
    const finding = identify(
      [17, 500, 12000].map((n) => lost(card('32-0-32', undefined, n))),
      { predict: ['600000'] },
    );
    expect(finding.lengths!.length).toBeGreaterThan(1);
    expect(finding.lengths!.map((l) => l.length)).toContain(32);
    // 17 ⊕ 500 ⊕ 12000 adds up, with whatever zeros in front; where a position stands is a question all the same.
    const asked = String(17 ^ 500 ^ 12000);
    const sum = identify(
      [17, 500, 12000].map((n) => lost(card('32-0-32', undefined, n))),
      { predict: [asked] },
    );
    expect(sum.predictions[0]).toMatchObject({ standing: 'proven' });
    expect(BigInt(`0b${sum.predictions[0]!.bits}`)).toBe(BigInt(`0b${truth('32-0-32', undefined, Number(asked))}`));
    expect(sum.assumptions).toContainEqual(expect.stringContaining('right-justified'));
    expect(sum.bits.some((b) => b.standing === 'proven')).toBe(false);
    const padded = (c: SpecimenInput) => ({ ...c, bits: c.bits.padStart(48, '0'), lengthKnown: false });
    const longer = identify([30731, 41210, 62000, 9].map((n) => padded(card('26-8-16', '71', n))));
    expect([longer.length, longer.layouts[0]!.format]).toEqual([26, '26-8-16']);
  });
});

describe('proven bits', () => {
  it('a box counted through proves its low bits, parity over them, and says what each is presumed for', () => {
    const finding = identify(
      [40, 41, 42, 44, 48, 56, 57].map((n) => card('26-8-16', '71', n)),
      { predict: ['61', '100'] },
    );
    expect(finding.checks).toBe(1);
    expect(bitsOf(finding, 25, 22, 26)).toMatchObject([
      { standing: 'proven', xorOf: [0], plus: 0, role: { is: 'number', bit: 0, standing: 'presumed' } },
      { standing: 'proven', xorOf: [3], plus: 0 },
      { standing: 'proven', xorOf: [0, 1, 2, 3, 4], role: { is: 'parity', of: '14-25', sense: 'odd' } },
    ]);
    expect(finding.predictions[0]).toMatchObject({ standing: 'proven', bits: truth('26-8-16', '71', 61) });
    expect(finding.predictions[1]).toMatchObject({ standing: 'likely', bits: truth('26-8-16', '71', 100) });
  });

  it('what one number bit does is proven even while others are not settled', () => {
    const finding = identify([40, 41, 1000, 30000].map((n) => card('26-8-16', '71', n)));
    expect(finding.settled).toEqual([{ bit: 0, turns: [25, 26] }]);
    expect(finding.unsettled.length).toBeGreaterThan(5);
  });

  it('with the facility codes given, cards of both codes prove together', () => {
    const specimens = [
      [40, '71'],
      [41, '71'],
      [42, '71'],
      [40, '72'],
      [43, '72'],
    ].map(([n, f]) => card('26-8-16', String(f), Number(n), { facility: String(f) }));
    const finding = identify(specimens, { predict: ['071,00043'] });
    expect(finding.predictions[0]).toMatchObject({ standing: 'proven', bits: truth('26-8-16', '71', 43) });
  });

  it('a prediction from untested cards has no check, and says so', () => {
    const finding = identify([card('26-8-16', '71', 5)], { predict: ['5'] });
    expect(finding.predictions[0]).toMatchObject({
      standing: 'proven',
      checks: 0,
      why: expect.stringContaining('No check is left over'),
    });
    expect(finding.tieBreaker!.atMost).toBeGreaterThan(10);
  });
});

describe('other ways to print', () => {
  const numbers = [10233, 10871, 640, 40731, 52000];
  const printed = (f: (n: number) => string) =>
    numbers.map((n) => ({ bits: truth('26-8-16', '71', n), printed: f(n) }));
  it.each([
    ['joined in one decimal', (n: number) => String(71 * 100_000 + n), 'last five digits', '7110902', 10902],
    [
      'facility and number apart',
      (n: number) => `071 ${String(n).padStart(5, '0')}`,
      'is the number',
      '071 10902',
      10902,
    ],
    ['a constant added', (n: number) => String(n - 640 + 7), 'plus 633', '100', 733],
  ])('%s', (_, f, words, ask, number) => {
    const finding = identify(printed(f), { predict: [ask] });
    expect(finding.reading).toContain(words);
    expect(finding.predictions[0]!.standing).not.toBe('proven');
    expect(finding.predictions[0]!.bits).toBe(truth('26-8-16', '71', number));
  });

  it('the last digits only: the number nearest to the cards read, in the box and beyond the next thousand', () => {
    const numbers = [39_995, 40_010, 39_870, 40_120, 39_990];
    const specimens = numbers.map((n) => ({
      ...card('34-0-32', undefined, 4_200_000 + n),
      printed: String(n).slice(1),
    }));
    const finding = identify(specimens, { predict: ['0001', '9999'] });
    expect(finding.reading).toContain('last digits of a longer number');
    for (const [i, number] of [4_240_001, 4_239_999].entries()) {
      expect(finding.predictions[i]!.standing).not.toBe('proven');
      expect(finding.predictions[i]!.bits).toBe(truth('34-0-32', undefined, number));
    }
  });

  it('a UID in hex, its bytes reversed in the read', () => {
    const uids = ['04A23B1C', '1D2C4F90', 'A1B2C3D4'];
    const finding = identify(uids.map((uid) => ({ bits: Bits.fromHex(uid).reverseBytes().toBinary(), printed: uid })));
    expect(finding.places[0]).toContain('bytes reversed');
    expect(finding.layouts.map((l) => l.format)).toContain('32r-0-32');
  });

  it('digits in BCD', () => {
    const finding = identify(
      ['1047', '2250', '9381', '4419'].map((n) => ({ bits: Bits.fromHex(`A${n}F`).toBinary(), printed: n })),
      { predict: ['7777'] },
    );
    expect(finding.reading).toContain('four bits each');
    expect(finding.predictions[0]).toMatchObject({ standing: 'likely', bits: Bits.fromHex('A7777F').toBinary() });
  });

  it('a rival that says otherwise makes the prediction open', () => {
    // Numbers one above the print, so that three prints add up to a fourth which the carry makes another.
    const bits = (n: number) => truth('26-8-16', '71', n + 1);
    const finding = identify(
      [1, 2, 4].map((n) => ({ bits: bits(n), printed: String(n) })),
      { predict: ['7'] },
    );
    expect(finding.predictions[0]!.standing).not.toBe('proven');
  });
});

describe('suspects', () => {
  const numbers = [40, 41, 42, 44, 48, 56, 57, 43, 61];
  const box = () => numbers.map((n) => card('26-8-16', '71', n));

  it('a mistyped print is named, with what it should be', () => {
    const specimens = box();
    specimens[4]!.printed = '84';
    const [suspect] = identify(specimens).suspects;
    expect(suspect).toMatchObject({ kind: 'mistyped print', rows: [5], mend: [{ row: 5, printed: '48' }] });
  });

  it('a swapped pair is named as one', () => {
    const specimens = box();
    [specimens[1]!.printed, specimens[5]!.printed] = [specimens[5]!.printed, specimens[1]!.printed];
    expect(identify(specimens).suspects[0]).toMatchObject({ kind: 'swapped pair', rows: [2, 6] });
  });

  it('a lost bit and an inverted line', () => {
    const lost = box();
    lost[3] = { ...lost[3]!, bits: lost[3]!.bits.slice(1) };
    expect(identify(lost).suspects[0]).toMatchObject({
      kind: 'lost bit',
      rows: [4],
      mend: [{ row: 4, bits: truth('26-8-16', '71', 44) }],
    });
    const inverted = box();
    inverted[8] = { ...inverted[8]!, bits: Bits.fromBinary(inverted[8]!.bits).invert().toBinary() };
    expect(identify(inverted).suspects[0]).toMatchObject({
      kind: 'inverted read',
      rows: [9],
      mend: [{ row: 9, bits: truth('26-8-16', '71', 61) }],
    });
  });

  it('two facility codes in one case are parted', () => {
    const specimens = [...box().slice(0, 5), ...[45, 46, 60, 62, 63].map((n) => card('26-8-16', '88', n))];
    const [suspect] = identify(specimens).suspects;
    expect(suspect).toMatchObject({ kind: 'other facility code', rows: [6, 7, 8, 9, 10] });
    const { splits } = identify(specimens, { family: false });
    expect(splits[0]!.groups.map((g) => g.join()).sort()).toEqual(['1,2,3,4,5', '6,7,8,9,10']);
    expect(splits[0]!.words).toContain('two facility codes');
  });

  it('the same card with two prints', () => {
    const specimens = [...box(), { ...box()[0]!, printed: '404' }];
    expect(
      identify(specimens).suspects.some((s) => s.kind === 'one card, two prints' && s.rows.join() === '1,10'),
    ).toBe(true);
  });

  it('nothing is dropped silently: what does not agree is never proven', () => {
    const specimens = box();
    // 45 is 40 ⊕ 41 ⊕ 44, so its bits are told by other cards, and card 3 does not have them.
    specimens[2]!.printed = '45';
    const finding = identify(specimens, { predict: ['60'] });
    expect([finding.consistent, finding.assuming]).toEqual([false, finding.suspects[0]!.words]);
    expect(finding.assumptions).toContain(`put right first: ${finding.suspects[0]!.words}`);
    expect(finding.predictions[0]).toMatchObject({ standing: 'proven', bits: truth('26-8-16', '71', 60) });
    const unexplained = identify(specimens, { predict: ['60'], family: false });
    expect([unexplained.consistent, unexplained.predictions[0]!.standing]).toEqual([false, 'open']);
    const aside = identify(specimens, { predict: ['60'], setAside: [3] });
    expect(aside.predictions[0]).toMatchObject({ standing: 'proven', bits: truth('26-8-16', '71', 60) });
    expect(aside.setAside).toEqual([3]);
    // Card 48 is in no relation; that its print stands elsewhere is seen all the same, and nothing is built on it.
    const untested = box();
    untested[4]!.printed = '84';
    expect(identify(untested, { predict: ['84'], family: false }).predictions[0]!.standing).toBe('open');
  });
});

describe('bad input', () => {
  it.each([
    [[], 'specimens-none', undefined],
    [[{ bits: '0101', printed: 'abc!' }], 'print-unreadable', 1],
    [
      [
        { bits: '0101', printed: '1' },
        { bits: '0111', printed: 'no number' },
      ],
      'print-unreadable',
      2,
    ],
  ])('%j is refused as %s', (specimens, code, row) => {
    const failure = (() => {
      try {
        identify(specimens);
        return undefined;
      } catch (error) {
        return failureOf(error);
      }
    })();
    expect([failure?.code, failure?.where?.row]).toEqual([code, row]);
  });

  it('one specimen, and specimens without a print, are honest about it', () => {
    expect(identify([card('37-16-19', '2214', 118406)]).checks).toBe(0);
    const blind = identify([{ bits: truth('26-8-16', '71', 5) }, { bits: truth('26-8-16', '71', 9) }]);
    expect([blind.reading, blind.tieBreaker, blind.known.length]).toEqual([null, null, 2]);
  });
});
