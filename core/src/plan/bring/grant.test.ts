/** Hand-back grants: who frees a card by one, what that tells of other cards, and what is left of one that was revoked. */
import { describe, expect, it } from 'vitest';
import { blankFiles, copied, FilesCard, type FilesMemory } from '../../chip/index.ts';
import { FilesHost } from '../../host/index.ts';
import { unwrapped } from '../../key/index.ts';
import { doorKey } from '../door/index.ts';
import { checkAssertion, Player, reach } from '../reach/index.ts';
import { type PlanInput, planSchema, problemsOfPlan } from '../schema/index.ts';
import { bringCard, freeByGrant, grantsOf, type Ring, standInCard, standInKeys } from './index.ts';

const grant = (number: number, under: string) =>
  ({
    kind: 'standard',
    number,
    size: 24,
    mode: 'plain',
    rights: { read: 'free', write: 'never', both: 'never', change: 0 },
    fields: [{ name: under, length: 24, content: { is: 'wrapped', key: 'card', under } }],
  }) as const;
const planOf = (...parties: string[]) =>
  planSchema.parse({
    schema: 'rawbits/plan@1',
    card: { key: 'card' },
    keys: ['card', 'grants', 'harbour', 'canteen'].map((name) => ({ name, each: 'card' })),
    applications: [{ id: '5A00F1', keys: ['grants'], files: parties.map((party, i) => grant(i, party)) }],
  } as unknown as PlanInput);
const PLAN = planOf('harbour', 'canteen');
const uidOf = (n: number) => Uint8Array.of(4, 1, 2, 3, 4, 5, n);
const base = (name: string, version = 1) => ({
  kind: 'aes128' as const,
  bytes: Uint8Array.from({ length: 16 }, (_, i) => (name.charCodeAt(i % name.length) * (version + 2) + i) & 0xff),
  version,
});
const ringFor =
  (uid: Uint8Array, versions: Record<string, number> = {}): Ring =>
  (name, application) => {
    const of = (version: number) => doorKey(base(name, version), { each: 'card', system: '' }, uid, application);
    return { now: of(versions[name] ?? 1), before: versions[name] ? [of(1)] : [] };
  };
const draw = (count: number) => Uint8Array.from({ length: count }, (_, i) => (3 * i + 1) & 0xff);
const at = (memory: FilesMemory) => {
  const card = new FilesCard(memory);
  return new FilesHost({ transmit: async (apdu) => card.transmit(apdu, draw) }, draw);
};
const partysKey = (name: string, uid: Uint8Array) => doorKey(base(name), { each: 'card', system: '' }, uid, null).bytes;

async function cardOf(n: number, plan = PLAN, ring = ringFor(uidOf(n)), memory?: FilesMemory): Promise<FilesMemory> {
  const card = memory ?? blankFiles({ generation: 2, masterKey: 'aes', uid: uidOf(n) });
  await bringCard(at(card), { plan, was: memory ? PLAN : undefined, ring, known: { values: {} }, selected: uidOf(n) });
  return card;
}
const free = (memory: FilesMemory, n: number, party: string, plan = PLAN) =>
  freeByGrant(
    at(memory),
    plan,
    grantsOf(PLAN).find(({ under }) => under === party)!,
    partysKey(party, uidOf(n)),
    undefined,
  );

describe('a hand-back grant', () => {
  it.each(['harbour', 'canteen'])('frees the card for whoever has the key of the %s', async (party) => {
    const memory = await cardOf(1);
    await free(memory, 1, party);
    expect([memory.applications, memory.card.keys[0]!.bytes]).toEqual([[], new Uint8Array(16)]);
  });

  it('opens with no other key: not another party’s, nor the same party’s of another card', async () => {
    const memory = await cardOf(1);
    const own = grantsOf(PLAN)[0]!;
    for (const key of [partysKey('canteen', uidOf(1)), partysKey('harbour', uidOf(2))])
      await expect(freeByGrant(at(memory), PLAN, own, key, undefined)).rejects.toThrow('does not open the grant');
  });

  it('is wrapped anew when the card’s key rolls over', async () => {
    const memory = await cardOf(1);
    await cardOf(1, PLAN, ringFor(uidOf(1), { card: 2 }), memory);
    await free(memory, 1, 'harbour');
    expect(memory.applications).toEqual([]);
  });

  it('is revoked on the next run; a copy that was kept of it opens the card until its key rolls over, and no longer', async () => {
    const memory = await cardOf(1);
    const kept = (memory.applications[0]!.files[0] as { data: Uint8Array }).data.slice();
    const revoked = await cardOf(1, planOf('canteen'), ringFor(uidOf(1)), copied(memory));
    await expect(free(revoked, 1, 'harbour', planOf('canteen'))).rejects.toThrow('does not open the grant');
    const before = unwrapped(partysKey('harbour', uidOf(1)), kept);
    expect(before).toEqual(revoked.card.keys[0]!.bytes);
    const rolled = await cardOf(1, planOf('canteen'), ringFor(uidOf(1), { card: 2 }), copied(memory));
    expect(before).not.toEqual(rolled.card.keys[0]!.bytes);
  });

  it('stands in reach: its holder frees the card, nobody else, and the way begins by reading it', async () => {
    const can = (...keys: string[]) => reach(PLAN, new Set(keys)).map((ability) => ability.can);
    expect(can('harbour')).toContain('format the card');
    expect(can('grants')).not.toContain('format the card');
    const way = reach(PLAN, new Set(['harbour'])).find((ability) => ability.can === 'format the card')!.by;
    expect(way.map((step) => step.do)).toEqual(['select', 'read', 'select', 'authenticate', 'format']);
    const card = await standInCard(PLAN, draw);
    await new Player(at(card.memory), PLAN, standInKeys(PLAN)).take(way);
    expect(card.memory.applications).toEqual([]);
    expect(
      checkAssertion(PLAN, { claim: 'only', keys: ['card', 'harbour', 'canteen'], can: 'format the card' }).holds,
    ).toBe(true);
    expect(checkAssertion(PLAN, { claim: 'only', keys: ['card', 'canteen'], can: 'format the card' }).holds).toBe(
      false,
    );
  });

  it('tells the card’s own key, and not what the same key is for an application', () => {
    const application = { ...PLAN.applications[0]!, keys: ['card'] };
    const plan = planSchema.parse({ ...PLAN, applications: [application] });
    const can = (each: 'card' | 'all') =>
      reach({ ...plan, keys: [{ name: 'card', each, system: '' }] }, new Set(['harbour'])).map(
        (ability) => ability.can,
      );
    expect(can('card')).toContain('format the card');
    expect(can('card')).not.toContain('change the settings of 5A00F1');
    expect(can('all')).toContain('change the settings of 5A00F1');
  });

  it('of a key that is the same on all cards is refused: it would hand them all out', () => {
    const plan = planSchema.parse({ ...PLAN, keys: [] });
    expect(
      problemsOfPlan(plan)
        .filter(({ weight }) => weight === 'error')
        .map(({ code }) => code),
    ).toEqual(['grant-all', 'grant-all']);
  });
});
