import fc from 'fast-check';
import { expect, it } from 'vitest';
import { FRAME, partOf } from './crop.ts';

const side = fc.integer({ min: 1, max: 8000 });
const share = fc.double({ min: -0.5, max: 1.5, noNaN: true });

it('the part of a picture is within it, has the proportions of the frame, and is the largest where nobody looks nearer', () => {
  fc.assert(
    fc.property(side, side, fc.double({ min: 0.2, max: 6, noNaN: true }), share, share, (width, height, near, x, y) => {
      const part = partOf({ width, height }, FRAME, { near, x, y });
      expect(part.width / part.height).toBeCloseTo(FRAME.width / FRAME.height, 6);
      expect(part.left).toBeGreaterThanOrEqual(-1e-6);
      expect(part.top).toBeGreaterThanOrEqual(-1e-6);
      expect(part.left + part.width).toBeLessThanOrEqual(width + 1e-6);
      expect(part.top + part.height).toBeLessThanOrEqual(height + 1e-6);
      if (near <= 1) expect(Math.min(width - part.width, height - part.height)).toBeCloseTo(0, 6);
    }),
  );
});
