/** Random bit strings for property tests. */
import fc from 'fast-check';
import { Bits } from '../src/bits/index.ts';

export const anyBits = (least = 1, most = 512): fc.Arbitrary<Bits> =>
  fc
    .array(fc.boolean(), { minLength: least, maxLength: most })
    .map((list) => Bits.build(list.length, (p) => list[p - 1]!));
