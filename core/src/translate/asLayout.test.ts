/** A translation as a layout shows the same number for every read of its width, or there is none. */
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { Bits } from '../bits/index.ts';
import { catalogued } from '../catalogue/index.ts';
import { decode } from '../codec/index.ts';
import { parseLayoutLine, printedOf } from '../format/index.ts';
import { layoutOfTranslation } from './asLayout.ts';
import { ORDERS, TRANSLATION_SCHEMA, type Translation, translateValue } from './translation.ts';

const anyTranslation = fc
  .record({
    bytes: fc.integer({ min: 3, max: 8 }),
    invert: fc.boolean(),
    order: fc.constantFrom(...ORDERS),
    cut: fc.tuple(fc.nat(12), fc.nat(12)),
    joined: fc.boolean(),
    add: fc.constantFrom('0', '0', '5000'),
  })
  .map(({ bytes, invert, order, cut: [drop, front], joined, add }): Translation => {
    const bits = bytes * 8;
    return {
      ...{ schema: TRANSLATION_SCHEMA, from: 'hex', to: 'decimal', bits, invert, order, drop },
      keep: Math.max(1, bits - drop - front),
      write: joined ? { as: 'facility and number joined' } : { as: 'number' },
      add: joined ? '0' : add,
    };
  });

it('shows what the translation shows', () => {
  let laidOut = 0;
  fc.assert(
    fc.property(anyTranslation, fc.bigInt({ min: 0n, max: 2n ** 64n - 1n }), (translation, any) => {
      const line = layoutOfTranslation(translation);
      if (line === undefined) return;
      laidOut++;
      const format = { ...catalogued('26-8-16')!, ...parseLayoutLine(line) };
      const value = any % (1n << BigInt(translation.bits));
      const { fit, values } = decode(Bits.fromBigInt(value, translation.bits), format);
      expect(fit).toBe('full');
      const shown = printedOf(format, values) ?? values.number;
      expect([line, shown && BigInt(shown)]).toEqual([line, translateValue(translation, value)]);
    }),
    { numRuns: 400 },
  );
  expect(laidOut).toBeGreaterThan(150);
});

it('that moves nibbles or keeps the last digits only has none', () => {
  const one: Translation = {
    ...{ schema: TRANSLATION_SCHEMA, from: 'hex', to: 'decimal', bits: 32, invert: false, order: 'as it is' },
    ...{ drop: 0, keep: 32, write: { as: 'number' }, add: '0' },
  };
  expect(layoutOfTranslation(one)).toBe('32 | 1-32 number');
  expect(layoutOfTranslation({ ...one, order: 'bytes reversed' })).toBe('32r | 1-32 number');
  for (const other of [
    { order: 'nibbles swapped' as const },
    { turn: 'bytes reversed' as const },
    { write: { as: 'last digits' as const, digits: 5 } },
    { from: 'decimal' },
  ])
    expect(layoutOfTranslation({ ...one, ...other })).toBeUndefined();
});
