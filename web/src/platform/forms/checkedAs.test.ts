import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { checkedAs } from './checkedAs.ts';

const schema = z.strictObject({
  number: z.string().regex(/^\d+$/, 'Write digits only.'),
  until: z.string().nullable(),
});
const resolver = checkedAs(schema, ({ number, until }: { number: string; until: string }) => ({
  number,
  until: until === '' ? null : `${until}T00:00:00Z`,
}));
const check = (typed: { number: string; until: string }) =>
  resolver(typed, undefined, { fields: {}, shouldUseNativeValidation: false });

describe('a form checked as what is sent', () => {
  it('submits what the schema lets through', async () => {
    expect(await check({ number: '7', until: '' })).toEqual({ values: { number: '7', until: null }, errors: {} });
    expect((await check({ number: '7', until: '2026-11-25' })).values).toEqual({
      number: '7',
      until: '2026-11-25T00:00:00Z',
    });
  });

  it('tells what is wrong at its field', async () => {
    expect((await check({ number: 'seven', until: '' })).errors).toMatchObject({
      number: { message: 'Write digits only.' },
    });
  });
});
