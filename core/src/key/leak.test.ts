/** Who knows a key: facts of components (common practice, no source). */
import { expect, it } from 'vitest';
import { type Holding, knownTo } from './leak.ts';

const held = (holder: string, what: Holding['what'], keyId = 'k', version = 1): Holding => ({
  keyId,
  version,
  holder,
  what,
});
const HOLDINGS = [
  held('iris', 'part'),
  held('tobias', 'part'),
  held('door', 'whole', 'r'),
  held('iris', 'whole', 'r', 2),
];
const parts = (keyId: string) => (keyId === 'k' ? 2 : 0);

it.each([
  [['iris'], ['r 2 whole']],
  [
    ['iris', 'tobias'],
    ['k 1 together', 'r 2 whole'],
  ],
  [['tobias'], []],
  [['door', 'nobody'], ['r 1 whole']],
  [[], []],
])('%j know %j', (holders, known) => {
  const found = knownTo(new Set(holders), HOLDINGS, parts);
  expect(found.map(({ keyId, version, how }) => `${keyId} ${version} ${how}`)).toEqual(known);
});

it('one custodian with two components of three does not know the key', () => {
  expect(knownTo(new Set(['a']), [held('a', 'part'), held('a', 'part')], () => 2)).toEqual([]);
});
