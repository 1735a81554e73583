/** The exact part, against plain elimination on BigInts and against z3-solver answering the same questions. */
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { init } from 'z3-solver';
import { randomFrom } from '../../../testing/hiddenFormats.ts';
import { Bits } from '../../bits/index.ts';
import { Hull } from '../index.ts';

const WIDTH = 12;
const LENGTH = 20;

/** A random affine map from numbers to bits. */
function randomMap(seed: number, width = WIDTH, length = LENGTH) {
  const random = randomFrom(seed);
  const word = (n: number) =>
    BigInt(`0b1${Array.from({ length: n }, () => (random() < 0.5 ? 0 : 1)).join('')}`) ^ (1n << BigInt(n));
  const columns = Array.from({ length: width }, () => word(length));
  const constant = word(length);
  return (number: bigint): Bits =>
    Bits.fromBigInt(
      columns.reduce((sum, column, k) => ((number >> BigInt(k)) & 1n ? sum ^ column : sum), constant),
      length,
    );
}

/** Whether a number is a sum of an odd number of others, by elimination on BigInts with the constant as top bit. */
function inHullPlainly(numbers: readonly bigint[], target: bigint): boolean {
  const basis: bigint[] = [];
  const reduce = (value: bigint) => basis.reduce((rest, b) => ((rest ^ b) < rest ? rest ^ b : rest), value);
  for (const number of numbers) {
    const rest = reduce(number | (1n << 64n));
    if (rest !== 0n) {
      basis.push(rest);
      basis.sort((a, b) => (a > b ? -1 : 1));
    }
  }
  return reduce(target | (1n << 64n)) === 0n;
}

describe('the hull of the specimens’ numbers', () => {
  const anyCase = fc.record({
    seed: fc.nat(),
    numbers: fc.uniqueArray(fc.bigInt({ min: 0n, max: (1n << BigInt(WIDTH)) - 1n }), { minLength: 1, maxLength: 16 }),
    target: fc.bigInt({ min: 0n, max: (1n << BigInt(WIDTH)) - 1n }),
  });
  const hullOf = (seed: number, numbers: readonly bigint[]) => {
    const map = randomMap(seed);
    const hull = new Hull(WIDTH, LENGTH, numbers.length);
    for (const n of numbers) hull.add(n, map(n));
    return { hull, map };
  };

  it('holds what elimination on BigInts says it holds, and gives the true bits there', () => {
    fc.assert(
      fc.property(anyCase, ({ seed, numbers, target }) => {
        const { hull, map } = hullOf(seed, numbers);
        const predicted = hull.predict(target);
        expect(predicted !== undefined).toBe(inHullPlainly(numbers, target));
        expect(hull.consistent).toBe(true);
        expect(hull.rank + hull.checks).toBe(numbers.length);
        if (!predicted) return;
        expect(predicted.bits.toBinary()).toBe(map(target).toBinary());
        expect(predicted.from.length % 2).toBe(1);
        expect(predicted.from.reduce((sum, i) => sum ^ numbers[i]!, 0n)).toBe(target);
      }),
      { numRuns: 300 },
    );
  });

  it('an effect is the true one of that number bit; relations add up to nothing', () => {
    fc.assert(
      fc.property(anyCase, ({ seed, numbers }) => {
        const { hull, map } = hullOf(seed, numbers);
        for (let k = 0; k < WIDTH; k++) {
          const effect = hull.effectOf(k);
          if (effect) expect(effect.equals(map(0n).xor(map(1n << BigInt(k))))).toBe(true);
        }
        for (const { of } of hull.relations) expect(of.reduce((sum, i) => sum ^ numbers[i]!, 0n)).toBe(0n);
      }),
    );
  });

  it('a wrong bit in a tested specimen shows in its relation', () => {
    const { map } = hullOf(7, []);
    const hull = new Hull(WIDTH, LENGTH, 4);
    [1n, 2n, 4n].forEach((n) => {
      hull.add(n, map(n));
    });
    hull.add(7n, map(7n).xor(Bits.build(LENGTH, (p) => p === 3)));
    expect([hull.consistent, hull.relations[0]!.of]).toEqual([false, [0, 1, 2, 3]]);
    expect(Bits.fromWords(hull.relations[0]!.wrong!, LENGTH).toBinary().indexOf('1')).toBe(2);
    expect(hull.checksOn([0])).toBe(1);
  });
});

