/**
 * Every way in which a key, or something made from it, leaves the store, tried by everybody alone and by every two together,
 * with a device host of their own that writes down all that it is sent. Who is not to have a key, does not get one.
 */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type KeyAttempts, openKeyAttempts } from '../../testing/keyAttempts.ts';
import { encodes, isCustodian } from '../../testing/keyPeople.ts';
import { WAYS_OUT } from '../keys/door.ts';

const PEOPLE = [
  'viewer',
  'technician',
  'another technician',
  'administrator',
  'custodian',
  'another custodian',
  'technician who holds keys',
] as const;
type Group = readonly string[];
/** Each alone, and every two. */
const GROUPS: Group[] = PEOPLE.flatMap((one, i) => [[one], ...PEOPLE.slice(i + 1).map((other) => [one, other])]);

/** Whether two of them are a custodian and somebody else who asks. */
const maySpend = (group: Group) =>
  group.some((agrees) => isCustodian(agrees) && group.some((asks) => asks !== agrees && encodes(asks)));
const twoCustodians = (group: Group) => group.filter(isCustodian).length === 2;
const aCustodian = (group: Group) => group.some(isCustodian);
const nobody = () => false;

describe('ways out of the key store', () => {
  let tries: KeyAttempts;
  beforeAll(async () => {
    tries = await openKeyAttempts(2 * GROUPS.length);
  });
  afterAll(() => tries?.close());

  /** The attempt, whose it is to succeed, and who then has the very key in hand. */
  it.each([
    ['to a reader of their own host', 'toOwnReader', maySpend, maySpend],
    ['onto a blank, made for the card', 'onBlankMade', maySpend, nobody],
    ['onto a blank, as it is', 'onBlankAsItIs', maySpend, nobody],
    ['to a simulated card, under a plan of their own', 'played', maySpend, nobody],
    ['to a simulated card, as it was agreed to', 'playedAsItWas', (group) => group.some(encodes), nobody],
    ['to a wider use', 'widened', twoCustodians, nobody],
    ['shown', 'revealed', twoCustodians, twoCustodians],
    ['sealed for a partner', 'sealed', twoCustodians, nobody],
    ['in a backup', 'backedUp', twoCustodians, nobody],
    ['compared with a backup', 'compared', aCustodian, nobody],
    ['as the component of the first custodian', 'printed', (group) => group.includes('custodian'), nobody],
    ['put together from components', 'combined', twoCustodians, nobody],
  ] as [string, keyof KeyAttempts['attempts'], (group: Group) => boolean, (group: Group) => boolean][])(
    '%s: by nobody who is not to',
    async (_, attempt, expected, inHand) => {
      const had: Group[] = [];
      const heard: Group[] = [];
      for (const group of GROUPS) {
        await tries.clear();
        if (await tries.attempts[attempt](group)) had.push(group);
        if (tries.isHeard()) heard.push(group);
      }
      expect(had).toEqual(GROUPS.filter(expected));
      expect(heard).toEqual(GROUPS.filter(inHand));
      // Some do, so that the attempt is one.
      expect(had.length).toBeGreaterThan(0);
    },
    300_000,
  );

  it('each way was gone by somebody, so that none of them was left untried', () => {
    expect([...tries.ways].sort()).toEqual(Object.keys(WAYS_OUT).sort());
  });
});
