/**
 * The family, counted position by position, against every member of it written out one by one: at small lengths all of them are gone
 * through, by code that shares nothing with the counting. And the laws: what is settled is never wrong where the format is of the
 * family, more cards never take it away, and their order does not matter.
 */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { hiddenFormat, randomFrom } from '../../../testing/hiddenFormats.ts';
import { met, runs, seedOr, seeds } from '../../../testing/runs.ts';
import { Bits } from '../../bits/index.ts';
import { catalogued } from '../../catalogue/index.ts';
import { checkValue, encode } from '../../codec/index.ts';
import { type CheckMethod, checkWidth, parseLayoutLine } from '../../format/index.ts';
import { plainReadings } from '../cards/readings.ts';
import { specimensFrom } from '../cards/specimen.ts';
import { printOf } from '../predict.ts';
import { coversOf, KINDS } from './covers.ts';
import { Family } from './index.ts';

interface Card {
  read: string;
  number: number;
}
const familyOf = (cards: readonly Card[], asked: readonly number[]): Family => {
  const specimens = specimensFrom(cards.map(({ read, number }) => ({ bits: read, printed: String(number) })));
  return new Family({
    reads: specimens.map(({ bits }) => bits),
    readings: plainReadings(specimens).filter(({ kind }) => kind === 'as printed'),
    asked: asked.map((n) => printOf(String(n))),
    constants: false,
    mostSites: 1000,
  });
};

/** Sets of positions that a parity bit may cover, written out. */
function everyCover(length: number): number[][] {
  const sets = new Map<string, number[]>();
  const patterns = ['1', '10', '100', '110', '101'];
  for (let from = 0; from < length; from++)
    for (let to = from; to < length; to++)
      for (const pattern of patterns) {
        const set: number[] = [];
        for (let p = from; p <= to; p++) if (pattern[(p - from) % pattern.length] === '1') set.push(p);
        sets.set(set.join(), set);
      }
  return [...sets.values()];
}

/** What some ways say of every number asked about, as one word with a bit a number; and how many ways say so. */
type Ways = Map<number, bigint>;
const put = (ways: Ways, says: number, count = 1n) => ways.set(says, (ways.get(says) ?? 0n) + count);
const total = (ways: Ways) => [...ways.values()].reduce((sum, count) => sum + count, 0n);

/** What every position may be, and in how many ways all of them together. */
interface Member {
  positions: Ways[];
  count: bigint;
  checks: number;
}

/**
 * What every position may be, for every place of the number, with each check or two and without one: as many ways as there are, gone
 * through one by one.
 */
