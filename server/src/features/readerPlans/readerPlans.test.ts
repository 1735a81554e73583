/** From a card that a run encoded to a door that opens: readers set up by the plan, keys that roll over, and where a wrong one stops. */
import {
  chipPlanSchema,
  doorApi,
  eventApi,
  keyApi,
  keyStoreApi,
  planApi,
  type Run,
  readerPlanApi,
  rigApi,
  runApi,
} from '@rawbits/api';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { loadAndWait } from '../../testing/harness.ts';
import { BLANKS, openStation, PASSPHRASE, type Station } from '../../testing/station.ts';

const STRING = { name: 'string', length: 4, content: { is: 'bits' } } as const;
const PLACE = { in: 'file', application: '5A0001', file: 1, field: 'string' } as const;

describe('a reader that is set up by a plan', () => {
  let station: Station;
  let site: string;
  let reader: string;
  beforeAll(async () => {
    station = await openStation();
    ({ site } = station);
    reader = (await admin().ask(doorApi.readers, { site })).find(({ kind }) => kind === 'door')!.id;
    const { id } = (await admin().ask(doorApi.list, { site }))[0]!;
    await loadAndWait(admin(), `/sites/${site}/controllers/${id}`);
  });
  afterAll(() => station.close());

  const admin = () => station.house.administrator;
  const field = () => ({ planId: station.planId, at: PLACE, bits: 26 });
  const set = (more: object = {}) =>
    station.agreed(() => admin().ask(readerPlanApi.set, { site, id: reader }, { ...field(), ...more }));
  const present = (card: string) => admin().ask(rigApi.present, { site }, { card, reader });
  const encode = async (blanks: readonly string[], from: number) => {
    const run = await station.start({
      cards: { from: 'list', cards: station.cards.slice(from, from + blanks.length) },
    });
    for (const [i, blank] of blanks.entries()) {
      await station.lay(blank);
      await station.until(run.id, ({ done }) => done === i + 1);
      await station.lay();
    }
    return station.until(run.id, ({ pads, state }) => state === 'done' && pads.length === 0);
  };

  it('set up for more bits than any format of its controller has, it says that every card is refused', async () => {
    const whole = await set({ bits: undefined });
    expect(whole.problem).toMatch(/^It sends 32 bits, and .* accepts formats of 26 bits: every card is refused\.$/);
    const who = await admin().ask(readerPlanApi.wouldOpen, { site, id: reader });
    expect(who.problem).toBe(whole.problem);
    expect((await set()).problem).toBeNull();
  });

  it('who would be let in is told before a card is made, and then they are', async () => {
    expect(await set()).toMatchObject({
      field: 'string',
      settings: { application: '5A0001', file: 1, from: 0, length: 4, bits: 26, key: { name: 'Door number', slot: 1 } },
      keys: [{ name: 'Door number', version: 1, isCurrent: true }],
    });
    const run = await station.start({ cards: { from: 'list', cards: station.cards.slice(0, 2) } });
    const who = await admin().ask(readerPlanApi.wouldOpen, { site, id: reader });
    expect(who.cards).toEqual([]);
    const before = await admin().do('GET', `/sites/${site}/readers/${reader}/plan/who?run=${run.id}`);
    expect(before).toMatchObject({
      problem: null,
      cards: [
        { card: '41/201', outcome: 'refused', reason: expect.stringContaining('issued') },
        { card: '41/202', bits: expect.stringMatching(/^[01]{26}$/) },
      ],
    });
    await admin().ask(runApi.end, { site, id: run.id });
    await station.until(run.id, ({ pads }: Run) => pads.length === 0);
    // An issued card opens once it is active.
    for (const card of station.cards) {
      const { revision } = await admin().do('GET', `/sites/${site}/cards/${card}`);
      await admin().do('PATCH', `/sites/${site}/cards/${card}`, { revision, state: 'active' });
    }
    const { id } = (await admin().ask(doorApi.list, { site }))[0]!;
    await loadAndWait(admin(), `/sites/${site}/controllers/${id}`);
    await encode(BLANKS.slice(0, 2), 0);
    expect(await present(BLANKS[0]!)).toMatchObject({ outcome: 'opened' });
    const after = await admin().do('GET', `/sites/${site}/readers/${reader}/plan/who`);
    expect(after.cards.map((one: { outcome: string }) => one.outcome)).toEqual(['opened', 'opened']);
    const [event] = await admin().ask(eventApi.list, { site });
    expect(event!.chip!.map(({ step, holds }) => `${step} ${holds}`)).toEqual([
      'select application 5A0001 true',
      'authenticate by key 1 true',
      'read file 1 true',
    ]);
  });

  it('a blank, and a credential of another kind, stop at their step, and the event says which', async () => {
    expect(await present(BLANKS[5]!)).toMatchObject({ readId: null, outcome: 'refused' });
    expect((await admin().ask(eventApi.list, { site }))[0]).toMatchObject({
      stoppedAt: 'chip',
      bits: null,
      reason: 'select application 5A0001: the reader wanted this application; what came was no such application.',
    });
    await present('band');
    expect((await admin().ask(eventApi.list, { site }))[0]!.reason).toContain('a credential of another kind');
  });

  it('its key in a new version: cards are refused at the key until they are brought along where they are presented', async () => {
    const id = station.keys.get('Door number')!;
    await station.custodian.ask(keyApi.addVersion, { site, id }, { version: 2, comes: { how: 'made' } });
    await station.custodian.ask(keyApi.use, { site, id, version: '2' });
    expect((await admin().ask(readerPlanApi.list, { site }))[0]!.keys).toMatchObject([
      { version: 1, isCurrent: false },
    ]);
    await set();
    expect(await present(BLANKS[0]!)).toMatchObject({ outcome: 'refused' });
    expect((await admin().ask(eventApi.list, { site }))[0]).toMatchObject({
      stoppedAt: 'chip',
      reason:
        'authenticate by key 1: the reader wanted its key (aes128), version 2; what came was the key of version 1.',
    });
    const pad = (await admin().ask(runApi.pads, { site })).find(({ name }) => name.includes('Shed door'))!;
    const run = await station.start({ kind: 'bring along', pads: [pad.id] });
    await station.until(run.id, ({ pads }) => pads.some(({ says }) => says.includes('Waits')));
    expect(await present(BLANKS[0]!)).toMatchObject({ outcome: 'opened' });
    expect(await station.until(run.id, ({ done }) => done === 1)).toMatchObject({ amiss: 0 });
    // One that has been brought along is read as fast as ever; one that has not is taken along just so.
    expect(await present(BLANKS[1]!)).toMatchObject({ outcome: 'opened' });
    await admin().ask(runApi.end, { site, id: run.id });
    await station.until(run.id, ({ pads }) => pads.length === 0);
    expect(await present(BLANKS[1]!)).toMatchObject({ outcome: 'opened' });
  });

  it.each([
    ['a field that is not there', { at: { ...PLACE, field: 'nothing' } }, 'no field "nothing"'],
    ['more bits than the field has', { bits: 99 }, 'has 32 bits, and 99'],
    [
      'an application that is not there',
      { at: { ...PLACE, application: '5AFFFF' } },
      'no field "string" in file 1 of 5AFFFF',
    ],
  ])('%s is refused, and the reader stays as it was', async (_, wrong, told) => {
    const answer = await admin().call('PUT', `/sites/${site}/readers/${reader}/plan`, { ...field(), ...wrong });
    expect(answer.status).toBeGreaterThanOrEqual(400);
    expect(answer.body.error.message).toContain(told);
    expect(await present(BLANKS[1]!)).toMatchObject({ outcome: 'opened' });
  });

  it('for a sector and for tags, too: who would be let in is told, and they are; another kind stops at its step', async () => {
    const [{ id: setId }] = (await admin().ask(keyApi.list, { site })) as unknown as [{ id: string }];
    const sectorKey = {
      setId,
      name: 'Band reader',
      kind: 'sector',
      purpose: 'sector',
      allows: { toReaders: true },
      comes: { how: 'made' },
    } as const;
    const bandKey = await station.custodian.ask(keyApi.add, { site }, sectorKey);
    const band = chipPlanSchema.parse({
      schema: 'rawbits/plan@1',
      kind: 'sectors',
      name: 'Wristband',
      sectors: [{ number: 1, keyA: 'Band reader', access: { data: [0, 0, 0], trailer: 1 }, fields: [STRING] }],
    });
    const fob = chipPlanSchema.parse({ schema: 'rawbits/plan@1', kind: 'tag', name: 'Fob', sends: { is: 'string' } });
    const cards = { from: 'next numbers', formatId: '26-8-16', facility: '41', count: 1 } as const;
    for (const [plan, lies, at, steps] of [
      [band, 'band', { in: 'sector', sector: 1, field: 'string' }, ['authenticate sector 1 by key A', 'read block 4']],
      [fob, 'tag', { in: 'tag', field: 'string' }, ['listen at RF/50, fsk2a']],
    ] as const) {
      const { id: planId } = await admin().ask(planApi.add, { site }, { plan, evenSo: true });
      const wanted = { planId, at, ...(at.in === 'sector' && { bits: 26 }) };
      expect((await set({ bits: undefined, ...wanted })).keys.length).toBe(at.in === 'sector' ? 1 : 0);
      const run = await station.start({ planId, cards });
      await station.lay(lies);
      await station.until(run.id, ({ state, pads }) => state === 'done' && pads.length === 0);
      await station.lay();
      const who = await admin().do('GET', `/sites/${site}/readers/${reader}/plan/who`);
      expect(who).toMatchObject({ problem: null, cards: [{ bits: expect.stringMatching(/^[01]{26}$/) }] });
      await present(lies);
      const [event] = await admin().ask(eventApi.list, { site });
      expect(event).toMatchObject({ bits: who.cards[0].bits });
      expect(event!.chip!.map(({ step, holds }) => [step, holds])).toEqual(steps.map((step) => [step, true]));
      await present(BLANKS[0]!);
      expect((await admin().ask(eventApi.list, { site }))[0]).toMatchObject({
        stoppedAt: 'chip',
        reason: expect.stringContaining('a credential of another kind'),
      });
    }
    // A key that is not the card's: the reader stops at it.
    const at = { in: 'sector', sector: 1, field: 'string' } as const;
    const planId = (await admin().ask(planApi.list, { site })).find(({ name }) => name === 'Wristband')!.id;
    await station.custodian.ask(keyApi.addVersion, { site, id: bandKey.id }, { version: 2, comes: { how: 'made' } });
    await station.custodian.ask(keyApi.use, { site, id: bandKey.id, version: '2' });
    await set({ planId, at });
    await present('band');
    expect((await admin().ask(eventApi.list, { site }))[0]!.reason).toContain('authenticate sector 1 by key A');
    const wrong = await admin().call('PUT', `/sites/${site}/readers/${reader}/plan`, { planId, at: PLACE });
    expect([wrong.status, wrong.body.error.code]).toEqual([422, 'plan-kind']);
  });

  it('for tags without a password the key store may be locked; for a key it may not', async () => {
    await station.custodian.ask(keyStoreApi.lock, { site });
    const fob = (await admin().ask(planApi.list, { site })).find(({ name }) => name === 'Fob')!.id;
    const at = { in: 'tag', field: 'string' } as const;
    expect(await admin().ask(readerPlanApi.set, { site, id: reader }, { planId: fob, at })).toMatchObject({ keys: [] });
    await station.lay('tag');
    expect(await admin().ask(runApi.look, { site }, {})).toMatchObject({
      onFile: { plan: { name: 'Fob' } },
      against: { differs: [] },
    });
    const run = await station.start({ planId: fob, kind: 'verify' });
    await station.until(run.id, ({ pads }) => pads.some(({ says }) => says.includes('byte by byte')));
    await station.lay();
    await admin().ask(runApi.end, { site, id: run.id });
    await station.until(run.id, ({ pads }) => pads.length === 0);
    const locked = await admin().call('PUT', `/sites/${site}/readers/${reader}/plan`, field());
    expect([locked.status, locked.body.error.code]).toEqual([423, 'store-locked']);
    await station.custodian.ask(keyStoreApi.unlock, { site }, { passphrase: PASSPHRASE });
  });

  it('a card that cannot be made any more is refused by itself, and says why; the others are told as ever', async () => {
    await set();
    const card = station.cards[1]!;
    const { revision } = await admin().do('GET', `/sites/${site}/cards/${card}`);
    await admin().do('PATCH', `/sites/${site}/cards/${card}`, { revision, holderId: null, state: 'in stock' });
    const { cards } = await admin().do('GET', `/sites/${site}/readers/${reader}/plan/who`);
    const told = cards.map(({ card: called, bits, reason }: any) => [called, bits?.length ?? reason]);
    expect(told).toContainEqual(['41/201', 26]);
    expect(told).toContainEqual(['41/202', expect.stringContaining('"holder", which is not known')]);
  });

  it('set back it reads as it did before: the UID', async () => {
    await admin().ask(readerPlanApi.end, { site, id: reader });
    await present(BLANKS[1]!);
    expect((await admin().ask(eventApi.list, { site }))[0]!.bits).toHaveLength(56);
    expect(await admin().ask(readerPlanApi.list, { site })).toEqual([]);
  });
});