describe('with many specimens, where rows are taken out by tables', () => {
  it('says between which bits specimens contradict one another, wherever in a word those stand', () => {
    const bit = fc.integer({ min: 1, max: 80 });
    fc.assert(
      fc.property(fc.uniqueArray(bit, { minLength: 1, maxLength: 4 }), bit, (turned, one) => {
        const read = Bits.build(80, (p) => (p * 7 + one) % 3 === 0);
        const hull = new Hull(8, 80, 3);
        hull.add(5n, read);
        hull.add(6n, read);
        expect(hull.contradicted).toBeUndefined();
        hull.add(
          5n,
          Bits.build(80, (p) => (read.at(p) === 1) !== turned.includes(p)),
        );
        expect(hull.contradicted).toEqual([Math.min(...turned), Math.max(...turned)]);
      }),
    );
  });

  it('says what the map says, before and after a dimension comes late', () => {
    for (const [width, length, seed] of [
      [40, 70, 1],
      [64, 33, 2],
      [130, 100, 3],
    ] as const) {
      const map = randomMap(seed, width, length);
      const random = randomFrom(seed);
      const word = () =>
        Array.from({ length: width }, () => BigInt(random() < 0.5)).reduce((all, bit) => (all << 1n) | bit, 0n);
      const basis = Array.from({ length: width - 6 }, word);
      const within = () => basis.reduce((sum, one) => (random() < 0.5 ? sum ^ one : sum), 0n);
      const numbers = [
        ...Array.from({ length: width + 40 }, within),
        ...Array.from({ length: 3 }, word),
        ...Array.from({ length: 40 }, within),
      ];
      const hull = new Hull(width, length, numbers.length);
      for (const n of numbers) {
        hull.add(n, map(n));
        const asked = within();
        const said = hull.predict(asked);
        if (said) expect(said.bits.equals(map(asked))).toBe(true);
        expect(said?.from.reduce((sum, i) => sum ^ numbers[i]!, 0n)).toBe(said && asked);
        expect(said === undefined || said.from.length % 2 === 1).toBe(true);
      }
      expect([hull.consistent, hull.rank + hull.checks]).toEqual([true, numbers.length]);
      for (const { of } of hull.relations) expect(of.reduce((sum, i) => sum ^ numbers[i]!, 0n)).toBe(0n);
      for (let k = 0; k < width; k++) {
        const effect = hull.effectOf(k);
        if (effect) expect(effect.equals(map(1n << BigInt(k)).xor(map(0n)))).toBe(true);
      }
      hull.add(numbers[3]!, map(numbers[3]!).xor(Bits.build(length, (p) => p === 9)));
      expect(hull.consistent).toBe(false);
    }
  });
});

describe('against z3-solver', () => {
  let z3: Awaited<ReturnType<typeof init>>;
  beforeAll(async () => {
    z3 = await init();
  }, 60_000);
  afterAll(() => {
    // The solver's threads would keep the process alive.
    z3?.em.PThread?.terminateAllThreads?.();
  });

  it('a number’s bit is unique for z3 exactly when the hull predicts it', async () => {
    const { Context } = z3;
    const { Solver, Bool, Xor, And, Not } = Context('hull');
    const width = 6;
    for (let seed = 1; seed <= 12; seed++) {
      const random = randomFrom(seed);
      const map = randomMap(seed, width, 3);
      const count = 2 + Math.floor(random() * 5);
      const numbers = [...new Set(Array.from({ length: count }, () => BigInt(Math.floor(random() * 64))))];
      const hull = new Hull(width, 3, numbers.length);
      for (const n of numbers) hull.add(n, map(n));
      const target = BigInt(Math.floor(random() * 64));
      // Two unknown affine maps for one bit of the read, both agreeing with every specimen: can they differ at the target?
      const unknown = (name: string) => ({
        a: Array.from({ length: width }, (_, k) => Bool.const(`${name}${k}`)),
        c: Bool.const(`${name}c`),
      });
      const [one, two] = [unknown('x'), unknown('y')];
      const at = ({ a, c }: typeof one, n: bigint) =>
        a.reduce((sum, bit, k) => ((n >> BigInt(k)) & 1n ? Xor(sum, bit) : sum), c as ReturnType<typeof Xor>);
      const solver = new Solver();
      for (const n of numbers) {
        const bit = Bool.val(map(n).at(1) === 1);
        solver.add(And(at(one, n).eq(bit), at(two, n).eq(bit)));
      }
      solver.add(Not(at(one, target).eq(at(two, target))));
      const unique = (await solver.check()) === 'unsat';
      expect([seed, unique]).toEqual([seed, hull.has(target)]);
    }
  }, 60_000);
});
