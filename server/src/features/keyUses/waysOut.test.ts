/**
 * Every way in which a key, or something made from it, leaves the store, tried by everybody alone and by every two together,
 * with a device host of their own that writes down all that it is sent. Who is not to have a key, does not get one.
 */
import {
  type ChipPlan,
  chipPlanSchema,
  doorApi,
  hostApi,
  keyApi,
  keyRequestApi,
  keyUseApi,
  planApi,
  readerPlanApi,
  rigApi,
  runApi,
} from '@rawbits/api';
import { Dial } from '@rawbits/api/dial';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { WebSocket } from 'ws';
import { eventually, type Person } from '../../testing/harness.ts';
import { openStation, type Station, uidOf } from '../../testing/station.ts';
import { keysOut, WAYS_OUT, type WayOut } from '../keys/door.ts';

const ALONE = [
  'viewer',
  'technician',
  'another technician',
  'administrator',
  'custodian',
  'another custodian',
] as const;
type Name = (typeof ALONE)[number] | 'technician who holds keys';
const PEOPLE: readonly Name[] = [...ALONE, 'technician who holds keys'];
/** Each alone, and every two. */
const GROUPS: Name[][] = PEOPLE.flatMap((one, i) => [[one], ...PEOPLE.slice(i + 1).map((other) => [one, other])]);

const isCustodian = (name: Name) => name.includes('custodian') || name.includes('holds keys');
/** Who may write plans, start runs and set readers up. */
const encodes = (name: Name) => name.includes('technician') || name === 'administrator';
/** Whether two of them are a custodian and somebody else who asks. */
const maySpend = (group: readonly Name[]) =>
  group.some((agrees) => isCustodian(agrees) && group.some((asks) => asks !== agrees && encodes(asks)));
const twoCustodians = (group: readonly Name[]) => group.filter(isCustodian).length === 2;

