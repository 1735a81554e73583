/** The floor plan: areas are bytes, rooms stay in their house and apart, and what keys open is lit. */
import { planSchema } from '@rawbits/core/plan';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { doorWords, groundOf, litBy, roomWords } from './geometry.ts';
import { squarified } from './squarify.ts';

describe('areas', () => {
  it('are in the proportion of the weights, fill the rectangle, and do not overlap', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 4096 }), { minLength: 1, maxLength: 20 }), (weights) => {
        const rects = squarified(weights, { x: 5, y: 7, width: 640, height: 300 });
        const total = weights.reduce((sum, weight) => sum + weight, 0);
        rects.forEach(({ width, height, x, y }, i) => {
          expect(width * height).toBeCloseTo((640 * 300 * weights[i]!) / total, 4);
          expect(x).toBeGreaterThanOrEqual(5 - 1e-6);
          expect(y + height).toBeLessThanOrEqual(307 + 1e-6);
        });
        for (const [i, a] of rects.entries())
          for (const b of rects.slice(i + 1)) {
            const apart =
              a.x + a.width <= b.x + 1e-6 ||
              b.x + b.width <= a.x + 1e-6 ||
              a.y + a.height <= b.y + 1e-6 ||
              b.y + b.height <= a.y + 1e-6;
            expect(apart).toBe(true);
          }
      }),
    );
  });
});

const PLAN = planSchema.parse({
  schema: 'rawbits/plan@1',
  capacity: 2048,
  applications: [
    {
      id: '3042F5',
      name: 'Station',
      keys: ['a', 'b'],
      files: [
        {
          kind: 'standard',
          number: 0,
          name: 'door',
          size: 32,
          rights: { read: 1, write: 'never', both: 0, change: 'free' },
        },
        { kind: 'cyclic', number: 1, size: 32, records: 8, rights: { read: 1, write: 1, both: 0, change: 0 } },
      ],
    },
  ],
});

it('a room is as large as its file takes of the memory, beside what the keys take', () => {
  const { houses, used, free } = groundOf(PLAN, 600, 300);
  const [house] = houses;
  expect([used, free]).toEqual([64 + 32 + 32 + 256, 2048 - 384]);
  const area = ({ width, height }: { width: number; height: number }) => width * height;
  expect(area(house!.rooms[1]!) / area(house!.rooms[0]!)).toBeCloseTo(8, 4);
  expect(area(house!.hall) / area(house!.rooms[0]!)).toBeCloseTo(3, 4);
  expect(roomWords(house!.rooms[0]!)).toBe(
    'File 0, door, of 3042F5: standard, 32 bytes, enciphered. read: key 1, write: walled up, read and write: key 0, change: open.',
  );
  expect(doorWords('free')).toBe('open');
});

it('what keys open is lit, with how many commands it takes', () => {
  const lit = litBy([
    { can: 'read file 1 of 3042F5', by: [1, 2, 3] },
    { can: 'alter file 1 of 3042F5', by: [1, 2, 3, 4] },
    { can: 'format the card', by: [1] },
  ]);
  expect([...lit]).toEqual([['3042F5 1', { reads: 3, alters: 4 }]]);
});
