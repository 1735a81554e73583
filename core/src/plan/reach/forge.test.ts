/**
 * Cards that are made so that a reader takes them: where reach tells a way, the door takes the card; where it tells none, the best
 * that can be done without the key is refused at the door. What a reader does is `door`’s, which knows nothing of reach.
 */
import { describe, expect, it } from 'vitest';
import { FilesHost } from '../../host/index.ts';
import { bringCard, ringOf, standInBlank, standInCard, standInKeys } from '../bring/index.ts';
import { standInKnown } from '../change/index.ts';
import { readAtDoor, readerFor } from '../door/index.ts';
import { type Plan, planSchema } from '../schema/index.ts';
import { checkAssertion, Player, reach } from './index.ts';

const draw = (count: number) => Uint8Array.from({ length: count }, (_, i) => (13 * i + 5) & 0xff);
const FORGE = 'make a card that reads like file 1 of 5A0001';

function planOf(
  read: number | 'free',
  write: number | 'free' | 'never',
  keys: (string | null)[],
  mode = 'enciphered',
): Plan {
  const fields = [{ name: 'string', length: 4, content: { is: 'bits' } }];
  const file = {
    kind: 'standard',
    number: 1,
    size: 8,
    mode,
    rights: { read, write, both: 'never', change: 'never' },
    fields,
  };
  return planSchema.parse({
    schema: 'rawbits/plan@1',
    card: { key: 'master' },
    applications: [{ id: '5A0001', keys, settings: { changeKeys: 'never', freeCreate: false }, files: [file] }],
  });
}
const wayOf = (plan: Plan, ...keys: string[]) => reach(plan, new Set(keys)).find(({ can }) => can === FORGE)?.by;

/** What a reader of the plan makes of a card, by the plan’s own keys. */
async function atDoor(plan: Plan, host: FilesHost, uid: Uint8Array) {
  const settings = readerFor(plan, { application: '5A0001', file: 1, field: 'string' }, { bits: 32 });
  const bytes = standInKeys(plan);
  const { bits, steps } = await readAtDoor(host, settings, uid, (name) => ({
    kind: 'aes128',
    bytes: bytes(name),
    version: 1,
  }));
  return bits?.toBinary() ?? steps.find(({ holds }) => !holds)?.step;
}

/** The card that the steps make, as the door takes it. */
async function made(plan: Plan, keys: string[]) {
  const own = await standInCard(plan, draw);
  const host = new FilesHost({ transmit: async (apdu) => own.transmit(apdu, draw) }, draw);
  const { card, uid } = standInBlank(plan);
  const blank = new FilesHost({ transmit: async (apdu) => card.transmit(apdu, draw) }, draw);
  const by = wayOf(plan, ...keys)!;
  await new Player(host, plan, standInKeys(plan), () => ({ host: blank, uid, known: standInKnown })).take(by);
  const isAnew = by.some((step) => step.do === 'take a blank');
  card.powerOff();
  own.powerOff();
  return atDoor(plan, isAnew ? blank : host, isAnew ? uid : Uint8Array.of(4, 0xa1, 0xb2, 0xc3, 0xd4, 0xe5, 0xf6));
}

describe('a card that a reader takes', () => {
  it('is made by whoever has the reader’s key, with another plan’s words no different', async () => {
    const plan = planOf(1, 'never', ['app', 'reader']);
    expect(wayOf(plan, 'reader')?.map((step) => step.do)).toEqual([
      'take a blank',
      'create application',
      'create file',
      'write',
      'put a key in',
    ]);
    expect(await made(plan, ['reader'])).toBe('0'.repeat(32));
    expect(checkAssertion(plan, { claim: 'never', keys: ['reader'], can: FORGE })).toMatchObject({ holds: false });
  });

  it.each(['plain', 'maced', 'enciphered'])('read in mode %s, it is', async (mode) => {
    expect(await made(planOf(1, 'never', ['app', 'reader'], mode), ['reader'])).toBe('0'.repeat(32));
  });

  it('is made by anybody where the file is free, or the key that reads is the factory’s', async () => {
    expect(await made(planOf('free', 'never', ['app']), [])).toBe('0'.repeat(32));
    expect(await made(planOf(1, 'never', ['app', null]), [])).toBe('0'.repeat(32));
  });

  it('is one of the plan, altered, where that is the shorter way', async () => {
    const plan = planOf(1, 2, ['app', 'reader', 'office']);
    expect(wayOf(plan, 'office')?.map((step) => step.do)).toEqual(['select', 'authenticate', 'write']);
    expect(await made(plan, ['office'])).toMatch(/^[01]{32}$/);
    // Whoever has the application’s own key puts another file in its place.
    expect(wayOf(plan, 'app')).toBeDefined();
  });

  it('is made by nobody without the key that reads, if nobody can alter the file; the best that they do is refused', async () => {
    const plan = planOf(1, 'never', ['app', 'reader']);
    expect(wayOf(plan)).toBeUndefined();
    expect(wayOf(plan, 'master')).toBeUndefined();
    expect(checkAssertion(plan, { claim: 'only', keys: ['reader', 'app'], can: FORGE })).toMatchObject({ holds: true });
    // The whole plan on a blank, but under another key in the reader’s place.
    const { card, uid } = standInBlank(plan);
    const host = new FilesHost({ transmit: async (apdu) => card.transmit(apdu, draw) }, draw);
    const [application] = plan.applications;
    const guessed = { ...plan, applications: [{ ...application!, keys: ['app', 'app'] }] };
    await bringCard(host, {
      plan: guessed,
      ring: ringOf(guessed, standInKeys(plan)),
      known: standInKnown(plan),
      selected: uid,
    });
    card.powerOff();
    expect(await atDoor(plan, host, uid)).toBe('authenticate by key 1');
  });

  it('is not told of a file that has no fields: no reader is set up for it', () => {
    const plan = planOf(1, 'never', ['app', 'reader']);
    const bare = planSchema.parse(JSON.parse(JSON.stringify(plan), (key, value) => (key === 'fields' ? [] : value)));
    expect(wayOf(bare, 'reader')).toBeUndefined();
  });
});
