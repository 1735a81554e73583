/** Of a change of the specimens only what was changed is sent. */
import type { CaseSpecimen } from '@rawbits/api';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { spliceOf } from './spliceOf.ts';

const specimen = fc.record({ bits: fc.constantFrom('0', '1', '01'), printed: fc.constantFrom('1', '2') });

describe('a change of the specimens', () => {
  it('put in where it belongs, gives what they are after', () => {
    fc.assert(
      fc.property(fc.array(specimen, { maxLength: 8 }), fc.array(specimen, { maxLength: 8 }), (before, after) => {
        const splice = spliceOf(before, after);
        const made: CaseSpecimen[] = [...before];
        if (splice) made.splice(splice.at, splice.remove, ...splice.add);
        expect(made).toEqual(after);
      }),
    );
  });

  it('of a print typed in 10,000 is one specimen', () => {
    const before = Array.from({ length: 10_000 }, (_, i) => ({ bits: '0101', printed: String(i) }));
    const after = before.map((one, i) => (i === 5000 ? { ...one, printed: 'x' } : one));
    expect(spliceOf(before, after)).toEqual({ at: 5000, remove: 1, add: [{ bits: '0101', printed: 'x' }] });
    expect(spliceOf(before, [...before])).toBeUndefined();
  });
});
