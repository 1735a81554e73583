/**
 * What somebody would try to get a key out of the store: each attempt is made by a group of people, with whatever its members may
 * do, and gives whether the key went out. All that comes over HTTP and all that a device host hears meanwhile is kept, and
 * looked through for the key itself.
 */
import {
  type Body,
  type ChipPlan,
  chipPlanSchema,
  doorApi,
  exchangeApi,
  hostApi,
  keyApi,
  keyBackupApi,
  keyRequestApi,
  keyUseApi,
  planApi,
  readerPlanApi,
  runApi,
} from '@rawbits/api';
import { planOf, spyingHost } from '../../../withstand/src/spyingHost.ts';
import { eventually, type Person } from './harness.ts';
import { HALVES, openKeyPeople } from './keyPeople.ts';
import { watchKeys } from './keyWatch.ts';
import { STAFF_CARD, staffCard } from './station.ts';

/** A key that is looked for in what comes out; none where an attempt is not about one key. */
interface Sought {
  id: string;
  name: string;
  hex: string;
}

const ownPlan = (key: string, each: 'card' | 'all'): ChipPlan =>
  chipPlanSchema.parse(planOf({ set: 'Staff cards', key }, each));

export type KeyAttempts = Awaited<ReturnType<typeof openKeyAttempts>>;