function everyMember(cards: readonly Card[], asked: readonly number[]): Member[] {
  const { length } = cards[0]!.read;
  const numbers = [...cards.map(({ number }) => number), ...asked];
  const width = Math.max(...numbers).toString(2).length;
  const bitOf = (n: number, k: number) => (n >> k) & 1;
  const always = (bit: number) => (bit ? 2 ** asked.length - 1 : 0);
  const saysOf = (k: number) => asked.reduce((all, n, i) => all | (bitOf(n, k) << i), 0);
  const changes = (k: number) => new Set(numbers.map((n) => bitOf(n, k))).size > 1;
  const at = (card: Card, p: number) => Number(card.read[p]);
  const isConstant = (p: number) => new Set(cards.map((card) => at(card, p))).size === 1;
  const covers = everyCover(length);
  const places: { where: number[]; inverted: number }[] = [];
  for (const inverted of [0, 1])
    for (let low = 0; low < length; low++) {
      places.push({ where: Array.from({ length: width }, (_, k) => low - k), inverted });
      if (width > 1) places.push({ where: Array.from({ length: width }, (_, k) => low + k), inverted });
      for (let cut = 1; cut < width; cut++)
        for (let high = 0; high < length; high++)
          if (high !== low - cut)
            places.push({
              where: Array.from({ length: width }, (_, k) => (k < cut ? low - k : high - (k - cut))),
              inverted,
            });
    }
  const isPlace = ({ where, inverted }: (typeof places)[number]) =>
    new Set(where).size === width &&
    where.every((p) => p >= 0 && p < length) &&
    cards.every((card) => where.every((p, k) => at(card, p) === (bitOf(card.number, k) ^ inverted)));
  const checks = everyCheck(cards);
  return places.filter(isPlace).flatMap(({ where, inverted }) => {
    const moving = new Map(where.flatMap((p, k) => (changes(k) ? [[p, k] as const] : [])));
    const ends = new Set([0, 1, length - 2, length - 1].filter((p) => !where.includes(p)));
    /** Ways in which a position is parity; `inner` gives those of an end that it covers. */
    const parities = (p: number, inner?: (end: number) => Ways): Ways => {
      const found: Ways = new Map();
      for (const set of covers) {
        const strictlyInside = set.includes(p) && set[0]! < p && p < set.at(-1)!;
        if (set.includes(p) && !strictlyInside) continue;
        const cover = set.filter((q) => q !== p);
        const inCover = inner ? cover.filter((q) => ends.has(q)) : [];
        const rest = cover.filter((q) => !moving.has(q) && !inCover.includes(q));
        if (!rest.every(isConstant) || (inCover.length === 0 && !cover.some((q) => moving.has(q)))) continue;
        const sums = cards.map((card) => cover.reduce((sum, q) => sum ^ at(card, q), at(card, p)));
        if (new Set(sums).size > 1) continue;
        const start = always(rest.reduce((sum, q) => sum ^ at(cards[0]!, q), sums[0]!));
        const own = cover.reduce(
          (says, q) => (moving.has(q) ? says ^ saysOf(moving.get(q)!) ^ always(inverted) : says),
          start,
        );
        let ways: Ways = new Map([[own, 1n]]);
        for (const end of inCover) {
          const next: Ways = new Map();
          for (const [says, count] of ways)
            for (const [other, times] of inner!(end)) put(next, says ^ other, count * times);
          ways = next;
        }
        for (const [says, count] of ways) put(found, says, count);
      }
      return found;
    };
    const withConstant = (p: number, ways: Ways): Ways => {
      if (isConstant(p)) put(ways, always(at(cards[0]!, p)));
      return ways;
    };
    const ofEnds = new Map([...ends].map((end) => [end, withConstant(end, parities(end))]));
    const positions = Array.from({ length }, (_, p): Ways => {
      const k = where.indexOf(p);
      if (k >= 0) return new Map([[saysOf(k) ^ always(inverted), 1n]]);
      return withConstant(
        p,
        parities(p, (end) => ofEnds.get(end)!),
      );
    });
    const standing = checks.filter(
      ({ is, over, isInverted }) =>
        isInverted === (inverted === 1) && !is.some((p) => where.includes(p)) && over.some((p) => moving.has(p)),
    );
    return [[], ...standing.map((one) => [one]), ...pairsOf(standing)].map((own): Member => {
      const said = [...positions];
      const isSaid = new Set(own.flatMap(({ is }) => is));
      for (const { is, valuesOver } of own) {
        const values = asked.map((_, n) => valuesOver((p) => [...said[p]!.keys()].map((says) => (says >> n) & 1)));
        is.forEach((p, k) => {
          // Whatever it may be: for each number asked about 0, 1, or either.
          let [least, most] = [0, 0];
          for (const [n, some] of values.entries()) {
            const bits = new Set(some.map((value) => (value >> (is.length - 1 - k)) & 1));
            if (!bits.has(0)) least |= 1 << n;
            if (bits.has(1)) most |= 1 << n;
          }
          said[p] = new Map([least, most].map((says) => [says, 1n]));
        });
      }
      const count = positions.reduce((all, ways, p) => (isSaid.has(p) ? all : all * total(ways)), 1n);
      return { positions: said, count, checks: own.length };
    });
  });
}

interface RefCheck {
  is: number[];
  over: number[];
  isInverted: boolean;
  /** What it may say, where each position may be what `mayBe` has. */
  valuesOver(mayBe: (position: number) => number[]): number[];
}
const METHODS: CheckMethod[] = [
  { kind: 'xor', width: 4 },
  { kind: 'sum', width: 4, negated: false },
  { kind: 'sum', width: 4, negated: true },
  { kind: 'lrc5' },
];

