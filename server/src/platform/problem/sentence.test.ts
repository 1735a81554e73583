/** What of an error a person is shown. */
import { RawBitsError } from '@rawbits/core/failure';
import { DrizzleQueryError } from 'drizzle-orm';
import { describe, expect, it } from 'vitest';
import { HostRefusal, sentenceFor } from './sentence.ts';

describe('the sentence about an error', () => {
  it.each([
    new RawBitsError({ code: 'x', message: 'The card is full.' }),
    new HostRefusal('The rig does not answer.'),
  ])('is our own where it is one of ours: %s', (error) => {
    expect(sentenceFor(error)).toBe(error.message);
  });

  it.each([
    new DrizzleQueryError('update `cards` set `bits` = ?', ['1011000'], new Error('lost')),
    Object.assign(new Error("Duplicate entry '1011000' for key 'bits'"), {
      errno: 1062,
      code: 'ER_DUP_ENTRY',
      sqlState: '23000',
    }),
    new Error("ENOENT: no such file or directory, open '/srv/rawbits/1011000'"),
    { message: '1011000' },
    '1011000',
  ])('has nothing of what it is about otherwise: %s', (error) => {
    expect(sentenceFor(error)).toMatch(/^(The database|Something)[^0-9`/]+$/);
  });
});
