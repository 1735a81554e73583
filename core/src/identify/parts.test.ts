/** The parts of Identify by themselves: places, parity patterns, suspects, the tie-breaker's promise. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { hiddenFormat, randomFrom } from '../../testing/hiddenFormats.ts';
import { isTried, seeds } from '../../testing/runs.ts';
import { Bits } from '../bits/index.ts';
import { CATALOGUE, catalogued } from '../catalogue/index.ts';
import { encode } from '../codec/index.ts';
import { parseLayoutLine } from '../format/index.ts';
import { Hull } from './algebra/hull.ts';
import { smallestSets } from './algebra/smallestSets.ts';
import { columnsOfNumbers, columnsOfReads, indicesOf, isFull, isZero, ones, varies } from './cards/columns.ts';
import { placesOf, valueAt } from './cards/places.ts';
import { identify } from './index.ts';
import { parityFits, usualCovers } from './patterns.ts';

const anyReads = fc
  .tuple(fc.integer({ min: 1, max: 70 }), fc.integer({ min: 1, max: 90 }), fc.nat())
  .map(([count, length, seed]) => {
    const random = randomFrom(seed);
    return Array.from({ length: count }, () => Bits.build(length, () => random() < 0.5));
  });

describe('columns', () => {
  it('are the reads on their side, for any number of them', () => {
    fc.assert(
      fc.property(anyReads, (reads) => {
        columnsOfReads(reads).forEach((column, p) => {
          const set = reads.flatMap((bits, i) => (bits.at(p + 1) ? [i] : []));
          expect(indicesOf(column)).toEqual(set);
          expect(ones(column)).toBe(set.length);
          expect(isZero(column)).toBe(set.length === 0);
          expect(isFull(column, reads.length)).toBe(set.length === reads.length);
          expect(varies(column, reads.length)).toBe(set.length > 0 && set.length < reads.length);
        });
      }),
      { numRuns: 60 },
    );
  });

  it('of numbers, too', () => {
    const columns = columnsOfNumbers([5n, 2n, 0n]);
    expect(columns.map(indicesOf)).toEqual([[0], [1], [0]]);
  });
});

describe('places of a number', () => {
  it('a number put anywhere, in any order of bits or bytes and inverted, is found there', () => {
    const any = fc.record({
      seed: fc.nat(),
      order: fc.constantFrom('as sent' as const, 'bits reversed' as const, 'bytes reversed' as const),
      inverted: fc.boolean(),
      before: fc.integer({ min: 0, max: 20 }),
      after: fc.integer({ min: 0, max: 20 }),
    });
    fc.assert(
      fc.property(any, ({ seed, order, inverted, before, after }) => {
        const random = randomFrom(seed);
        // The top bit of one number is 1, so that all 16 bits belong to it.
        const numbers = Array.from(
          { length: 8 },
          (_, i) => BigInt(Math.floor(random() * 65536)) | (i === 0 ? 32768n : 0n),
        );
        const reads = numbers.map((n) => {
          const field = Bits.fromBigInt(n, 16);
          const turned =
            order === 'as sent' ? field : order === 'bits reversed' ? field.reverseBits() : field.reverseBytes();
          const rest = (count: number) => Array.from({ length: count }, () => (random() < 0.5 ? '1' : '0')).join('');
          const bits = Bits.fromBinary(`${rest(before)}${turned.toBinary()}${rest(after)}`);
          return inverted ? bits.invert() : bits;
        });
        const places = placesOf({
          reads: columnsOfReads(reads),
          numbers: columnsOfNumbers(numbers),
          count: 8,
          misses: 0,
        });
        const found = places.find(
          (p) => p.order === order && p.inverted === inverted && Math.min(...p.positions) === before + 1,
        );
        expect(found).toBeDefined();
        reads.forEach((bits, i) => {
          expect(valueAt(found!, bits)).toBe(numbers[i]);
        });
      }),
      { numRuns: 80 },
    );
  });

  it('a specimen whose number stands elsewhere is a miss, where one is allowed', () => {
    const numbers = [40n, 41n, 1000n, 30000n, 77n];
    const reads = numbers.map((n) => Bits.fromBigInt(n === 77n ? 78n : n, 20));
    const request = { reads: columnsOfReads(reads), numbers: columnsOfNumbers(numbers), count: 5 };
    expect(placesOf({ ...request, misses: 0 })).toEqual([]);
    expect(placesOf({ ...request, misses: 1 })[0]).toMatchObject({ misses: [4], order: 'as sent' });
  });
});

describe('parity patterns', () => {
  it('cover neither themselves nor anything past the end', () => {
    for (const length of [8, 26, 35, 48, 200])
      for (const at of [1, 2, Math.floor(length / 2), length])
        for (const { positions } of usualCovers(at, length, ['3-6'])) {
          expect(positions).not.toContain(at);
          expect(Math.min(...positions)).toBeGreaterThan(0);
          expect(Math.max(...positions)).toBeLessThanOrEqual(length);
        }
  });

  // DOMAIN §2, common practice: the coverages of the trade's formats.
  it.each([
    ['26-8-16', 26, '14-25', 'odd'],
    ['37-16-19', 1, '2-19', 'even'],
    ['35-12-20', 2, '3-4 by 3 to 34', 'even'],
    ['35-12-20', 35, '2-3 by 3 to 33', 'odd'],
    ['48-22-23', 1, '2-48', 'odd'],
  ] as const)('%s: bit %i covers %s, %s', (id, at, covers, sense) => {
    const random = randomFrom(7);
    const reads = Array.from({ length: 24 }, () =>
      encode(catalogued(id)!, {
        facility: String(Math.floor(random() * 200)),
        number: String(Math.floor(random() * 60000)),
      }),
    );
    // Where all bits together are of one parity, a cover and its complement say the same: both are among the fits.
    const fits = parityFits(columnsOfReads(reads), 24, at, []);
    expect(fits.map((fit) => [fit.cover.text, fit.sense, fit.tested])).toContainEqual([covers, sense, true]);
  });
});

describe('checks at the end', () => {
  // The CRC is filled by the codec, which is checked against a registry library in check.test.ts.
  const lines = [
    '40 | 1-8 facility | 9-32 number | 33-40 check crc8(poly=1D,init=C7) 1-32',
    '48 | 1-16 facility | 17-40 number | 41-48 check xor8 1-40',
    '56 | 1-16 facility | 17-40 number | 41-56 check crc16(poly=1021,init=FFFF) 1-40',
    '48 | 1-8 facility | 9-32 number | 33-40 check xor8 1-32 | 41-48 check crc8(poly=1D,init=C7) 1-40',
    '56 | 1-8 check crc8(poly=7) 9-56 | 9-24 facility | 25-48 number | 49-56 check xor8 9-48',
  ];
  it.each(lines.filter((_, i) => isTried(i, 3)))('%s is put together from four cards', (line) => {
    const layout = parseLayoutLine(line);
    const numbers = ['9000001', '12345678', '4242', '777777'];
    const specimens = numbers.map((number) => ({
      bits: encode(layout, { facility: '201', number }).toBinary(),
      printed: number,
    }));
    const finding = identify(specimens, { library: CATALOGUE, predict: ['5000000'] });
    expect(finding.layouts.map((l) => l.layout)).toContain(line);
    expect(finding.predictions[0]).toMatchObject({
      standing: 'likely',
      bits: encode(layout, { facility: '201', number: '5000000' }).toBinary(),
    });
  });
});

describe('suspects', () => {
  /** The size of the smallest set whose removal lets the rest agree, by trying them all. */
  function plainly(numbers: readonly bigint[], reads: readonly Bits[], most: number): number | undefined {
    const agrees = (keep: readonly number[]) => {
      const hull = new Hull(8, 12, keep.length);
      for (const i of keep) hull.add(numbers[i]!, reads[i]!);
      return hull.consistent;
    };
    const all = numbers.map((_, i) => i);
    const without = (sets: number[][]): number | undefined => {
      if (sets.some((set) => agrees(all.filter((i) => !set.includes(i))))) return sets[0]!.length;
      if (sets[0]!.length === most) return undefined;
      return without(sets.flatMap((set) => all.filter((i) => i > (set.at(-1) ?? -1)).map((i) => [...set, i])));
    };
    return without([[]]);
  }

  it('the smallest sets are as small as trying all of them finds, and each lets the rest agree', () => {
    fc.assert(
      fc.property(fc.nat(), fc.integer({ min: 4, max: 11 }), fc.integer({ min: 0, max: 3 }), (seed, count, errors) => {
        const random = randomFrom(seed);
        const word = (n: number) => BigInt(Math.floor(random() * 2 ** n));
        const columns = Array.from({ length: 8 }, () => word(12));
        const numbers = [...new Set(Array.from({ length: count }, () => word(6)))];
        const reads = numbers.map((n) =>
          Bits.fromBigInt(
            columns.reduce((sum, c, k) => ((n >> BigInt(k)) & 1n ? sum ^ c : sum), 0n),
            12,
          ),
        );
        for (let e = 0; e < errors; e++) {
          const i = Math.floor(random() * reads.length);
          reads[i] = reads[i]!.xor(Bits.fromBigInt(1n << BigInt(Math.floor(random() * 12)), 12));
        }
        const hull = new Hull(8, 12, numbers.length);
        numbers.forEach((n, i) => {
          hull.add(n, reads[i]!);
        });
        const { sets } = smallestSets(hull);
        const size = plainly(numbers, reads, 3);
        expect(sets[0]?.length ?? (hull.consistent ? 0 : undefined)).toBe(size);
        for (const set of sets) {
          const rest = new Hull(8, 12, numbers.length);
          numbers.forEach((n, i) => {
            if (!set.includes(i)) rest.add(n, reads[i]!);
          });
          expect(rest.consistent).toBe(true);
        }
      }),
      { numRuns: 120 },
    );
  });
});

