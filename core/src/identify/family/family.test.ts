/**
 * The family, counted position by position, against every member of it written out one by one: at small lengths all of them are gone
 * through, by code that shares nothing with the counting. And the laws: what is settled is never wrong where the format is of the
 * family, more cards never take it away, and their order does not matter.
 */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { hiddenFormat, randomFrom } from '../../../testing/hiddenFormats.ts';
import { Bits } from '../../bits/index.ts';
import { catalogued } from '../../catalogue/index.ts';
import { encode } from '../../codec/index.ts';
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
  isChecked?: boolean;
}

/**
 * What every position may be, for every place of the number, with each check over nibbles and without one: as many ways as there
 * are, gone through one by one. No other check fits so short a read.
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
    const checks = nibbleChecks(length).filter(
      ({ is, over }) =>
        is.flat().every((p) => !where.includes(p)) &&
        over.flat().some((p) => moving.has(p)) &&
        cards.every((card) =>
          is.every((p, i) => over[i]!.reduce((sum, q) => sum ^ at(card, q) ^ inverted, inverted) === at(card, p)),
        ),
    );
    const checked = checks.map(({ is, over }): Member => {
      const count = positions.reduce((all, ways, p) => (is.includes(p) ? all : all * total(ways)), 1n);
      const own = [...positions];
      is.forEach((p, i) => {
        // The complement of a sum of complements: each of them counts.
        const start: Ways = new Map([[always((inverted * (over[i]!.length + 1)) & 1), 1n]]);
        own[p] = over[i]!.reduce((ways, q) => {
          const next: Ways = new Map();
          for (const a of ways.keys()) for (const b of positions[q]!.keys()) next.set(a ^ b, 1n);
          return next;
        }, start);
      });
      return { positions: own, count, isChecked: true };
    });
    // The two's complement of a nibble; the sum of one nibble alone is its exclusive or.
    const negated = nibbleChecks(length)
      .filter(({ over }) => over.every((one) => one.length === 1))
      .map(({ is, over }) => ({ is, over: over.flat() }))
      .filter(
        ({ is, over }) =>
          is.every((p) => !where.includes(p)) &&
          over.some((p) => moving.has(p)) &&
          cards.every((card) => valueAt(card, is, inverted) === (16 - valueAt(card, over, inverted)) % 16),
      )
      .map(({ is, over }): Member => {
        const count = positions.reduce((all, ways, p) => (is.includes(p) ? all : all * total(ways)), 1n);
        const own = [...positions];
        const mayBe = (p: number, n: number) =>
          new Set([...positions[p]!.keys()].map((says) => ((says >> n) & 1) ^ inverted));
        is.forEach((p, i) => {
          let [least, most] = [0, 0];
          for (const n of asked.keys()) {
            let values = [0];
            for (const q of over) values = values.flatMap((value) => [...mayBe(q, n)].map((bit) => 2 * value + bit));
            const bits = new Set(values.map((value) => ((((16 - value) % 16) >> (3 - i)) & 1) ^ inverted));
            if (!bits.has(0)) least |= 1 << n;
            if (bits.has(1)) most |= 1 << n;
          }
          own[p] = new Map([least, most].map((says) => [says, 1n]));
        });
        return { positions: own, count, isChecked: true };
      });
    return [{ positions, count: positions.reduce((all, ways) => all * total(ways), 1n) }, ...checked, ...negated];
  });
}

/** The number that some bits of a read are, the first of them the highest; of their complement where they are inverted. */
const valueAt = ({ read }: Card, at: readonly number[], inverted: number): number =>
  at.reduce((value, p) => 2 * value + (Number(read[p]) ^ inverted), 0);

/** Every exclusive or over nibbles in a read: the positions that it is, and those that each of them is the sum of. */
function nibbleChecks(length: number): { is: number[]; over: number[][] }[] {
  const all: { is: number[]; over: number[][] }[] = [];
  for (let first = 0; first < length; first++)
    for (let count = 4; first + count <= length; count += 4)
      for (let p = 0; p + 4 <= length; p++) {
        if (p < first + count && p + 4 > first) continue;
        const over = [0, 1, 2, 3].map((i) => Array.from({ length: count / 4 }, (_, k) => first + 4 * k + i));
        all.push({ is: [p, p + 1, p + 2, p + 3], over });
      }
  return all;
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
        const members = everyMember(cards, asked);
        // More checks than these are not gone through, and nothing is settled then.
        if (members.filter(({ count, isChecked }) => isChecked && count > 0n).length > 24) return;
        const family = familyOf(cards, asked);
        expect(family.count).toBe(members.reduce((sum, { count }) => sum + count, 0n));
        if (family.isEmpty) {
          empty++;
          return;
        }
        const alive = members.filter(({ count }) => count > 0n);
        if (alive.some(({ isChecked }) => isChecked)) checked++;
        for (const n of asked) {
          const prediction = family.predict(printOf(String(n)))!;
          for (let p = 0; p < length; p++) {
            const said = new Set(
              alive.flatMap(({ positions }) => [...positions[p]!.keys()].map((says) => (says >> n) & 1)),
            );
            expect([n, p, prediction.settledBits[p]]).toEqual([n, p, said.size === 1]);
            if (said.size === 1) expect(String([...said][0])).toBe(prediction.bits[p]);
          }
          if (prediction.settled) settledSeen++;
          else openSeen++;
          expect(prediction.odds).toBeGreaterThanOrEqual(0);
          expect(prediction.odds).toBeLessThanOrEqual(1);
        }
      }),
      { numRuns: 400, seed: 7 },
    );
    expect([settledSeen > 300, openSeen > 300, empty > 5, checked > 20]).toEqual([true, true, true, true]);
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
      { numRuns: 25, seed: 3 },
    );
  });

  it('is never wrong on hidden formats of the family, of any length, order and parity, consecutive or not', () => {
    let [settled, likely, likelyRight] = [0, 0, 0];
    for (let seed = 1; seed <= 90; seed++) {
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
    expect([settled > 100, likely > 100]).toEqual([true, true]);
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