/** Every check that all cards have, by the code that formats are computed with. Reads of fewer than 16 bits have no wider ones. */
function everyCheck(cards: readonly Card[]): RefCheck[] {
  const { length } = cards[0]!.read;
  const found: RefCheck[] = [];
  for (const isInverted of [false, true])
    for (const method of METHODS) {
      const width = checkWidth(method);
      const turn = isInverted ? 2 ** width - 1 : 0;
      const valueOver = (bits: readonly number[]) =>
        Number(checkValue(method, Bits.fromBinary(bits.map((bit) => (isInverted ? 1 - bit : bit)).join('')))) ^ turn;
      for (let first = 0; first < length; first++)
        for (let last = first + width - 1; last < length; last += width) {
          // The sum of one nibble is its exclusive or.
          if (method.kind === 'sum' && !method.negated && last - first + 1 === width) continue;
          const over = Array.from({ length: last - first + 1 }, (_, k) => first + k);
          const values = cards.map(({ read }) => valueOver(over.map((p) => Number(read[p]))));
          for (let at = 0; at + width <= length; at++) {
            const is = Array.from({ length: width }, (_, k) => at + k);
            if (is.some((p) => over.includes(p))) continue;
            if (!cards.every(({ read }, i) => Number.parseInt(read.slice(at, at + width), 2) === values[i])) continue;
            const valuesOver = (mayBe: (position: number) => number[]) => {
              let some: number[][] = [[]];
              for (const p of over) {
                const bits = new Set(mayBe(p));
                some = some.flatMap((list) => [...bits].map((bit) => [...list, bit]));
              }
              return some.map(valueOver);
            };
            found.push({ is, over, isInverted, valuesOver });
          }
        }
    }
  return found;
}

/** Two that are not in one another's place and not each over the other; the one that is over the other's place behind it. */
function pairsOf(checks: readonly RefCheck[]): RefCheck[][] {
  const share = (a: readonly number[], b: readonly number[]) => a.some((p) => b.includes(p));
  return checks.flatMap((one, i) =>
    checks.slice(i + 1).flatMap((other) => {
      if (share(one.is, other.is) || (share(one.over, other.is) && share(other.over, one.is))) return [];
      return [share(one.over, other.is) ? [other, one] : [one, other]];
    }),
  );
}

/** The family of some cards with as many members as there are; none where more checks agree than are gone through, as nothing is settled then. */
function heldAgainst(cards: readonly Card[], asked: readonly number[]) {
  const members = everyMember(cards, asked).filter(({ count }) => count > 0n);
  if (members.filter(({ checks }) => checks > 0).length > 24) return { members, family: undefined };
  const family = familyOf(cards, asked);
  expect(family.count).toBe(members.reduce((sum, { count }) => sum + count, 0n));
  return { members, family };
}

/** What the family predicts, each settled bit just where all members give the same. */
function predictionsHeld(family: Family, members: readonly Member[], asked: readonly number[]) {
  return asked.map((n) => {
    const print = String(n);
    const prediction = family.predict(printOf(print))!;
    for (let p = 0; p < prediction.bits.length; p++) {
      const said = new Set(
        members.flatMap(({ positions }) => [...positions[p]!.keys()].map((says) => (says >> n) & 1)),
      );
      expect([n, p, prediction.settledBits[p]]).toEqual([n, p, said.size === 1]);
      if (said.size === 1) expect(String([...said][0])).toBe(prediction.bits[p]);
    }
    expect(prediction.odds).toBeGreaterThanOrEqual(0);
    expect(prediction.odds).toBeLessThanOrEqual(1);
    return { ...prediction, print };
  });
}