/** `blanks` is how many blank cards the attempts may use up. */
export async function openKeyAttempts(blanks: number) {
  const { station, people, setId, kept, backup } = await openKeyPeople(blanks);
  const { house, custodian, site } = station;
  const { administrator } = house;
  const watch = watchKeys();
  let fresh = 0;
  let used = 0;
  let sought: Sought | undefined;

  /** What the first of a group gets who may; undefined where nobody may. */
  async function anyOf<T>(group: readonly string[], work: (person: Person) => Promise<T>): Promise<T | undefined> {
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
  async function agreeToAll(group: readonly string[]): Promise<void> {
    for (const name of group) {
      const uses = await anyOf([name], (one) => one.ask(keyUseApi.requests, { site }));
      for (const { id, digest } of uses ?? [])
        await anyOf([name], (one) => one.ask(keyUseApi.agree, { site, id }, { digest }));
      const requests = await anyOf([name], (one) => one.ask(keyRequestApi.list, { site }));
      for (const { id } of requests ?? [])
        await anyOf([name], (one) =>
          one.ask(keyRequestApi.agree, { site, id }, { part: 'the other half of a phrase' }),
        );
    }
  }

  /** A key whose creation alone has been agreed to. */
  async function newKey(allows: { asItIs?: boolean; toReaders?: boolean }): Promise<Sought> {
    const name = `Key ${++fresh}`;
    const hex = Buffer.from(crypto.getRandomValues(new Uint8Array(16))).toString('hex');
    const key = { setId, name, kind: 'aes128', purpose: 'read', allows, comes: { how: 'typed', hex } } as const;
    sought = { id: (await custodian.ask(keyApi.add, { site }, key)).id, name, hex };
    return sought;
  }
  const addPlan = (group: readonly string[], key: Sought, each: 'card' | 'all') =>
    anyOf(group, (one) => one.ask(planApi.add, { site }, { plan: ownPlan(key.name, each), evenSo: true }));

  /** Everything that leads to a reader of their own, at a host of their own. */
  async function toOwnReader(group: readonly string[]): Promise<boolean> {
    const key = await newKey({ toReaders: true });
    const newHost = (): Body<typeof hostApi.add> => ({
      name: `Own ${++fresh}`,
      kind: 'desk',
      allows: ['readers', 'pads'],
    });
    // Whoever cannot add a host uses the token of one that was added for something else.
    const { token, host } =
      (await anyOf(group, (one) => one.ask(hostApi.add, { site }, newHost()))) ??
      (await administrator.ask(hostApi.add, { site }, newHost()));
    const own = spyingHost(`http://127.0.0.1:${house.server.port}`, 'desk', token);
    try {
      await eventually(
        () => administrator.ask(hostApi.list, { site }),
        (hosts) => hosts.some(({ id, connected }) => id === host.id && connected),
      );
      const plan = await addPlan(group, key, 'card');
      const { device } = own;
      const reader = await anyOf(group, (one) =>
        one.ask(doorApi.addReader, { site }, { name: device, kind: 'door', device, controllerId: null }),
      );
      if (!plan || !reader) return false;
      const at = { in: 'file', application: '5A00F1', file: 1, field: 'number' } as const;
      for (let tries = 0; tries < 3; tries++) {
        await agreeToAll(group);
        await anyOf(group, (one) => one.ask(readerPlanApi.set, { site, id: reader.id }, { planId: plan.id, at }));
      }
      const got = own.heard.some((line) => line.includes('"setReader"') && line.includes('"hex"'));
      if (got !== watch.wentOut('reader', key.id)) throw new Error('The channel and the host disagree.');
      return got;
    } finally {
      watch.hear(own.heard);
      await own.dial.close();
    }
  }

  /** Puts a key on a blank, as it is or made for the card. */
  const onBlank = (each: 'card' | 'all') => async (group: readonly string[]) => {
    const key = await newKey({ asItIs: each === 'all' });
    const plan = await addPlan(group, key, each);
    if (!plan) return false;
    const numbers = { from: 'next numbers', formatId: '26-8-16', facility: '41', count: 1 } as const;
    const pads = [await station.pad()];
    let run: { id: string } | undefined;
    for (let tries = 0; tries < 3 && !run; tries++) {
      await agreeToAll(group);
      run = await anyOf(group, (one) =>
        one.ask(runApi.start, { site }, { kind: 'encode', planId: plan.id, pads, cards: numbers }),
      );
    }
    if (!run) return false;
    await station.lay(`own-${used++}`);
    await station.until(
      run.id,
      (now) => now.pads.some(({ weight }) => weight === 'problem' || weight === 'done') || now.pads.length === 0,
    );
    await station.lay();
    const at = { site, id: run.id };
    for (const { seq, state } of (await administrator.ask(runApi.cards, at)).cards)
      if (state === 'begun') await administrator.ask(runApi.giveUp, { ...at, seq: String(seq) });
    await administrator.ask(runApi.end, at);
    await station.until(run.id, (now) => now.pads.length === 0);
    return watch.wentOut('card on a pad', key.id);
  };

  /** Plays what was said to a card again, under a plan of their own that has a new key in the place of the door's. */
  async function played(group: readonly string[]): Promise<boolean> {
    const key = await newKey({});
    const [master, door, ...others] = STAFF_CARD.keys;
    const own = { ...door, from: { set: 'Staff cards', key: key.name } };
    const plan = await anyOf(group, (one) =>
      one.ask(
        planApi.add,
        { site },
        { plan: staffCard({ name: `Own ${++fresh}`, keys: [master, own, ...others] }), evenSo: true },
      ),
    );
    if (!plan) return false;
    const runs = kept.runs.map((run) => ({ ...run, plan: { ...run.plan, id: plan.id, version: 1 } }));
    for (let tries = 0; tries < 3; tries++) {
      await agreeToAll(group);
      await anyOf(group, (one) => one.ask(exchangeApi.play, { site }, { ...kept, runs }));
    }
    return watch.wentOut('simulated card', key.id);
  }
  /** Plays it under the plan that it was made by, which says in words alone whether the card would say the same. */
  async function playedAsItWas(group: readonly string[]): Promise<boolean> {
    sought = undefined;
    const answer = await anyOf(group, (one) => one.ask(exchangeApi.play, { site }, kept));
    if (answer && (answer.differs !== null || answer.gap !== null)) throw new Error('It was played otherwise.');
    return answer !== undefined && watch.wentOut('simulated card');
  }

  /** Widens a key that may not be used so. */
  async function widened(group: readonly string[]): Promise<boolean> {
    const key = await newKey({});
    await anyOf(group, (one) =>
      one.ask(keyUseApi.ask, { site }, { kind: 'widen', keyId: key.id, asItIs: true, toReaders: true }),
    );
    await anyOf(group, (one) => one.ask(keyUseApi.ask, { site }, { kind: 'accept', what: 'key', id: key.id }));
    await agreeToAll(group);
    const uses = await custodian.ask(keyUseApi.list, { site });
    return uses.some(({ keyId, toReaders, asItIs }) => keyId === key.id && (toReaders || asItIs));
  }

  /** Asks for what takes another custodian, has it agreed to, and takes what there is to take. */
  const byRequest =
    (body: (key: string) => object, take: 'see' | 'sealed' | null) => async (group: readonly string[]) => {
      const key = await newKey({});
      const request = await anyOf(group, (one) =>
        one.do('POST', `/sites/${site}/key-requests`, { ...body(key.id), reason: 'to see whether it goes' }),
      );
      if (!request) return false;
      await agreeToAll(group);
      if (take === null) return watch.wentOut('backup', key.id);
      const taken = await anyOf(group, (one) => one.do('POST', `/sites/${site}/key-requests/${request.id}/${take}`));
      return taken !== undefined;
    };

  /** Compares the store with a backup whose two halves they have been told. */
  async function compared(group: readonly string[]): Promise<boolean> {
    sought = undefined;
    const report = await anyOf(group, (one) => one.ask(keyBackupApi.rehearse, { site }, { jwe: backup, ...HALVES }));
    return report !== undefined && watch.wentOut('comparison with a backup');
  }

  /** Prints the component that the first custodian gave. */
  async function printed(group: readonly string[]): Promise<boolean> {
    sought = undefined;
    const name = `Key ${++fresh}`;
    const comes = { how: 'components', parts: 2 } as const;
    const { id } = await custodian.ask(keyApi.add, { site }, { setId, name, kind: 'aes128', purpose: 'read', comes });
    const at = { site, id, version: '1' };
    const { sheet } = await custodian.ask(keyApi.give, at, { how: 'made' });
    await clear();
    await anyOf(group, (one) => one.ask(keyApi.sheet, at));
    return watch.hasHeard(sheet!.hex);
  }
  /** Puts a key of two components together; it goes into an envelope at once. */
  async function combined(group: readonly string[]): Promise<boolean> {
    sought = undefined;
    const name = `Key ${++fresh}`;
    const comes = { how: 'components', parts: 2 } as const;
    const { id } = await custodian.ask(keyApi.add, { site }, { setId, name, kind: 'aes128', purpose: 'read', comes });
    for (const name of group)
      await anyOf([name], (one) => one.ask(keyApi.give, { site, id, version: '1' }, { how: 'made' }));
    return watch.wentOut('components, put together');
  }

  /** What a group left waiting is nobody's any more. */
  async function clear(): Promise<void> {
    for (const { id } of await custodian.ask(keyUseApi.requests, { site }))
      await custodian.ask(keyUseApi.refuse, { site, id });
    for (const { id } of await custodian.ask(keyRequestApi.list, { site }))
      await custodian.ask(keyRequestApi.refuse, { site, id });
    watch.clear();
  }

  return {
    /** Of everything that was tried, the ways in which a key went out. */
    ways: watch.ways,
    clear,
    /** Whether somebody heard the very key of the attempt since `clear`. */
    isHeard: () => sought !== undefined && watch.hasHeardKey(sought.hex),
    attempts: {
      toOwnReader,
      onBlankMade: onBlank('card'),
      onBlankAsItIs: onBlank('all'),
      played,
      playedAsItWas,
      widened,
      revealed: byRequest((keyId) => ({ kind: 'uncover', keyId, version: 1 }), 'see'),
      sealed: byRequest(
        (keyId) => ({
          kind: 'seal',
          partner: 'Own',
          recipient: { passphrase: 'a phrase of our own' },
          keys: [{ keyId, version: 1 }],
          content: '{}',
        }),
        'sealed',
      ),
      backedUp: byRequest(() => ({ kind: 'backup', part: 'one half of a phrase' }), null),
      compared,
      printed,
      combined,
    },
    close: async () => {
      watch.end();
      await station.close();
    },
  };
}
