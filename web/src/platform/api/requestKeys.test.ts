import { expect, it } from 'vitest';
import { RequestKeys } from './requestKeys.ts';

it('a request whose answer did not come keeps its key, for ten minutes; any other gets its own', () => {
  let [now, made] = [0, 0];
  const keys = new RequestKeys(
    () => now,
    () => `key-${++made}`,
  );
  const issue = (number: string) => ({ path: '/cards', method: 'POST', body: { number } });
  expect([keys.of(issue('1')), keys.of(issue('1')), keys.of(issue('2'))]).toEqual(['key-1', 'key-1', 'key-2']);
  keys.done(issue('1'));
  expect(keys.of(issue('1'))).toBe('key-3');
  now = 10 * 60_000;
  expect(keys.of(issue('1'))).toBe('key-4');
});
