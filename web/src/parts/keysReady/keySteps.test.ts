/** What is missing before keys can be used, from the first administrator on. */
import { describe, expect, it } from 'vitest';
import { keySteps } from './keySteps.ts';

const missing = (set: boolean, custodians: number, agree: number) =>
  keySteps({ set, people: { custodians, agree } }).flatMap(({ done, what, count }) =>
    done ? [] : [`${what.split(/[:, ]/).slice(0, 3).join(' ')} ${count ?? ''}`.trim()],
  );

describe('steps to a key store', () => {
  it.each([
    [
      'the first administrator alone',
      false,
      0,
      1,
      ['Two administrators  1 of 2', 'Two key custodians 0 of 2', 'A key store'],
    ],
    ['a second administrator', false, 0, 2, ['Two key custodians 0 of 2', 'A key store']],
    ['a custodian and the administrator who asked', false, 1, 2, ['Two key custodians 1 of 2', 'A key store']],
    ['two custodians', false, 2, 4, ['A key store']],
    ['all of it', true, 3, 5, []],
    ['a custodian left', true, 1, 2, ['Two key custodians 1 of 2']],
  ])('%s', (_, set, custodians, agree, expected) => {
    expect(missing(set, custodians, agree)).toEqual(expected);
  });
});
