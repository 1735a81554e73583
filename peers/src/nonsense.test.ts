/** A hundred thousand inputs that mean nothing; `bench-nonsense` takes ten million. */
import { randomBytes } from 'node:crypto';
import { expect, it } from 'vitest';
import { inputs, isRefusal, PARSERS } from './nonsense.ts';

const EACH = 20_000;

it.each(Object.entries(PARSERS))('%s: nothing is thrown but a refusal', (_, parse) => {
  // Another every time: what is found is printed with its bytes.
  const source = randomBytes(4 * EACH);
  let at = 0;
  const input = inputs(() => {
    at = (at + 4) % (source.length - 4);
    return source.readUInt32LE(at) / 2 ** 32;
  });
  for (let i = 0; i < EACH; i++) {
    const bytes = input();
    try {
      parse(bytes, i);
    } catch (error) {
      expect([Buffer.from(bytes).toString('hex'), isRefusal(error) ? '' : String(error)]).toEqual([
        Buffer.from(bytes).toString('hex'),
        '',
      ]);
    }
  }
});
