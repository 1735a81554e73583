/** Undo in a case: what was taken out comes back in its place, and what was typed since stays. */
import { describe, expect, it } from 'vitest';
import { mendSpecimens } from './mendSpecimens.ts';
import { takenBack } from './takenBack.ts';

const specimens = ['00', '01', '10', '11'].map((bits, i) => ({ bits, printed: String(i) }));
/** As they come back from the server: the same, and other objects. */
const anew = <T>(list: readonly T[]): T[] => JSON.parse(JSON.stringify(list));

describe('taking a change back', () => {
  it('puts a removed specimen back where it was, whatever was typed meanwhile', () => {
    const after = specimens.filter((_, i) => i !== 1);
    const now = anew(after).map((one) => (one.printed === '3' ? { ...one, printed: '33' } : one));
    expect(takenBack(specimens, after, now).map(({ printed }) => printed)).toEqual(['0', '1', '2', '33']);
  });

  it('takes pasted specimens out again, and leaves those read since', () => {
    const after = [...specimens, { bits: '111', printed: '4' }, { bits: '1110', printed: '5' }];
    const now = [...anew(after), { bits: '0001', printed: '6' }];
    expect(takenBack(specimens, after, now).map(({ printed }) => printed)).toEqual(['0', '1', '2', '3', '6']);
  });

  it('undoes a mend, but not on a row that was changed since', () => {
    const after = mendSpecimens(specimens, [
      { row: 1, printed: '2' },
      { row: 3, printed: '0' },
    ]);
    expect(after.map(({ printed }) => printed)).toEqual(['2', '1', '0', '3']);
    const now = anew(after);
    now[2]!.printed = '77';
    expect(takenBack(specimens, after, now).map(({ printed }) => printed)).toEqual(['0', '1', '77', '3']);
  });

  it('bits that are put right stay with what was read, through a second mend', () => {
    const [once] = mendSpecimens(specimens.slice(0, 1), [{ row: 1, bits: '01' }]);
    const [twice] = mendSpecimens([once!], [{ row: 1, bits: '11' }]);
    expect([once, twice]).toMatchObject([
      { bits: '01', asRead: '00' },
      { bits: '11', asRead: '00' },
    ]);
  });
});