describe('the tie-breaker', () => {
  it('keeps its promise: reading what it names, no more cards are needed than it said', () => {
    for (const seed of seeds(30)) {
      const random = randomFrom(seed);
      const format = hiddenFormat(random, { facilities: 1, scattered: false });
      const [facility] = format.facilities as [bigint];
      const limit = 2n ** BigInt(Math.min(format.numberBits, 30));
      const read = (n: bigint) => ({ bits: format.bitsOf(n, facility).toBinary(), printed: n.toString() });
      const specimens = [3n, 77n % limit, 200n % limit].map(read);
      const range = { from: 0n, to: limit - 1n };
      let promise: number | undefined;
      for (let more = 0; more < 40; more++) {
        const { tieBreaker } = identify(specimens, { library: CATALOGUE, range, family: false });
        if (!tieBreaker || tieBreaker.atMost === 0) break;
        if (promise !== undefined) expect([seed, tieBreaker.atMost <= promise]).toEqual([seed, true]);
        promise = tieBreaker.atMost - 1;
        expect(BigInt(tieBreaker.printed)).toBeLessThan(limit);
        specimens.push(read(BigInt(tieBreaker.printed)));
      }
      const finding = identify(specimens, { library: CATALOGUE, range, family: false, predict: ['123', '255'] });
      for (const p of finding.predictions)
        if (p.standing === 'proven') expect(p.bits).toBe(format.bitsOf(BigInt(p.printed), facility).toBinary());
    }
  });
});
