/** Runs: from a blank to a verified card, what is refused on the way, and that no number is lost or doubled whatever happens. */
import {
  boxApi,
  cardApi,
  chipPlanSchema,
  doorApi,
  exchangeApi,
  keyApi,
  keyStoreApi,
  padApi,
  planApi,
  type Run,
  type RunCard,
  rigApi,
  runApi,
} from '@rawbits/api';
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { createPool, type RowDataPacket } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { RunningServer } from '../../start.ts';
import { eventually, Person } from '../../testing/harness.ts';
import { BLANKS, openStation, PASSPHRASE, type Station, staffCard, uidOf } from '../../testing/station.ts';

describe('runs', () => {
  let station: Station;
  let site: string;
  beforeAll(async () => {
    station = await openStation();
    ({ site } = station);
  });
  afterAll(() => station.close());

  const admin = () => station.house.administrator;
  const said = (text: string | RegExp) => (run: Run) =>
    run.pads.some(({ says }) => (typeof text === 'string' ? says.includes(text) : text.test(says)));
  const cardsOf = async (id: string): Promise<RunCard[]> => (await admin().ask(runApi.cards, { site, id })).cards;
  /** The last of all that was said to a card, played on a simulated one. */
  const playedAgain = async (id: string) => {
    const kept = await admin().ask(exchangeApi.one, { site, id, seq: '1' });
    return admin().ask(exchangeApi.play, { site }, kept);
  };
  /** The store is opened at the first server, which hands the key to another that has said that it runs. */
  const bothHoldTheKey = async (second: RunningServer) => {
    await second.housekeep();
    await station.custodian.ask(keyStoreApi.unlock, { site }, { passphrase: PASSPHRASE });
    await second.housekeep();
    expect((await second.app.vault.state(site)).servers.every(({ holds }) => holds)).toBe(true);
  };
  const refusal = async (body: object): Promise<[number, string]> => {
    const answer = await admin().call('POST', `/sites/${site}/runs`, body);
    return [answer.status, answer.body.error.message];
  };

  it('encodes blank after blank, verifies each, and the numbers go in their order', async () => {
    const run = await station.start({ cards: { from: 'list', cards: station.cards.slice(0, 3) } });
    await station.until(run.id, said('Waits for blank 1 of 3'));
    for (const [i, blank] of BLANKS.slice(0, 3).entries()) {
      await station.lay(blank);
      await station.until(run.id, ({ done }) => done === i + 1);
      await station.lay();
    }
    const ended = await station.until(run.id, ({ state, pads }) => state === 'done' && pads.length === 0);
    expect(ended).toMatchObject({ wanted: 3, done: 3, amiss: 0 });
    expect((await cardsOf(run.id)).map(({ card, state, uid }) => `${card} ${state} ${uid?.slice(-2)}`)).toEqual([
      '41/201 finished 00',
      '41/202 finished 01',
      '41/203 finished 02',
    ]);
    expect(await admin().ask(planApi.one, { site, id: station.planId })).toMatchObject({ cards: 3, behind: 0 });
    const keys = await admin().ask(keyApi.list, { site });
    expect(keys[0]!.keys.map(({ name, versions }) => [name, versions[0]!.cards])).toEqual([
      ['Card master', 3],
      ['Door number', 3],
      ['Harbour', 3],
    ]);
  });

  it('what was done stands step by step, and of new keys nothing, not even enciphered', async () => {
    const [run] = await admin().ask(runApi.list, { site });
    const steps = await admin().ask(runApi.steps, { site, id: run!.id, seq: '1' });
    expect(steps.map(({ step }) => step.do)).toEqual([
      'recognise',
      'create application',
      'create file',
      'write file',
      'set the rights of file',
      'create file',
      'write file',
      'set the rights of file',
      'change key',
      'change key',
      'change key',
      'set the settings',
    ]);
    const commands = steps.flatMap(({ exchange }) => exchange ?? []).map(({ command }) => command);
    const changes = commands.filter((command) => command.startsWith('90C4'));
    expect(changes.length).toBe(3);
    for (const command of changes) expect(command.length).toBe(12);
  });

  it('read on the pad it is known by what is on it, and what differs is told', async () => {
    await station.lay(BLANKS[0]!);
    const looked = await admin().ask(runApi.look, { site }, {});
    expect(looked).toMatchObject({
      onFile: { card: '41/201', holder: 'Åse Vik', plan: { name: 'Staff card', version: 1 } },
      against: { differs: [], unread: [] },
      isBlank: false,
    });
    expect(looked.fields.find(({ field }) => field === 'holder')).toMatchObject({ value: 'Åse Vik', holds: true });
    await station.lay(BLANKS[7]!);
    expect(await admin().ask(runApi.look, { site }, {})).toMatchObject({ isBlank: true, onFile: null, against: null });
    await station.lay();
  });

  it.each([
    [
      'a card that is encoded already',
      () => [BLANKS[1]!],
      'encoded already: it is 41/202',
      'Lay a blank on, or take this one back in a run.',
    ],
    ['a card of another kind', () => ['band'], 'This card is of another kind', 'Lay a blank of the right kind on.'],
    ['two cards at once', () => [BLANKS[5]!, BLANKS[6]!], 'There are two cards on the pad', 'Take all but one away.'],
  ])('%s is refused, and costs no number', async (_, cards, told, next) => {
    const run = await station.start({ cards: { from: 'list', cards: station.cards.slice(3, 4) } });
    await station.lay(...cards());
    const { pads } = await station.until(run.id, said(told));
    // What to do is about what is in the way, not about a card that was torn away.
    expect(pads[0]!.next).toBe(next);
    expect((await cardsOf(run.id)).map(({ state }) => state)).toEqual(['waiting']);
    await station.lay();
    await admin().ask(runApi.end, { site, id: run.id });
    await station.until(run.id, ({ pads }) => pads.length === 0);
  });

  it('torn away at every command in turn, before it or after it, a card is finished when it comes back', async () => {
    const { pad } = station.house.rig;
    const transmit = pad.transmit.bind(pad);
    let [count, at]: [number, number] = [0, -1];
    let tear: 'before' | 'after' = 'before';
    pad.transmit = (apdu) => {
      if (count++ === at) pad.tearAtNext(tear);
      return transmit(apdu);
    };
    try {
      // Commands all through the work, one after another; every single one is gone through on the chip model in core.
      for (const [n, place] of [4, 21, 36, 52].entries()) {
        tear = n % 2 === 0 ? 'before' : 'after';
        at = place;
        count = 0;
        const run = await station.start({ cards: { from: 'list', cards: station.cards.slice(3, 4) } });
        await station.lay(BLANKS[3]!);
        await station.until(run.id, ({ pads, done }) => done === 1 || said('gone from the pad')({ pads } as Run));
        at = -1;
        await station.lay(BLANKS[3]!);
        const ended = await station.until(run.id, ({ state, pads }) => state === 'done' && pads.length === 0);
        expect(ended).toMatchObject({ done: 1, amiss: 0 });
        expect((await cardsOf(run.id)).map(({ card, state }) => `${card} ${state}`)).toEqual(['41/204 finished']);
        await station.lay();
        await takeBack(BLANKS[3]!);
      }
    } finally {
      pad.transmit = transmit;
    }
  });

  async function takeBack(card: string, more: object = { kind: 'take back' }): Promise<void> {
    const run = await station.start(more);
    await station.lay(card);
    await station.until(run.id, ({ done }) => done === 1);
    await station.lay();
    await admin().ask(runApi.end, { site, id: run.id });
    await station.until(run.id, ({ pads }) => pads.length === 0);
  }

  it('a card that was begun and given up: its number goes to another blank, and it is freed when it comes back', async () => {
    const { pad } = station.house.rig;
    const run = await station.start({ cards: { from: 'list', cards: station.cards.slice(3, 4) } });
    const transmit = pad.transmit.bind(pad);
    let count = 0;
    pad.transmit = (apdu) => {
      if (count++ === 30) pad.tearAtNext('after');
      return transmit(apdu);
    };
    await station.lay(BLANKS[3]!);
    await station.until(run.id, said('gone from the pad'));
    pad.transmit = transmit;
    expect(await admin().ask(runApi.giveUp, { site, id: run.id, seq: '1' })).toMatchObject({ amiss: 0, done: 0 });
    await station.lay(BLANKS[4]!);
    await station.until(run.id, ({ state, pads }) => state === 'done' && pads.length === 0);
    expect((await cardsOf(run.id)).map(({ card, state, uid }) => `${card} ${state} ${uid?.slice(-2)}`)).toEqual([
      '41/204 given up 03',
      '41/204 finished 04',
    ]);
    await station.lay();
    const next = await station.start({ cards: { from: 'list', cards: station.cards.slice(4) } });
    await station.lay(BLANKS[3]!);
    const ended = await station.until(next.id, ({ state, pads }) => state === 'done' && pads.length === 0);
    expect(ended).toMatchObject({ done: 1, amiss: 0 });
    await station.lay();
  });

  /** The number that the second blank has: which of two it is depends on which pad was first. */
  let onSecond = '';
  it('at two pads at once each blank has a number of its own', async () => {
    for (const blank of [BLANKS[2]!, BLANKS[1]!]) await takeBack(blank);
    const pads = (await admin().ask(runApi.pads, { site }))
      .filter(({ name }) => !name.includes('door'))
      .map(({ id }) => id);
    expect(pads.length).toBe(2);
    const run = await station.start({ pads, cards: { from: 'list', cards: station.cards.slice(1, 3) } });
    await station.until(
      run.id,
      ({ pads: told }) => told.length === 2 && told.every(({ weight }) => weight === 'waits'),
    );
    const [, desk] = pads;
    station.house.rig.padOf(desk!.split('/')[1]).lay([BLANKS[2]!]);
    await station.lay(BLANKS[1]!);
    const ended = await station.until(run.id, ({ state, pads: told }) => state === 'done' && told.length === 0);
    expect(ended).toMatchObject({ done: 2, amiss: 0 });
    const cards = await cardsOf(run.id);
    expect(cards.map(({ state }) => state)).toEqual(['finished', 'finished']);
    expect(new Set(cards.map(({ uid }) => uid)).size).toBe(2);
    onSecond = cards.find(({ uid }) => uid === uidOf(1))!.cardId!;
    await station.lay();
    station.house.rig.padOf(desk!.split('/')[1]).lay([]);
  });

  it('a number is in one run at a time, and on one chip', async () => {
    const { planId, cards } = station;
    const pads = [await station.pad()];
    expect(await refusal({ kind: 'encode', planId, pads, cards: { from: 'list', cards: cards.slice(0, 1) } })).toEqual([
      409,
      'Card 41/201 is on a chip already, or in another run.',
    ]);
    expect(
      await refusal({ kind: 'encode', planId, pads, cards: { from: 'stock', formatId: '26-8-16', count: 3 } }),
    ).toEqual([422, '0 cards are in stock whose numbers are to be encoded and on no chip yet, and 3 are wanted.']);
    const wanted = { from: 'next numbers', formatId: '26-8-16', facility: '41', count: 2 };
    expect(await refusal({ kind: 'encode', planId, pads, cards: wanted })).toEqual([
      422,
      'Card 41/206: "holder" takes "holder", which is not known of this card.',
    ]);
    const pool = createPool(station.house.databaseUrl);
    const [left] = await pool.query<RowDataPacket[]>("SELECT COUNT(*) AS n FROM cards WHERE number IN ('206', '207')");
    expect(left[0]!.n).toBe(0);
    await pool.end();
  });

  it('only numbers that are on no card yet: not those of a box, unless it is one of blanks, nor what nobody keeps for it', async () => {
    const { planId } = station;
    const pads = [await station.pad()];
    const label = {
      formatId: '26-8-16',
      facility: '41',
      first: '300',
      last: '304',
      print: { kind: 'number' as const },
      values: {},
    };
    const box = { name: 'Blue fobs', ...label };
    const { seen } = await admin().ask(boxApi.review, { site }, box);
    const { id } = await admin().ask(boxApi.enter, { site }, { ...box, seen });
    const work = await eventually(
      () => admin().ask(boxApi.work, { site, id }),
      ({ state }) => state === 'done',
    );
    const inBox = (await admin().do('GET', `/sites/${site}/cards?box=${work.box}&order=number`)).cards;
    const run = (cards: object) => refusal({ kind: 'encode', planId, pads, cards });
    expect(await run({ from: 'list', cards: [inBox[0].id] })).toEqual([
      409,
      'Card 41/300 lies in the box Blue fobs and has its number already: a second one would have it, too.',
    ]);
    const stock = { from: 'stock', formatId: '26-8-16', count: 1 };
    expect((await run(stock))[1]).toContain('0 cards are in stock whose numbers are to be encoded');
    const next = { from: 'next numbers', formatId: '26-8-16', facility: '41', count: 2 };
    expect((await run({ ...next, first: '998', count: 3 }))[1]).toBe(
      '998 to 1000 under the facility code 41 are not kept for encoding.',
    );
    expect((await run({ ...next, facility: '42' }))[1]).toBe(
      'No numbers under the facility code 42 are kept for encoding.',
    );
    const loose = await admin().ask(cardApi.add, { site }, { formatId: '26-8-16', facility: '42', number: '7' });
    expect((await run({ from: 'list', cards: [loose.id] }))[1]).toContain(
      'The number of card 42/7 is not kept for encoding',
    );
    const { revision, name, notes } = await admin().ask(boxApi.one, { site, id: work.box! });
    await admin().ask(boxApi.update, { site, id: work.box! }, { revision, name, notes, blanks: true });
    // A blank of that box may be encoded; this plan wants a holder, which it has not.
    expect(await run({ from: 'list', cards: [inBox[0].id] })).toEqual([
      422,
      'Card 41/300: "holder" takes "holder", which is not known of this card.',
    ]);
    expect((await run(stock))[1]).toContain('Card 41/300: "holder"');
    // Its numbers are no one's to begin with again.
    const [last] = (await run({ ...next, first: '305' })).slice(1);
    expect(last).toContain('Card 41/305: "holder"');
  });

  it('sixty that start at once on one pad: one does', async () => {
    const pads = [await station.pad()];
    const all = await Promise.all(
      Array.from({ length: 60 }, () =>
        admin().call('POST', `/sites/${site}/runs`, { kind: 'verify', planId: station.planId, pads }),
      ),
    );
    const begun = all.filter(({ status }) => status === 200);
    expect(begun.length).toBe(1);
    expect(new Set(all.map(({ status }) => status))).toEqual(new Set([200, 409]));
    const { id } = begun[0]!.body;
    await station.lay(BLANKS[2]!);
    await station.until(id, said('byte by byte'));
    await station.lay();
    // The state of the pad is asked for meanwhile by whoever looks at the rig: that takes the card from nobody.
    expect(await admin().ask(padApi.state, { site })).toMatchObject({ answers: true });
    await admin().ask(runApi.end, { site, id });
    await station.until(id, ({ pads: held }) => held.length === 0);
  });

  it('a key in a new version: cards are brought along, and those that have the old one are counted until then', async () => {
    const id = station.keys.get('Door number')!;
    await station.custodian.ask(keyApi.addVersion, { site, id }, { version: 2, comes: { how: 'made' } });
    await station.custodian.ask(keyApi.use, { site, id, version: '2' });
    expect(await admin().ask(planApi.one, { site, id: station.planId })).toMatchObject({ cards: 5, behind: 5 });
    const run = await station.start({ kind: 'bring along' });
    await station.lay(BLANKS[0]!);
    await station.until(run.id, said('Brought along and verified'));
    await station.lay();
    // Held to a reader for a second it is gone before anybody looks: how it ended with it stays.
    const { pads } = await station.until(run.id, said('Waits for a card'));
    expect(pads[0]!.last).toEqual({ weight: 'done', says: 'Brought along and verified.', card: '41/201' });
    const steps = await admin().ask(runApi.steps, { site, id: run.id, seq: '1' });
    expect(steps.map(({ step }) => step.do)).toEqual(['recognise', 'change key']);
    expect(await admin().ask(planApi.one, { site, id: station.planId })).toMatchObject({ cards: 5, behind: 4 });
    await admin().ask(runApi.end, { site, id: run.id });
    await station.until(run.id, ({ pads }) => pads.length === 0);
  });

  it('torn while it is brought along and given up, a card stays on file with its number, and is brought along later', async () => {
    const { pad } = station.house.rig;
    const run = await station.start({ kind: 'bring along' });
    const transmit = pad.transmit.bind(pad);
    // Torn away once, in the change of the key; the run sees it gone before it is given up.
    pad.transmit = (apdu) => {
      if (apdu[1] === 0xc4) pad.tearAtNext('before');
      return transmit(apdu);
    };
    await station.lay(BLANKS[3]!);
    await station.until(run.id, said('gone from the pad'));
    pad.transmit = transmit;
    const [begun] = await cardsOf(run.id);
    expect(begun).toMatchObject({ state: 'begun' });
    await admin().ask(runApi.giveUp, { site, id: run.id, seq: String(begun!.seq) });
    expect(await admin().ask(planApi.one, { site, id: station.planId })).toMatchObject({ cards: 5, behind: 4 });
    await admin().ask(runApi.end, { site, id: run.id });
    await station.until(run.id, ({ pads }) => pads.length === 0);
    const again = { kind: 'encode', planId: station.planId, pads: [await station.pad()] };
    expect(await refusal({ ...again, cards: { from: 'list', cards: [begun!.cardId] } })).toEqual([
      409,
      `Card ${begun!.card} is on a chip already, or in another run.`,
    ]);
    const later = await station.start({ kind: 'bring along' });
    await station.lay(BLANKS[3]!);
    await station.until(later.id, said('Brought along and verified'));
    await station.lay();
    expect(await admin().ask(planApi.one, { site, id: station.planId })).toMatchObject({ cards: 5, behind: 3 });
    await admin().ask(runApi.end, { site, id: later.id });
    await station.until(later.id, ({ pads }) => pads.length === 0);
  });

  it('another version of the plan: what it takes is told before it is saved, and done after', async () => {
    const plan = staffCard();
    if (plan.kind !== 'files') throw new Error('a plan of files');
    plan.applications[0]!.files[0]!.rights.write = 0;
    const params = { site, id: station.planId };
    const change = await admin().ask(planApi.dryRun, params, { plan });
    expect(change.cards).toMatchObject([
      { version: 1, cards: 5, steps: [{ do: 'set the rights of file', file: 1 }], refused: null },
    ]);
    expect(change.differences).toEqual([
      { where: 'applications.5A0001.files.1.rights.write', before: '"never"', after: '0' },
    ]);
    await admin().ask(planApi.addVersion, params, { plan, basedOn: 1 });
    const twice = await admin().call('POST', `/sites/${site}/plans/${station.planId}/versions`, { plan, basedOn: 1 });
    expect([twice.status, twice.body.error.code]).toEqual([409, 'changed-meanwhile']);
    const run = await station.start({ kind: 'bring along' });
    await station.lay(BLANKS[0]!);
    await station.until(run.id, said('Brought along and verified'));
    await station.lay();
    expect((await admin().ask(planApi.one, params)).versions.map(({ version, cards }) => [version, cards])).toEqual([
      [2, 1],
      [1, 4],
    ]);
    await admin().ask(runApi.end, { site, id: run.id });
    await station.until(run.id, ({ pads }) => pads.length === 0);
  });

  it('let rest and gone on with; a card that was handed back by its grant is a blank for it', async () => {
    await takeBack(BLANKS[1]!, { kind: 'hand back', under: 'Harbour' });
    const run = await station.start({ cards: { from: 'list', cards: [onSecond] } });
    await admin().ask(runApi.stop, { site, id: run.id });
    await station.until(run.id, ({ pads }) => pads.length === 0);
    await admin().ask(runApi.goOn, { site, id: run.id }, { pads: [await station.pad()] });
    await station.lay(BLANKS[1]!);
    const ended = await station.until(run.id, ({ state, pads }) => state === 'done' && pads.length === 0);
    expect(ended).toMatchObject({ done: 1, state: 'done' });
  });

  it('a locked store is said at once; and a plan whose assertion breaks is kept only even so', async () => {
    await admin().call('POST', `/sites/${site}/key-store/lock`);
    const plan = staffCard({
      name: 'Open card',
      assertions: [{ claim: 'never', keys: ['Card master'], can: 'format the card' }],
    });
    const broken = await admin().call('POST', `/sites/${site}/plans`, { plan });
    expect([broken.status, broken.body.error.code]).toEqual([409, 'assertion-broken']);
    expect(broken.body.error.message).toContain('whoever has "Card master" can format the card');
    const kept = await admin().ask(planApi.add, { site }, { plan, evenSo: true });
    expect(kept.held).toEqual({ hold: 0, of: 1 });
    await admin().ask(planApi.remove, { site, id: kept.id });
    const carried = await admin().call('DELETE', `/sites/${site}/plans/${station.planId}`);
    expect([carried.status, carried.body.error.code]).toEqual([409, 'plan-carried']);
  });

  it('a sector card: its data, its directory and its keys, verified, and taken back', async () => {
    await station.custodian.ask(keyStoreApi.unlock, { site }, { passphrase: PASSPHRASE });
    const [{ id: setId }] = (await admin().ask(keyApi.list, { site })) as unknown as [{ id: string }];
    for (const name of ['Band reader', 'Band office'])
      await station.custodian.ask(
        keyApi.add,
        { site },
        { setId, name, kind: 'sector', purpose: 'sector', comes: { how: 'made' } },
      );
    const plan = chipPlanSchema.parse({
      schema: 'rawbits/plan@1',
      kind: 'sectors',
      name: 'Wristband',
      directory: true,
      sectors: [
        {
          number: 1,
          keyA: 'Band reader',
          keyB: 'Band office',
          application: '4801',
          access: { data: [4, 4, 4], trailer: 3 },
          fields: [{ name: 'string', length: 4, content: { is: 'bits' } }],
        },
      ],
    });
    const band = (await admin().ask(planApi.add, { site }, { plan })).id;
    const spare = await admin().do('POST', `/sites/${site}/cards`, {
      formatId: '26-8-16',
      facility: '41',
      number: '299',
    });
    const run = await station.start({ planId: band, cards: { from: 'list', cards: [spare.id] } });
    await station.lay(BLANKS[7]!);
    await station.until(run.id, said('the plan is for sector cards'));
    await station.lay('band');
    const ended = await station.until(run.id, ({ state, pads }) => state === 'done' && pads.length === 0);
    expect(ended).toMatchObject({ done: 1, amiss: 0 });
    const steps = await admin().ask(runApi.steps, { site, id: run.id, seq: '1' });
    expect(steps.map(({ step }) => `${step.do} ${step.application}`)).toEqual([
      'recognise null',
      'write block sector 0',
      'set the settings sector 0',
      'write block sector 1',
      'set the settings sector 1',
    ]);
    // Of keys nothing is kept: neither where one authenticates nor where one is written.
    const lines = steps.flatMap(({ exchange }) => exchange ?? []);
    for (const { command } of lines) expect(command).not.toMatch(/^6[01]..../.test(command) ? /^.{5,}/ : /^A0(03|07)./);
    await station.lay();
    for (const [kind, words] of [
      ['verify', 'byte by byte'],
      ['take back', 'it is a blank again'],
    ] as const) {
      const next = await station.start({ planId: band, kind });
      await station.lay('band');
      await station.until(next.id, said(words));
      await station.lay();
      await admin().ask(runApi.end, { site, id: next.id });
      await station.until(next.id, ({ pads }) => pads.length === 0);
      expect(await playedAgain(next.id)).toMatchObject({ differs: null, gap: null });
    }
    expect(await admin().ask(planApi.one, { site, id: band })).toMatchObject({ cards: 0 });
  });

  it('a tag: torn away and finished, read by a door, its password rolled over, and taken back', async () => {
    const [{ id: setId }] = (await admin().ask(keyApi.list, { site })) as unknown as [{ id: string }];
    const password = await station.custodian.ask(
      keyApi.add,
      { site },
      { setId, name: 'Tag password', kind: 'tag', purpose: 'write', comes: { how: 'made' } },
    );
    const plan = chipPlanSchema.parse({
      schema: 'rawbits/plan@1',
      kind: 'tag',
      name: 'Boat key fob',
      sends: { is: 'string' },
      password: 'Tag password',
      assertions: [{ claim: 'only', keys: ['Tag password'], can: 'change what it sends' }],
    });
    const fob = (await admin().ask(planApi.add, { site }, { plan })).id;
    const cards = { from: 'next numbers', formatId: '26-8-16', facility: '41', first: '701', count: 1 } as const;
    const run = await station.start({ planId: fob, cards });
    await station.lay(BLANKS[7]!);
    await station.until(run.id, said('the plan is for rewritable tags'));
    await admin().ask(padApi.tear, { site }, { at: 'during', after: 14 });
    await station.lay('tag');
    await station.until(run.id, said('gone from the pad'));
    await station.lay('tag');
    const ended = await station.until(run.id, ({ state, pads }) => state === 'done' && pads.length === 0);
    expect(ended).toMatchObject({ done: 1, amiss: 0 });
    const steps = await admin().ask(runApi.steps, { site, id: run.id, seq: '1' });
    expect(new Set(steps.map(({ step }) => step.do))).toEqual(
      new Set(['recognise', 'write block', 'change key', 'set the configuration']),
    );
    // Of the password nothing is kept: neither where it is written, nor where it opens.
    const lines = steps.flatMap(({ exchange }) => exchange ?? []);
    expect(lines.length).toBeGreaterThan(10);
    const stored = (await station.custodian.ask(keyApi.list, { site })).flatMap(({ keys }) => keys);
    expect(stored.find(({ id }) => id === password.id)?.versions[0]?.checkValue).toMatch(/^[0-9A-F]{2}$/);
    for (const { command } of lines)
      expect(command).toMatch(/^tag: [a-z ]+( [0-6])?(, [01]{2,38})?$|^tag: [a-z]+ block [0-7]$/);
    const looked = await admin().ask(runApi.look, { site }, {});
    expect(looked).toMatchObject({
      found: { kind: 'tag', sends: { is: 'string' }, hasPassword: true },
      onFile: { card: '41/701' },
      against: { differs: [] },
    });
    await station.lay();
    // A door’s reader hears it: what is on the tag is the number that the run gave it.
    const reader = (await admin().ask(doorApi.readers, { site })).find(({ kind }) => kind === 'door')!.id;
    const { eventId } = await admin().ask(rigApi.present, { site }, { card: 'tag', reader });
    const events = await admin().do('GET', `/sites/${site}/events`);
    const bits = encode(catalogued('26-8-16')!, { facility: '41', number: '701' }).toBinary();
    expect(events.find(({ id }: { id: string }) => id === eventId)).toMatchObject({ bits });
    await station.custodian.ask(keyApi.addVersion, { site, id: password.id }, { version: 2, comes: { how: 'made' } });
    await station.custodian.ask(keyApi.use, { site, id: password.id, version: '2' });
    expect(await admin().ask(planApi.one, { site, id: fob })).toMatchObject({ cards: 1, behind: 1 });
    for (const [kind, words] of [
      ['bring along', 'Brought along and verified'],
      ['verify', 'byte by byte'],
      ['take back', 'it is a blank again'],
    ] as const) {
      const next = await station.start({ planId: fob, kind });
      await station.lay('tag');
      await station.until(next.id, said(words));
      await station.lay();
      await admin().ask(runApi.end, { site, id: next.id });
      await station.until(next.id, ({ pads }) => pads.length === 0);
    }
    expect(await playedAgain(run.id)).toMatchObject({ differs: null, gap: null });
    expect(await admin().ask(planApi.one, { site, id: fob })).toMatchObject({ cards: 0, behind: 0 });
    await station.lay('tag');
    expect(await admin().ask(runApi.look, { site }, {})).toMatchObject({ isBlank: true, onFile: null });
    await station.lay();
  });

  it('started at a server that has not the line of the pad, it is carried by the one that has; keys never go by the database', async () => {
    const second = await station.house.another();
    const there = new Person(second.port);
    there.cookie = station.house.administrator.cookie;
    await bothHoldTheKey(second);
    const calls: string[] = [];
    const { devices } = second.app;
    const pad = devices.pad.bind(devices);
    devices.pad = (...asked) => {
      calls.push(asked[1]);
      return pad(...asked);
    };
    const body = { kind: 'verify' as const, planId: station.planId, pads: [await station.pad()] };
    const run = await there.ask(runApi.start, { site }, body);
    // It lets go of the run, and the server that has the line takes it up in its next turn.
    await station.until(run.id, said('Waits'), () => station.house.server.housekeep());
    await station.lay(BLANKS[0]!);
    await station.until(run.id, ({ done }) => done === 1);
    await station.lay();
    await there.ask(runApi.end, { site, id: run.id });
    await station.until(run.id, ({ pads }) => pads.length === 0);
    expect(calls).toEqual([]);
    await second.close();
  });

  it('is gone on with by another server when its own stops, in the middle of a card', async () => {
    const { house } = station;
    const second = await house.another();
    await bothHoldTheKey(second);
    const run = await station.start({ kind: 'take back' });
    const transmit = house.rig.pad.transmit.bind(house.rig.pad);
    let stopping: Promise<void> | undefined;
    house.rig.pad.transmit = (apdu) => {
      stopping ??= house.server.close();
      return transmit(apdu);
    };
    house.rig.pad.lay([BLANKS[2]!]);
    await expect.poll(() => stopping !== undefined).toBe(true);
    const there = new Person(second.port);
    there.cookie = house.administrator.cookie;
    await eventually(
      () => there.ask(runApi.one, { site, id: run.id }),
      ({ done }) => done === 1,
      () => second.housekeep(),
    );
    house.rig.pad.transmit = transmit;
    await there.ask(runApi.end, { site, id: run.id });
    await stopping;
  });

  it('what is kept of how many cards have which keys is what counting them gives', async () => {
    const pool = createPool(station.house.databaseUrl);
    const rows = async (sql: string) => (await pool.query<RowDataPacket[]>(sql))[0].map(({ n }) => n as string);
    const kept = await rows(
      "SELECT CONCAT(plan_id, version, ' ', `keys`, ' ', cards) AS n FROM plan_levels WHERE cards <> 0",
    );
    const counted = await rows(
      "SELECT CONCAT(plan_id, version, ' ', `keys`, ' ', COUNT(*)) AS n FROM encoded_cards WHERE state = 'whole' GROUP BY plan_id, version, `keys`",
    );
    const versions = await rows("SELECT CONCAT(plan_id, version, ' ', cards) AS n FROM plan_versions WHERE cards <> 0");
    const ofVersions = await rows(
      "SELECT CONCAT(plan_id, version, ' ', COUNT(*)) AS n FROM encoded_cards WHERE state = 'whole' GROUP BY plan_id, version",
    );
    await pool.end();
    expect(counted.length).toBeGreaterThan(2);
    expect([kept.sort(), versions.sort()]).toEqual([counted.sort(), ofVersions.sort()]);
  });
});
