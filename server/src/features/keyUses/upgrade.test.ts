/** A site from before keys had uses: what is asked for, and that cards of every version of a plan are worked on once it is agreed to. */
import { keyUseApi, planApi, runApi } from '@rawbits/api';
import { createPool } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Person } from '../../testing/harness.ts';
import { agreeToUses, BLANKS, openStation, type Station, staffCard } from '../../testing/station.ts';

describe('a site from before keys had uses', () => {
  let station: Station;
  let site: string;
  let second: Person;
  beforeAll(async () => {
    station = await openStation();
    ({ site } = station);
    second = await station.house.person('ivar', 'key custodian');
    const run = await station.start({ cards: { from: 'list', cards: station.cards.slice(0, 1) } });
    await station.lay(BLANKS[0]!);
    await station.until(run.id, ({ state, pads }) => state === 'done' && pads.length === 0);
    await station.lay();
    // As an earlier Raw Bits left it.
    const pool = createPool(station.house.databaseUrl);
    await pool.query('DELETE FROM row_marks');
    await pool.query('DELETE FROM key_uses');
    await pool.end();
  });
  afterAll(() => station?.close());
  const admin = () => station.house.administrator;

  it('its keys are accepted by two, a plan is changed as before, and cards of the older version are verified', async () => {
    const { planId } = station;
    for (const id of station.keys.values())
      await station.custodian.ask(keyUseApi.ask, { site }, { kind: 'accept', what: 'key', id });
    expect(await agreeToUses(second, site)).toBe(3);
    const plan = staffCard({ name: 'Staff card, newer', noFormat: true });
    await admin().ask(planApi.addVersion, { site, id: planId }, { plan, basedOn: 1, evenSo: true });
    const pads = [await station.pad()];
    const refused = await admin().call('POST', `/sites/${site}/runs`, { kind: 'verify', planId, pads });
    expect([refused.status, refused.body.error.code]).toEqual([409, 'key-use-waits']);
    expect(await agreeToUses(second, site)).toBe(1);
    // The newer is agreed to; of the older it is asked for with the start of a run that meets its cards.
    const run = await admin().ask(runApi.start, { site }, { kind: 'verify', planId, pads });
    await station.lay(BLANKS[0]!);
    const { pads: told } = await station.until(run.id, ({ pads: all }) =>
      all.some(({ weight }) => weight === 'problem'),
    );
    expect(told[0]!.says).toMatch(/^A key custodian must agree first: .* for plan "Staff card, newer", version 1\.$/);
    const [asked] = await second.ask(keyUseApi.requests, { site });
    expect(asked).toMatchObject({
      what: expect.stringContaining('version 1'),
      notes: [expect.stringContaining('no mark')],
    });
    expect(await agreeToUses(second, site)).toBe(1);
    await station.lay();
    await station.lay(BLANKS[0]!);
    await station.until(run.id, ({ done }) => done === 1);
    await station.lay();
    await admin().ask(runApi.end, { site, id: run.id });
    await station.until(run.id, ({ pads: all }) => all.length === 0);
  });
});