describe('counted against every member, one by one', () => {
  const some = fc
    .record({
      length: fc.integer({ min: 4, max: 8 }),
      width: fc.integer({ min: 1, max: 3 }),
      cards: fc.integer({ min: 1, max: 5 }),
    })
    .chain(({ length, width, cards }) =>
      fc.record({
        reads: fc.array(fc.integer({ min: 0, max: 2 ** length - 1 }), { minLength: cards, maxLength: cards }),
        numbers: fc.uniqueArray(fc.integer({ min: 0, max: 2 ** width - 1 }), { minLength: 1, maxLength: cards }),
        at: fc.integer({ min: width - 1, max: length - 1 }),
        length: fc.constant(length),
        width: fc.constant(width),
        // Mostly formats of the family, so that something is left: parity over what stands before, and constants.
        parity: fc.array(fc.boolean(), { minLength: length, maxLength: length }),
        constant: fc.integer({ min: 0, max: 2 ** length - 1 }),
        isWild: fc.integer({ min: 0, max: 4 }),
        isChecked: fc.boolean(),
        isNegated: fc.boolean(),
      }),
    );

  it('as many are left, and what is settled is what all of them give', () => {
    let [settledSeen, openSeen, empty, checked] = [0, 0, 0, 0];
    fc.assert(
      fc.property(some, ({ reads, numbers, at, length, width, parity, constant, isWild, isChecked, isNegated }) => {
        const bits = (value: number) => value.toString(2).padStart(length, '0');
        const cards = numbers.map((number, i): Card => {
          if (isWild === 0) return { read: bits(reads[i] ?? constant), number };
          const read = [...bits(constant)].map(Number);
          for (let k = 0; k < width; k++) read[at - k] = (number >> k) & 1;
          parity.forEach((is, p) => {
            if (is && (p < at - width + 1 || p > at))
              read[p] = read.reduce((sum, bit, q) => (q < p ? sum ^ bit : sum), 0);
          });
          // The second nibble an exclusive or over the first alone, or its two's complement.
          if (isChecked && length === 8 && at < 4) {
            const value = read.slice(0, 4).reduce((all, bit) => 2 * all + bit, 0);
            const said = isNegated ? (16 - value) % 16 : value;
            read.splice(4, 4, ...[3, 2, 1, 0].map((k) => (said >> k) & 1));
          }
          return { read: read.join(''), number };
        });
        const asked = Array.from({ length: 2 ** width }, (_, n) => n);
        const { members, family } = heldAgainst(cards, asked);
        if (!family || family.isEmpty) {
          empty++;
          return;
        }
        if (members.some(({ checks }) => checks > 0)) checked++;
        for (const { settled } of predictionsHeld(family, members, asked)) settled ? settledSeen++ : openSeen++;
      }),
      { numRuns: runs(400), seed: seedOr(3) },
    );
    expect([settledSeen, openSeen, empty, checked].map((seen, i) => seen >= met([200, 200, 3, 10][i]!))).toEqual([
      true,
      true,
      true,
      true,
    ]);
  });

  it.each([
    '12 | 1-4 number | 5-8 check sum4(complement) 1-4 | 9-12 check sum4 1-8',
    '12 | 1-4 check xor4 5-12 | 5-8 check sum4(complement) 9-12 | 9-12 number',
    '13 | 1-4 check xor4 6-9 | 5 fixed 1 | 6-9 number | 10-13 check sum4(complement) 6-9',
    '14 | 1-4 number | 5 fixed 0 | 6-10 check lrc5 1-5 | 11-14 check xor4 3-10',
  ])('two checks in one read: %s', (line) => {
    const layout = parseLayoutLine(line);
    const random = randomFrom(line.length);
    let [twice, settledSeen] = [0, 0];
    for (let run = 0; run < 6; run++) {
      const numbers = new Set([15]);
      while (numbers.size < 5 + (run % 3)) numbers.add(Math.floor(random() * 16));
      const cards = [...numbers].map((number) => ({
        number,
        read: encode(layout, { number: String(number) }).toBinary(),
      }));
      const asked = Array.from({ length: 16 }, (_, n) => n);
      const { members, family } = heldAgainst(cards, asked);
      if (!family) continue;
      if (members.some(({ checks }) => checks === 2)) twice++;
      for (const { settled, bits, print } of predictionsHeld(family, members, asked)) {
        if (!settled) continue;
        settledSeen++;
        expect(bits).toBe(encode(layout, { number: print }).toBinary());
      }
    }
    expect([line, twice > 2, settledSeen > 20]).toEqual([line, true, true]);
  });

  it('the covers are those written out, each once', () => {
    for (const length of [1, 2, 3, 5, 9, 14]) {
      const { count, first, last, kind } = coversOf(length);
      const own = Array.from({ length: count }, (_, i) => {
        const pattern = ['1', '10', '100', '110', '101'][kind[i]!]!;
        const set: number[] = [];
        for (let p = first[i]!; p <= last[i]!; p++) if (pattern[(p - first[i]!) % pattern.length] === '1') set.push(p);
        return set.join();
      });
      expect(own.toSorted()).toEqual(
        everyCover(length)
          .map((set) => set.join())
          .toSorted(),
      );
    }
    expect(KINDS).toHaveLength(5);
  });
});

