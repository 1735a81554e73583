/** Yesterday's copy of each table that decides where keys go, put back one by one: it is found at the next use, and refused. */
import {
  hostApi,
  keyApi,
  keyRequestApi,
  keyUseApi,
  planApi,
  readerPlanApi,
  runApi,
  WIRE_PATH,
  WIRE_PROTOCOL,
} from '@rawbits/api';
import { createPool, type Pool } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { WebSocket } from 'ws';
import type { Person } from '../../testing/harness.ts';
import { agreeToUses, openStation, type Station, staffCard } from '../../testing/station.ts';

const PLACE = { in: 'file', application: '5A0001', file: 1, field: 'string' } as const;
const TABLES = [
  'keys',
  'key_versions',
  'key_uses',
  'key_use_requests',
  'key_requests',
  'row_marks',
  'plans',
  'plan_versions',
  'device_hosts',
] as const;

describe('a table that was put back', () => {
  let station: Station;
  let site: string;
  let pool: Pool;
  let second: Person;
  let reader: string;
  let token: string;
  const admin = () => station.house.administrator;
  const key = () => station.keys.get('Door number')!;

  /** What comes of each use: the code of its refusal, or `done`. */
  const coded = async (answer: Promise<{ status: number; body: any }>): Promise<string> => {
    const { status, body } = await answer;
    return status === 200 ? 'done' : body.error.code;
  };
  const runs = async (): Promise<string> => {
    const body = { kind: 'verify', planId: station.planId, pads: [await station.pad()] };
    const answer = await admin().call('POST', `/sites/${site}/runs`, body);
    if (answer.status === 200) {
      await admin().ask(runApi.end, { site, id: answer.body.id });
      await station.until(answer.body.id, ({ pads }) => pads.length === 0);
    }
    return answer.status === 200 ? 'done' : answer.body.error.code;
  };
  const sets = () =>
    coded(
      admin().call('PUT', `/sites/${site}/readers/${reader}/plan`, { planId: station.planId, at: PLACE, bits: 26 }),
    );
  const rollsOver = () => coded(station.custodian.call('POST', `/sites/${site}/keys/${key()}/versions/2/use`));
  const dialsIn = (): Promise<string> =>
    new Promise((resolve) => {
      const url = `ws://127.0.0.1:${station.house.server.port}${WIRE_PATH}`;
      const socket = new WebSocket(url, WIRE_PROTOCOL, { headers: { authorization: `Bearer ${token}` } });
      socket.on('open', () => {
        socket.terminate();
        resolve('done');
      });
      socket.on('error', () => resolve('refused'));
    });
  /** A key that two custodians had agreed to show, and that was shown. */
  let shown: string;
  const seesAgain = () => coded(station.custodian.call('POST', `/sites/${site}/key-requests/${shown}/see`));
  /** A use that was asked for and refused, agreed to all the same. */
  let refused: { id: string; digest: string };
  const agreesAfterAll = () =>
    coded(second.call('POST', `/sites/${site}/key-use-requests/${refused.id}/agree`, { digest: refused.digest }));
  const everything = async () => ({
    runs: await runs(),
    sets: await sets(),
    rollsOver: await rollsOver(),
    dialsIn: await dialsIn(),
    seesAgain: await seesAgain(),
    agreesAfterAll: await agreesAfterAll(),
  });

  beforeAll(async () => {
    station = await openStation();
    ({ site } = station);
    pool = createPool(station.house.databaseUrl);
    second = await station.house.person('ivar', 'key custodian');
    reader = (await admin().do('GET', `/sites/${site}/readers`)).find(({ kind }: any) => kind === 'door').id;
    const added = await admin().ask(hostApi.add, { site }, { name: 'Desk', kind: 'desk' });
    token = added.token;
    await station.agreed(() =>
      admin().ask(readerPlanApi.set, { site, id: reader }, { planId: station.planId, at: PLACE, bits: 26 }),
    );
    const ask = { kind: 'uncover', keyId: key(), version: 1, reason: 'to see whether it is shown again' } as const;
    shown = (await station.custodian.ask(keyRequestApi.ask, { site }, ask)).id;
    await second.ask(keyRequestApi.agree, { site, id: shown }, {});
    const widen = { kind: 'widen', keyId: station.keys.get('Harbour')!, toReaders: true } as const;
    refused = await station.custodian.ask(keyUseApi.ask, { site }, widen);
    // Yesterday ends here.
    for (const table of TABLES) await pool.query(`CREATE TABLE yesterday_${table} AS SELECT * FROM \`${table}\``);
    await station.custodian.ask(keyRequestApi.see, { site, id: shown });
    await second.ask(keyUseApi.refuse, { site, id: refused.id });
    await station.custodian.ask(keyApi.addVersion, { site, id: key() }, { version: 2, comes: { how: 'made' } });
    await station.custodian.ask(keyApi.use, { site, id: key(), version: '2' });
    const plan = staffCard({ noFormat: true });
    await admin().ask(planApi.addVersion, { site, id: station.planId }, { plan, basedOn: 1, evenSo: true });
    await agreeToUses(station.custodian, site);
    await admin().ask(hostApi.revoke, { site, id: added.host.id });
    for (const table of TABLES) await pool.query(`CREATE TABLE today_${table} AS SELECT * FROM \`${table}\``);
  });
  afterAll(async () => {
    await pool?.end();
    await station?.close();
  });

  const put = async (day: 'yesterday' | 'today', table: string) => {
    await pool.query(`DELETE FROM \`${table}\``);
    await pool.query(`INSERT INTO \`${table}\` SELECT * FROM ${day}_${table}`);
  };
  const AS_IT_IS = {
    runs: 'done',
    sets: 'done',
    rollsOver: 'done',
    dialsIn: 'refused',
    seesAgain: 'not-found',
    agreesAfterAll: 'not-found',
  };

  it('as it is today each use goes, and what is over stays so', async () => {
    expect(await everything()).toEqual(AS_IT_IS);
  });

  it.each([
    ['keys', { runs: 'key-changed', sets: 'key-changed', rollsOver: 'key-changed' }],
    ['key_versions', { runs: 'key-changed', sets: 'key-changed', rollsOver: 'key-changed' }],
    ['key_uses', { runs: 'key-changed', sets: 'key-changed', rollsOver: 'key-changed' }],
    ['plans', { runs: 'plan-changed', sets: 'plan-changed' }],
    ['plan_versions', { runs: 'plan-changed', sets: 'plan-changed' }],
    ['row_marks', { runs: 'plan-changed', sets: 'plan-changed', rollsOver: 'key-changed' }],
    // Their marks say that they are over.
    ['device_hosts', {}],
    ['key_requests', {}],
    ['key_use_requests', {}],
  ] as const)('%s of yesterday', async (table, found) => {
    await put('yesterday', table);
    expect(await everything()).toEqual({ ...AS_IT_IS, ...found });
    await put('today', table);
    expect(await everything()).toEqual(AS_IT_IS);
  });

  it('what was found, two custodians accept as it is: the key has no use then, and each is agreed to anew', async () => {
    await put('yesterday', 'keys');
    const { id } = await station.custodian.ask(keyUseApi.ask, { site }, { kind: 'accept', what: 'key', id: key() });
    const waiting = async () => (await second.ask(keyUseApi.requests, { site })).find((one) => one.id === id)!;
    const { exposure, digest } = await waiting();
    expect(exposure[0]!.places.join()).toMatch(/version 1, check value .*, in use/);
    const own = await station.custodian.call('POST', `/sites/${site}/key-use-requests/${id}/agree`, { digest });
    expect([own.status, own.body.error.message]).toEqual([403, 'You asked for it yourself.']);
    const otherwise = await second.call('POST', `/sites/${site}/key-use-requests/${id}/agree`, { digest: 'x' });
    expect([otherwise.status, otherwise.body.error.code]).toEqual([409, 'shown-otherwise']);
    await second.ask(keyUseApi.agree, { site, id }, { digest });
    expect(await runs()).toBe('key-use-waits');
    await agreeToUses(second, site);
    expect(await runs()).toBe('done');
    await put('yesterday', 'plans');
    expect(await admin().ask(planApi.one, { site, id: station.planId })).toMatchObject({
      current: 1,
      problem: expect.stringContaining('not as it was saved'),
    });
    const save = { plan: staffCard(), basedOn: 1, evenSo: true };
    expect(await coded(admin().call('POST', `/sites/${site}/plans/${station.planId}/versions`, save))).toBe(
      'plan-changed',
    );
    await station.custodian.ask(keyUseApi.ask, { site }, { kind: 'accept', what: 'plan', id: station.planId });
    expect(await agreeToUses(second, site)).toBe(1);
    // The first version again, of which only the key that was accepted before has no use.
    expect(await admin().ask(planApi.one, { site, id: station.planId })).toMatchObject({
      problem: null,
      keysWaiting: ['Door number'],
    });
    expect(await runs()).toBe('key-use-waits');
    await agreeToUses(second, site);
    expect(await runs()).toBe('done');
  });

  it('keys, plans and hosts from before there were marks wait for custodians, and go on as they are then', async () => {
    await pool.query('DELETE FROM row_marks');
    await pool.query('DELETE FROM key_uses');
    expect(await runs()).toBe('key-not-accepted');
    for (const id of station.keys.values())
      await station.custodian.ask(keyUseApi.ask, { site }, { kind: 'accept', what: 'key', id });
    expect(await agreeToUses(second, site)).toBe(3);
    expect(await runs()).toBe('key-use-waits');
    const [asked] = await second.ask(keyUseApi.requests, { site });
    expect(asked!.notes).toEqual([expect.stringContaining('This plan has no mark yet')]);
    expect(await agreeToUses(second, site)).toBe(1);
    expect(await runs()).toBe('done');
    // What was accepted as no reader's key stays so until two allow it.
    expect(await sets()).toBe('key-not-to-readers');
  });
});