describe('ways out of the key store', () => {
  let station: Station;
  let site: string;
  const people = new Map<Name, Person>();
  let fresh = 0;
  let blanks = 0;
  /** What went out of the store since it was last looked at. */
  let out: { way: WayOut; key?: string }[] = [];
  const note = (message: unknown) => void out.push(message as (typeof out)[number]);

  beforeAll(async () => {
    station = await openStation();
    ({ site } = station);
    const { house } = station;
    people.set('administrator', house.administrator);
    people.set('custodian', station.custodian);
    people.set('viewer', await house.person('vera', 'viewer'));
    people.set('technician', await house.person('tora', 'technician'));
    people.set('another technician', await house.person('tom', 'technician'));
    people.set('another custodian', await house.person('ivar', 'key custodian'));
    const both = await house.person('bo', 'key custodian');
    const { operator } = await both.do('GET', '/session');
    await house.administrator.do('PATCH', `/sites/${site}/operators/${operator.id}`, {
      roles: { [site]: ['technician', 'key custodian'] },
    });
    const [asked] = await house.administrator.do('GET', `/sites/${site}/approvals`);
    if (asked) await people.get('another custodian')!.do('POST', `/sites/${site}/approvals/${asked.id}/agree`);
    people.set('technician who holds keys', both);
    keysOut.subscribe(note);
    await house.administrator.ask(
      rigApi.setUp,
      { site },
      {
        cards: Array.from({ length: 2 * GROUPS.length }, (_, i) => ({
          id: `own-${i}`,
          shape: 'card' as const,
          printed: '',
          look: 'blank',
          chip: { kind: 'files' as const, uid: uidOf(i) },
        })),
        readers: [{ id: 'pad', controller: null }],
        controllers: [{ id: 'shed' }],
      },
    );
  });
  afterAll(async () => {
    keysOut.unsubscribe(note);
    await station?.close();
  });

  /** What the first of a group is let do who is let; undefined where nobody is. */
  async function anyOf<T>(group: readonly Name[], work: (person: Person) => Promise<T>): Promise<T | undefined> {
    for (const name of group) {
      try {
        return await work(people.get(name)!);
      } catch (error) {
        if (!/ (400|401|403|404|409|422|423|503) /.test(String(error))) throw error;
      }
    }
    return undefined;
  }

  /** Everybody of a group agrees to whatever waits for uses, or for a second custodian. */
  async function agreeToAll(group: readonly Name[]): Promise<void> {
    for (const name of group) {
      const person = people.get(name)!;
      const uses = await anyOf([name], (one) => one.ask(keyUseApi.requests, { site }));
      for (const { id, digest } of uses ?? [])
        await anyOf([name], () => person.ask(keyUseApi.agree, { site, id }, { digest }));
      const requests = await anyOf([name], (one) => one.ask(keyRequestApi.list, { site }));
      for (const { id } of requests ?? [])
        await anyOf([name], () =>
          person.ask(keyRequestApi.agree, { site, id }, { part: 'the other half of a phrase' }),
        );
    }
  }
  /** What a group left waiting is nobody's any more. */
  async function clear(): Promise<void> {
    const { custodian } = station;
    for (const { id } of await custodian.ask(keyUseApi.requests, { site }))
      await custodian.ask(keyUseApi.refuse, { site, id });
    for (const { id } of await custodian.ask(keyRequestApi.list, { site }))
      await custodian.ask(keyRequestApi.refuse, { site, id });
    out = [];
  }

  /** A key that only its making has been agreed to. */
  const newKey = async (allows: { asItIs?: boolean; toReaders?: boolean }) => {
    const setId = (await station.custodian.ask(keyApi.list, { site }))[0]!.id;
    const name = `Key ${++fresh}`;
    const key = { setId, name, kind: 'aes128', purpose: 'read', allows, comes: { how: 'made' } } as const;
    return { id: (await station.custodian.ask(keyApi.add, { site }, key)).id, name };
  };
  const planOf = (key: string, each: 'card' | 'all'): ChipPlan =>
    chipPlanSchema.parse({
      schema: 'rawbits/plan@1',
      kind: 'files',
      name: `Plan ${++fresh}`,
      keys: [{ name: key, each }],
      applications: [
        {
          id: '5A0009',
          keys: [key],
          files: [
            {
              kind: 'standard',
              number: 1,
              size: 32,
              rights: { read: 0, write: 0, both: 0, change: 0 },
              fields: [{ name: 'number', length: 4, content: { is: 'number', of: 'number' } }],
            },
          ],
        },
      ],
    });

  /** A host of one's own: it offers a reader and a pad on which a blank lies, and keeps everything that it is sent. */
  function ownHost(token: string) {
    const heard: string[] = [];
    let site: string | null = null;
    const device = `spy-${++fresh}`;
    const dial = new Dial({
      open: (address, protocol, options) => new WebSocket(address, protocol, options),
      servers: () => [`http://127.0.0.1:${station.house.server.port}`],
      token,
      kind: 'desk',
      version: '',
      serve: (served) => (site = served),
      answer: async (method, params) => {
        heard.push(JSON.stringify({ method, params }));
        if (method === 'devices')
          return {
            site,
            cards: [],
            readers: [{ id: device, controller: null }],
            controllers: [],
            pads: [{ id: 'pad', name: 'Own pad' }],
          };
        return {};
      },
    });
    return { dial, device, heard };
  }

  /** Everything that somebody would try to have the keys sent to a reader of their own. */
  async function toOwnReader(group: readonly Name[]): Promise<boolean> {
    const key = await newKey({ toReaders: true });
    const added = await anyOf(group, (one) =>
      one.ask(hostApi.add, { site }, { name: `Own ${++fresh}`, kind: 'desk', allows: ['readers', 'pads'] }),
    );
    // Whoever cannot add a host uses the token of one that was added for something else.
    const { token, host } =
      added ??
      (await station.house.administrator.ask(
        hostApi.add,
        { site },
        { name: `Desk ${++fresh}`, kind: 'desk', allows: ['readers', 'pads'] },
      ));
    const own = ownHost(token);
    try {
      await eventually(
        () => station.house.administrator.ask(hostApi.list, { site }),
        (hosts) => hosts.some(({ id, connected }) => id === host.id && connected),
      );
      const plan = await anyOf(group, (one) =>
        one.ask(planApi.add, { site }, { plan: planOf(key.name, 'card'), evenSo: true }),
      );
      const reader = await anyOf(group, (one) =>
        one.ask(
          doorApi.addReader,
          { site },
          { name: own.device, kind: 'door', device: own.device, controllerId: null },
        ),
      );
      if (!plan || !reader) return false;
      const at = { in: 'file', application: '5A0009', file: 1, field: 'number' } as const;
      const set = () =>
        anyOf(group, (one) => one.ask(readerPlanApi.set, { site, id: reader.id }, { planId: plan.id, at }));
      for (let tries = 0; tries < 3; tries++) {
        await agreeToAll(group);
        await set();
      }
      const gotKeys = own.heard.some((line) => line.includes('"setReader"') && line.includes('"hex"'));
      expect(out.some(({ way, key: id }) => way === 'reader' && id === key.id)).toBe(gotKeys);
      return gotKeys;
    } finally {
      await own.dial.close();
    }
  }

  /** Has a key put on a blank, as it is or made for the card, and says whether the store let it out for that. */
  const onBlank = (each: 'card' | 'all') => async (group: readonly Name[]) => {
    const key = await newKey({ asItIs: each === 'all' });
    const plan = await anyOf(group, (one) =>
      one.ask(planApi.add, { site }, { plan: planOf(key.name, each), evenSo: true }),
    );
    if (!plan) return false;
    const cards = { from: 'next numbers', formatId: '26-8-16', facility: '41', count: 1 } as const;
    const pads = [await station.pad()];
    let run: { id: string } | undefined;
    for (let tries = 0; tries < 3 && !run; tries++) {
      await agreeToAll(group);
      run = await anyOf(group, (one) =>
        one.ask(runApi.start, { site }, { kind: 'encode', planId: plan.id, pads, cards }),
      );
    }
    if (!run) return false;
    await station.lay(`own-${blanks++}`);
    await station.until(
      run.id,
      ({ pads: told }) => told.some(({ weight }) => weight === 'problem' || weight === 'done') || told.length === 0,
    );
    await station.lay();
    for (const { seq, state } of (await station.house.administrator.ask(runApi.cards, { site, id: run.id })).cards)
      if (state === 'begun')
        await station.house.administrator.ask(runApi.giveUp, { site, id: run.id, seq: String(seq) });
    await station.house.administrator.ask(runApi.end, { site, id: run.id });
    await station.until(run.id, ({ pads: told }) => told.length === 0);
    return out.some(({ way, key: id }) => way === 'card on a pad' && id === key.id);
  };

  /** Widens a key that may not be used so, and uses it. */
  async function widened(group: readonly Name[]): Promise<boolean> {
    const key = await newKey({});
    await anyOf(group, (one) =>
      one.ask(keyUseApi.ask, { site }, { kind: 'widen', keyId: key.id, asItIs: true, toReaders: true }),
    );
    await anyOf(group, (one) => one.ask(keyUseApi.ask, { site }, { kind: 'accept', what: 'key', id: key.id }));
    await agreeToAll(group);
    const uses = await station.custodian.ask(keyUseApi.list, { site });
    return uses.some(({ keyId, toReaders, asItIs }) => keyId === key.id && (toReaders || asItIs));
  }

  const byRequest =
    (body: (key: string) => object, take: 'see' | 'sealed' | null) => async (group: readonly Name[]) => {
      const key = await newKey({});
      const request = await anyOf(group, (one) =>
        one.do('POST', `/sites/${site}/key-requests`, { ...body(key.id), reason: 'to see whether it goes' }),
      );
      if (!request) return false;
      await agreeToAll(group);
      if (take === null) return out.some(({ way, key: id }) => way === 'backup' && id === key.id);
      const taken = await anyOf(group, (one) => one.do('POST', `/sites/${site}/key-requests/${request.id}/${take}`));
      return taken !== undefined;
    };

  it('names each, and one that is not named does not compile', () => {
    expect(Object.keys(WAYS_OUT).length).toBe(10);
  });

  it.each([
    ['to a reader of their own host', toOwnReader, maySpend],
    ['onto a blank, made for the card', onBlank('card'), maySpend],
    ['onto a blank, as it is', onBlank('all'), maySpend],
    ['to a wider use', widened, twoCustodians],
    ['shown', byRequest((keyId) => ({ kind: 'uncover', keyId, version: 1 }), 'see'), twoCustodians],
    [
      'sealed for a partner',
      byRequest(
        (keyId) => ({
          kind: 'seal',
          partner: 'Own',
          recipient: { passphrase: 'a phrase of our own' },
          keys: [{ keyId, version: 1 }],
          content: '{}',
        }),
        'sealed',
      ),
      twoCustodians,
    ],
    ['in a backup', byRequest(() => ({ kind: 'backup', part: 'one half of a phrase' }), null), twoCustodians],
  ] as const)(
    '%s: by nobody who is not to',
    async (_, attempt, expected) => {
      const had: string[] = [];
      for (const group of GROUPS) {
        await clear();
        if (await attempt(group)) had.push(group.join(' and '));
      }
      expect(had).toEqual(GROUPS.filter((group) => expected(group)).map((group) => group.join(' and ')));
      // Some do, so that the attempt is one.
      expect(had.length).toBeGreaterThan(0);
    },
    300_000,
  );
});
