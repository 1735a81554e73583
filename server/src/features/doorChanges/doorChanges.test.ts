/** Controllers and readers are renamed, moved and removed; what hangs on them is shown before, and history keeps their names. */
import { accessApi, type Body, doorApi, eventApi, readApi, rigApi, trailApi } from '@rawbits/api';
import { createPool, type RowDataPacket } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { BOAT_BITS, eventually, loadAndWait, type Person } from '../../testing/harness.ts';
import { openStation, type Station } from '../../testing/station.ts';

type RightsChange = Body<typeof accessApi.save>['change'];

describe('controllers and readers', () => {
  let station: Station;
  let site: string;
  let administrator: Person;
  const controllers = () => administrator.ask(doorApi.list, { site });
  const readers = () => administrator.ask(doorApi.readers, { site });
  const controller = async (device: string) => (await controllers()).find((one) => one.device === device)!;
  const reader = async (device: string) => (await readers()).find((one) => one.device === device)!;
  const addController = (device: string) => administrator.ask(doorApi.add, { site }, { name: `At ${device}`, device });
  const addReader = (device: string, controllerId: string, more: object = {}) =>
    administrator.ask(
      doorApi.addReader,
      { site },
      { name: `By ${device}`, device, kind: 'door', controllerId, ...more },
    );
  const saved = async (change: RightsChange) => {
    const { seen } = await administrator.ask(accessApi.review, { site }, { change });
    return administrator.ask(accessApi.save, { site }, { change, seen });
  };
  const refusal = async (work: Promise<unknown>) =>
    work.then(
      () => 'done',
      (error: Error) => error.message,
    );

  beforeAll(async () => {
    station = await openStation();
    ({ site } = station);
    ({ administrator } = station.house);
  });
  afterAll(() => station?.close());

  it('are renamed, and nothing has to be loaded for that of a controller', async () => {
    const { id } = await controller('shed');
    await loadAndWait(administrator, `/sites/${site}/controllers/${id}`);
    const renamed = await administrator.ask(doorApi.change, { site, id }, { name: 'Winch house' });
    expect([renamed.name, renamed.device, renamed.standing]).toEqual(['Winch house', 'shed', 'current']);
    const { id: door } = await reader('door');
    expect(
      await administrator.ask(doorApi.changeReader, { site, id: door }, { name: 'Winch house, outside' }),
    ).toMatchObject({
      name: 'Winch house, outside',
      controllerId: id,
      kind: 'door',
    });
    const [entry] = await administrator.ask(trailApi.list, { site }, undefined);
    expect(entry).toMatchObject({ action: 'reader changed', subject: 'reader Winch house, outside' });
  });

  it('a device that another one has is refused, at its field', async () => {
    await addController('quay');
    const { id } = await controller('shed');
    expect(await refusal(administrator.ask(doorApi.change, { site, id }, { device: 'quay' }))).toContain(
      'The device \\"quay\\" is in use already.',
    );
    const { id: pad } = await addReader('lone', id);
    expect(await refusal(administrator.ask(doorApi.changeReader, { site, id: pad }, { device: 'door' }))).toContain(
      'device-taken',
    );
    expect((await reader('lone')).id).toBe(pad);
  });

  it('a controller in whose place is another device is not current until that is loaded', async () => {
    await administrator.ask(
      rigApi.setUp,
      { site },
      {
        cards: [{ id: 'boat', shape: 'card', printed: '118406', look: 'no name', bits: BOAT_BITS }],
        readers: [{ id: 'door', controller: 'shed' }],
        controllers: [{ id: 'shed' }, { id: 'spare' }],
      },
    );
    const { id } = await controller('shed');
    await administrator.ask(doorApi.change, { site, id }, { device: 'spare' });
    const swapped = await eventually(
      () => administrator.ask(doorApi.one, { site, id }),
      ({ answers }) => answers,
    );
    expect(swapped.standing).not.toBe('current');
    expect((await loadAndWait(administrator, `/sites/${site}/controllers/${id}`)).state).toBe('done');
    expect((await controller('spare')).standing).toBe('current');
    await administrator.ask(doorApi.change, { site, id }, { device: 'shed' });
  });

  it('a reader goes to another controller with its door, the other reader and who may pass', async () => {
    const [from, to] = [await addController('north'), await addController('south')];
    const inside = await addReader('gate-in', from.id);
    await addReader('gate-out', from.id, { doorId: inside.doorId, way: 'out' });
    const onSides = [
      { id: inside.id, way: 'in' as const },
      { id: (await reader('gate-out')).id, way: 'out' as const },
    ];
    const change = {
      kind: 'door',
      id: inside.doorId!,
      name: 'Gate',
      byGroups: true,
      readers: onSides,
      revision: 1,
    } as const;
    await saved(change);
    await saved({
      kind: 'group',
      id: null,
      name: 'Gate keepers',
      rights: [{ doors: [{ door: inside.doorId!, ways: ['in'] }], schedule: 'always' }],
    });
    await administrator.ask(
      accessApi.assert,
      { site },
      {
        id: null,
        name: 'Only gate keepers at night',
        but: [
          (await administrator.ask(accessApi.all, { site })).groups.find(({ name }) => name === 'Gate keepers')!.id,
        ],
        doors: [inside.doorId!],
        way: 'in',
        during: { periods: [{ days: [1], from: '22:00', to: '23:00' }], onHolidays: 'as other days' },
      },
    );
    await administrator.ask(doorApi.changeReader, { site, id: inside.id }, { controllerId: to.id });
    expect((await readers()).filter(({ device }) => device.startsWith('gate')).map((one) => one.controllerId)).toEqual([
      to.id,
      to.id,
    ]);
    const doors = async (device: string) =>
      (await controller(device)).waiting.filter(({ what }) => what.includes('door')).length;
    expect([await doors('north'), (await doors('south')) > 0]).toEqual([0, true]);
    const { groups } = await administrator.ask(accessApi.all, { site });
    expect(groups.find(({ name }) => name === 'Gate keepers')!.rights[0]!.doors[0]!.door).toBe(inside.doorId);
  });

  it('of two readers at a door one goes, and the door stays', async () => {
    const { id, doorId } = await reader('gate-out');
    const shown = await administrator.ask(doorApi.readerRemoval, { site, id });
    expect(shown).toMatchObject({ name: 'By gate-out', doors: [], groups: [], assertions: [] });
    expect(shown.stays).toEqual([expect.stringContaining('Disconnect By gate-out before you load At south')]);
    const both = [1, 2].map(() =>
      administrator.call('POST', `/sites/${site}/readers/${id}/removal`, { seen: shown.digest }),
    );
    expect((await Promise.all(both)).map(({ status }) => status).sort()).toEqual([200, 404]);
    const { doors } = await administrator.ask(accessApi.all, { site });
    expect(doors.find((door) => door.id === doorId)).toMatchObject({ name: 'Gate', readers: [{ name: 'By gate-in' }] });
    await addReader('gate-out', (await reader('gate-in')).controllerId!, { doorId, way: 'out' });
  });

  it('is shown what goes with it; what has changed since is not removed', async () => {
    const { id, doorId } = await reader('gate-in');
    const { id: controllerId } = await controller('south');
    const shown = await administrator.ask(doorApi.removal, { site, id: controllerId });
    expect(shown).toMatchObject({
      name: 'At south',
      readers: [{ name: 'By gate-in' }, { name: 'By gate-out' }],
      doors: [{ id: doorId, name: 'Gate' }],
      groups: [{ name: 'Gate keepers' }],
      assertions: [{ name: 'Only gate keepers at night', removed: true }],
      stays: ['Raw Bits has never loaded At south. It decides by what it has until it is disconnected.'],
    });
    await administrator.ask(doorApi.changeReader, { site, id }, { name: 'Gate, outside' });
    const removing = administrator.ask(doorApi.remove, { site, id: controllerId }, { seen: shown.digest });
    expect(await refusal(removing)).toContain('has changed since it was shown');
    const again = await administrator.ask(doorApi.removal, { site, id: controllerId });
    await administrator.ask(doorApi.remove, { site, id: controllerId }, { seen: again.digest });
    expect(await controller('south')).toBeUndefined();
    expect(await reader('gate-in')).toBeUndefined();
    const { groups, assertions } = await administrator.ask(accessApi.all, { site });
    expect([groups.find(({ name }) => name === 'Gate keepers')!.rights, assertions]).toEqual([[], []]);
    expect((await administrator.call('GET', `/sites/${site}/controllers/${controllerId}`)).status).toBe(404);
  });

  it('one that is being loaded is not removed, and of one that is removed no load begins', async () => {
    const { id } = await controller('quay');
    await eventually(
      () => administrator.ask(doorApi.one, { site, id }),
      ({ load }) => load?.state !== 'running',
    );
    const { digest } = await administrator.ask(doorApi.removal, { site, id });
    const pool = createPool(station.house.databaseUrl);
    // A load that goes on at some server, with nobody carrying it here.
    await pool.query(
      `INSERT INTO jobs (id, site_id, kind, subject, state, done, total, message, input, memo, started_by, started_at, heard_at, carrier, guard)
       VALUES ('under-way', ?, 'load', ?, 'running', 0, 1, '', '{}', '{"digest":""}', 'iris', NOW(3), NOW(3), 'elsewhere', 0)`,
      [site, id],
    );
    const removing = () => administrator.ask(doorApi.remove, { site, id }, { seen: digest });
    expect(await refusal(removing())).toContain('At quay is being loaded.');
    expect(await refusal(administrator.ask(doorApi.change, { site, id }, { device: 'elsewhere' }))).toContain(
      'At quay is being loaded.',
    );
    await pool.query("DELETE FROM jobs WHERE id = 'under-way'");
    // What it was to have is as much as its cards: it goes in pieces, to the last.
    await pool.query(
      "INSERT INTO controller_items (controller_id, item, wanted) SELECT ?, CONCAT('card made-up-', seq), 1 FROM seq_1_to_2500",
      [id],
    );
    await removing();
    expect(await refusal(administrator.ask(doorApi.load, { site, id }))).toContain('not-found');
    const left = async () => {
      const [rows] = await pool.query<RowDataPacket[]>(
        'SELECT COUNT(*) AS n FROM controller_items WHERE controller_id = ?',
        [id],
      );
      return rows[0]!.n as number;
    };
    await eventually(left, (count) => count === 0);
    await pool.end();
  });

  it('a removed reader and its controller are still named where something happened', async () => {
    const { id } = await reader('door');
    const { id: controllerId } = await controller('shed');
    await administrator.ask(rigApi.present, { site }, { card: 'boat', reader: id });
    await eventually(
      () => administrator.ask(eventApi.list, { site }),
      (events) => events.some(({ reader: at }) => at?.id === id),
    );
    const shown = await administrator.ask(doorApi.removal, { site, id: controllerId });
    expect(shown.stays[0]).toMatch(/^Raw Bits last loaded 5 cards into Winch house\. It decides by what it has/);
    await administrator.ask(doorApi.remove, { site, id: controllerId }, { seen: shown.digest });
    const [event] = (await administrator.ask(eventApi.list, { site })).filter(({ reader: at }) => at?.id === id);
    expect(event).toMatchObject({
      reader: { name: 'Winch house, outside' },
      controller: { id: controllerId, name: 'Winch house' },
    });
    const reads = await administrator.ask(readApi.list, { site }, undefined);
    expect(reads.some(({ reader: at }) => at?.name === 'Winch house, outside')).toBe(true);
    const { rows } = await administrator.do('GET', `/sites/${site}/happened?search=Winch%20house%2C%20outside`);
    expect(rows.some((row: { kind: string }) => row.kind === 'event')).toBe(true);
  });
});
