/** The drawing of a recorded line: a dip a pulse, in its lane and in its time. */
import { Bits } from '@rawbits/core/bits';
import { pulsesOf } from '@rawbits/core/line';
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { drawPulses } from './geometry.ts';

it('has a dip for each pulse, in the lane of its wire, from left to right and within the box', () => {
  fc.assert(
    fc.property(fc.string({ unit: fc.constantFrom('0', '1'), minLength: 1, maxLength: 512 }), (binary) => {
      const { lanes, marks } = drawPulses(pulsesOf(Bits.fromBinary(binary)), 900);
      for (const { wire, path } of lanes) {
        expect(path.match(/V17/g)?.length ?? 0).toBe([...binary].filter((bit) => bit === String(wire)).length);
        const across = [...path.matchAll(/H([\d.]+)/g)].map(([, x]) => Number(x));
        expect(across.every((x) => x >= 0 && x <= 900)).toBe(true);
      }
      expect(marks.length).toBeGreaterThan(0);
      expect(marks.length).toBeLessThanOrEqual(7);
      expect(marks[0]!.ms).toBe(0);
    }),
  );
});

it('a pulse stands where its time is', () => {
  const { lanes, marks } = drawPulses(pulsesOf(Bits.fromBinary('01'), { widthUs: 100, spacingUs: 1000 }, 5000), 1500);
  // From 200 µs before the first to 200 µs behind the last: 1,500 µs, a pixel each.
  expect(lanes.map(({ path }) => path)).toEqual(['M0,5 H200 V17 H300 V5 H1500', 'M0,5 H1200 V17 H1300 V5 H1500']);
  expect(marks.map(({ x, ms }) => [x, ms])).toEqual([
    [200, 0],
    [400, 0.2],
    [600, 0.4],
    [800, 0.6],
    [1000, 0.8],
    [1200, 1],
  ]);
});
