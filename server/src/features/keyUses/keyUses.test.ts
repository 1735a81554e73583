/** What a key may be used for: narrowed by one custodian, widened by two; and what goes on while somebody changes it. */
import { keyApi, keyUseApi, planApi, readerPlanApi, runApi } from '@rawbits/api';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Person } from '../../testing/harness.ts';
import { agreeToUses, openStation, type Station, staffCard } from '../../testing/station.ts';

const PLACE = { in: 'file', application: '5A0001', file: 1, field: 'string' } as const;

describe('the use of a key', () => {
  let station: Station;
  let site: string;
  let second: Person;
  let reader: string;
  beforeAll(async () => {
    station = await openStation();
    ({ site } = station);
    second = await station.house.person('ivar', 'key custodian');
    reader = (await admin().do('GET', `/sites/${site}/readers`)).find(({ kind }: any) => kind === 'door').id;
  });
  afterAll(() => station.close());
  const admin = () => station.house.administrator;
  const key = (name: string) => station.keys.get(name)!;
  const start = async (): Promise<string> => {
    const body = { kind: 'verify', planId: station.planId, pads: [await station.pad()] };
    const { status, body: answer } = await admin().call('POST', `/sites/${site}/runs`, body);
    if (status !== 200) return answer.error.code;
    await admin().ask(runApi.end, { site, id: answer.id });
    await station.until(answer.id, ({ pads }) => pads.length === 0);
    return 'started';
  };
  const set = async (): Promise<string> => {
    const body = { planId: station.planId, at: PLACE, bits: 26 };
    const answer = await admin().call('PUT', `/sites/${site}/readers/${reader}/plan`, body);
    return answer.status === 200 ? 'set' : answer.body.error.code;
  };
  const use = async (name: string) =>
    (await admin().ask(keyUseApi.list, { site })).find(({ keyId }) => keyId === key(name))!;
  const waiting = async () => (await second.ask(keyUseApi.requests, { site })).map(({ what }) => what);

  it('a correction that exposes no key otherwise needs no agreement; one that does is asked for as it is saved', async () => {
    expect(await start()).toBe('started');
    const fields = staffCard().kind === 'files' ? staffCard() : undefined;
    const renamed = { ...fields!, name: 'Staff card, corrected', assertions: [] };
    await admin().ask(planApi.addVersion, { site, id: station.planId }, { plan: renamed as never, basedOn: 1 });
    expect([await start(), await waiting()]).toEqual(['started', []]);
    const wider = { ...renamed, noFormat: true };
    await admin().ask(
      planApi.addVersion,
      { site, id: station.planId },
      { plan: wider as never, basedOn: 2, evenSo: true },
    );
    expect(await start()).toBe('key-use-waits');
    // Asked for once, however often it is tried.
    expect(await start()).toBe('key-use-waits');
    expect(await waiting()).toEqual([
      'Use keys by plan Staff card, corrected, version 3: key Staff cards / Card master, key Staff cards / Door number, key Staff cards / Harbour',
    ]);
    const [asked] = await second.ask(keyUseApi.requests, { site });
    expect(asked).toMatchObject({ kind: 'plan', hosts: ['Rig'], askedBy: 'Admin', notYou: null });
    expect(asked!.exposure[0]).toEqual({
      key: 'key Staff cards / Card master',
      places: [
        'the card master key, a different key on each card',
        'key 0 of 5A0001, a different key on each card',
        'wrapped under "Harbour" in file 2 of 5A0001, a different key on each card',
      ],
    });
    expect(asked!.reach.find(({ key: name }) => name === 'Door number')!.can).toContain('read file 1 of 5A0001');
    expect(await agreeToUses(second, site)).toBe(1);
    expect(await start()).toBe('started');
  });

  it('a run goes on while a new version of its plan waits', async () => {
    const run = await station.start({ kind: 'verify' });
    const plan = { ...staffCard({ noFormat: true, randomUid: false }), carried: 'in public' as const };
    await admin().ask(
      planApi.addVersion,
      { site, id: station.planId },
      { plan: plan as never, basedOn: 3, evenSo: true },
    );
    await station.lay('blank-7');
    const { pads } = await station.until(run.id, ({ pads: told }) => told.some(({ weight }) => weight === 'problem'));
    expect(pads[0]!.says).toBe('This card does not carry this plan.');
    await station.lay();
    await admin().ask(runApi.end, { site, id: run.id });
    await station.until(run.id, ({ pads: told }) => told.length === 0);
    expect(await start()).toBe('key-use-waits');
    await agreeToUses(second, site);
  });

  it('one custodian takes a use away, and it ends at once', async () => {
    expect(await set()).toBe('key-use-waits');
    await agreeToUses(second, site);
    expect(await set()).toBe('set');
    const id = key('Door number');
    await second.ask(keyUseApi.narrow, { site, id }, { readers: [reader] });
    expect(await set()).toBe('key-use-waits');
    await agreeToUses(second, site);
    await second.ask(keyUseApi.narrow, { site, id }, { toReaders: false });
    expect([await set(), (await use('Door number')).toReaders]).toEqual(['key-not-to-readers', false]);
    const { hostId } = (await use('Card master')).hosts[0]!;
    await second.ask(keyUseApi.narrow, { site, id: key('Card master') }, { hosts: [hostId] });
    expect(await start()).toBe('key-use-waits');
    await agreeToUses(second, site);
    expect(await start()).toBe('started');
    const gone = await second.call('POST', `/sites/${site}/keys/${id}/use/narrow`, { hosts: ['nobody'] });
    expect([gone.status, gone.body.error.message]).toEqual([404, 'There is no such use of this key here.']);
  });

  it('two widen it, and never the same; a key that rules cards goes to no reader all the same', async () => {
    const widen = (name: string) => ({ kind: 'widen', keyId: key(name), toReaders: true }) as const;
    const { id, digest } = await second.ask(keyUseApi.ask, { site }, widen('Door number'));
    const own = await second.call('POST', `/sites/${site}/key-use-requests/${id}/agree`, { digest });
    expect([own.status, own.body.error.message]).toEqual([403, 'You asked for it yourself.']);
    await station.custodian.ask(keyUseApi.agree, { site, id }, { digest });
    expect((await use('Door number')).toReaders).toBe(true);
    const again = await second.call('POST', `/sites/${site}/key-use-requests`, widen('Door number'));
    expect(again.body.error.code).toBe('not-wider');
    await second.ask(keyUseApi.ask, { site }, widen('Card master'));
    await agreeToUses(station.custodian, site);
    const plan = staffCard({
      name: 'Read by its master',
      applications: [
        {
          ...staffCardApplication(),
          files: [{ ...staffCardApplication().files[0], rights: { read: 0, write: 0, both: 0, change: 0 } }],
        },
      ],
    });
    const { id: planId } = await admin().ask(planApi.add, { site }, { plan, evenSo: true });
    await agreeToUses(second, site);
    const answer = await admin().call('PUT', `/sites/${site}/readers/${reader}/plan`, { planId, at: PLACE, bits: 26 });
    expect([answer.status, answer.body.error.code]).toEqual([409, 'key-card-master']);
  });
  const staffCardApplication = () => {
    const plan = staffCard();
    return (plan.kind === 'files' ? plan.applications[0]! : undefined) as any;
  };

  it('who wrote a plan does not agree to it, though another starts the run', async () => {
    const { operator } = await second.do('GET', '/session');
    const roles = { [site]: ['technician', 'key custodian'] };
    await admin().do('PATCH', `/sites/${site}/operators/${operator.id}`, { roles });
    for (const { id } of await station.custodian.do('GET', `/sites/${site}/approvals`))
      await station.custodian.do('POST', `/sites/${site}/approvals/${id}/agree`);
    const { current } = await admin().ask(planApi.one, { site, id: station.planId });
    const plan = staffCard({ noFormat: true, capacity: 8192 });
    await second.ask(planApi.addVersion, { site, id: station.planId }, { plan, basedOn: current, evenSo: true });
    const [own] = await second.ask(keyUseApi.requests, { site });
    await second.ask(keyUseApi.refuse, { site, id: own!.id });
    expect(await start()).toBe('key-use-waits');
    const [asked] = await second.ask(keyUseApi.requests, { site });
    expect(asked).toMatchObject({ askedBy: 'Admin', notYou: 'You wrote this plan.' });
    const { id, digest } = asked!;
    const answer = await second.call('POST', `/sites/${site}/key-use-requests/${id}/agree`, { digest });
    expect([answer.status, answer.body.error.message]).toEqual([403, 'You wrote this plan.']);
    await agreeToUses(station.custodian, site);
    expect(await start()).toBe('started');
  });

  it('a new version of a key is used by what was agreed', async () => {
    await station.custodian.ask(
      keyApi.addVersion,
      { site, id: key('Harbour') },
      { version: 2, comes: { how: 'made' } },
    );
    await station.custodian.ask(keyApi.use, { site, id: key('Harbour'), version: '2' });
    expect(await start()).toBe('started');
  });

  it('while keys roll over and plans are saved again and again, nobody is told that they were changed in the database', async () => {
    const id = key('Harbour');
    let over = false;
    const rolls = async () => {
      for (let i = 0; i < 80; i++) await station.custodian.ask(keyApi.use, { site, id, version: String(1 + (i % 2)) });
      over = true;
    };
    const seen = new Set<string>();
    const looks = async () => {
      while (!over) for (const { problem } of await admin().ask(keyUseApi.list, { site })) seen.add(problem ?? 'none');
    };
    const starts = async () => {
      while (!over) seen.add(await start());
    };
    const saves = async () => {
      const { versions } = await admin().ask(planApi.one, { site, id: station.planId });
      const { plan } = versions[0]!;
      for (let { version } = versions[0]!; !over; version++) {
        const body = { plan: { ...plan, name: `Staff card ${version}` }, basedOn: version, evenSo: true };
        await admin().ask(planApi.addVersion, { site, id: station.planId }, body);
      }
    };
    await Promise.all([rolls(), saves(), looks(), looks(), looks(), starts()]);
    expect([...seen].sort()).toEqual(['none', 'started']);
  });

  it('the reader has the key of the plan that was agreed to, and who has what is noted', async () => {
    expect(await set()).toBe('set');
    const plans = await admin().ask(readerPlanApi.list, { site });
    expect(plans[0]!.keys).toMatchObject([{ name: 'Door number', isCurrent: true }]);
  });
});