describe('what is settled', () => {
  const format = catalogued('26-8-16')!;
  const read = (number: number) => encode(format, { facility: '118', number: String(number) }).toBinary();
  const asked = Array.from({ length: 200 }, (_, i) => 10_000 + i);
  const cardsOf = (numbers: readonly number[]) => numbers.map((number) => ({ read: read(number), number }));

  it('is never wrong where the format is of the family, more cards never take it away, and their order does not matter', () => {
    const numbers = fc.uniqueArray(fc.integer({ min: 10_000, max: 10_199 }), { minLength: 3, maxLength: 8 });
    fc.assert(
      fc.property(numbers, fc.nat(199), (all, more) => {
        const before = familyOf(cardsOf(all), asked);
        const turned = familyOf(cardsOf(all.toReversed()), asked);
        const after = familyOf(cardsOf([...all, 10_000 + more]), asked);
        expect(turned.count).toBe(before.count);
        expect(after.count <= before.count).toBe(true);
        for (const n of asked.filter((_, i) => i % 9 === 0)) {
          const [was, same, now] = [before, turned, after].map((family) => family.predict(printOf(String(n)))!);
          expect(same!.settled).toBe(was!.settled);
          if (was!.settled) expect([now!.settled, was!.bits]).toEqual([true, read(n)]);
        }
      }),
      { numRuns: runs(25), seed: seedOr(3) },
    );
  });

  it('is never wrong on hidden formats of the family, of any length, order and parity, consecutive or not', () => {
    let [settled, likely, likelyRight] = [0, 0, 0];
    for (const seed of seeds(90)) {
      const random = randomFrom(seed);
      const hidden = hiddenFormat(random, { facilities: 1 });
      if (!hidden.isOfFamily || hidden.length > 80) continue;
      const size = Math.min(200, 2 ** hidden.numberBits);
      const start = Math.floor(random() * (2 ** Math.min(hidden.numberBits, 24) - size));
      const truth = (n: number) => hidden.bitsOf(BigInt(n), hidden.facilities[0]!).toBinary();
      const step = random() < 0.4 ? 1 : Math.floor(1 + random() * (size / 12));
      const numbers = Array.from({ length: 3 + Math.floor(random() * 8) }, (_, i) => start + i * step);
      const all = Array.from({ length: size }, (_, i) => start + i);
      const family = familyOf(
        numbers.map((number) => ({ read: truth(number), number })),
        all,
      );
      for (const n of all.filter((_, i) => i % 7 === 0)) {
        const said = family.predict(printOf(String(n)));
        if (said?.settled) {
          settled++;
          expect([seed, n, said.bits]).toEqual([seed, n, truth(n)]);
        } else if (said && said.odds >= 0.9) {
          likely++;
          if (said.bits === truth(n)) likelyRight++;
        }
      }
    }
    expect([settled >= met(60), likely >= met(60)]).toEqual([true, true]);
    expect(likelyRight / likely).toBeGreaterThan(0.9);
  });

  it('of two consecutive cards of a 26-bit format next to nothing; of nine that part every number bit the whole box', () => {
    const settled = (numbers: readonly number[]) => {
      const family = familyOf(cardsOf(numbers), asked);
      return asked.filter((n) => family.predict(printOf(String(n)))!.settled).length;
    };
    expect(settled([10_000, 10_001])).toBe(2);
    // 10 000 is 2^4 over 9 984: these nine differ from it in one bit each.
    expect(settled([10_000, 10_001, 10_002, 10_004, 10_008, 9_984, 10_032, 10_064, 10_128])).toBe(200);
  });

  it('a member that says otherwise is named', () => {
    const family = familyOf(cardsOf([10_000, 10_131, 10_077, 10_198]), asked);
    expect(family.predict(printOf('10001'))?.rival?.().words).toBe('unless bit 1 is parity over bits 23 to 25');
  });
});

it('nothing is left where no member agrees', () => {
  const cards = [5, 6, 7].map((number) => ({
    read: Bits.fromBigInt(BigInt((number * 7919) % 4096), 12).toBinary(),
    number: 900 + number,
  }));
  expect(familyOf(cards, [900]).isEmpty).toBe(true);
  expect(familyOf(cards, [900]).predict(printOf('900'))).toBeUndefined();
});
