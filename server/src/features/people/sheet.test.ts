/** People from a sheet: whom each row means, what it changes, which doors they gain; out and in again without a change. */
import { type PeopleReview, type PersonRow, peopleSheetApi } from '@rawbits/api';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { furnish, type House, openHouse, type Person } from '../../testing/harness.ts';

describe('a sheet of people', () => {
  let house: House;
  let site: string;
  let at: string;
  let admin: Person;
  let labs: string;
  let door: { id: string; name: string };
  beforeAll(async () => {
    house = await openHouse();
    ({ site, administrator: admin } = house);
    at = `/sites/${site}`;
    await furnish(house);
    [door] = (await admin.do('GET', `${at}/access`)).doors;
    const { revision, readers } = (await admin.do('GET', `${at}/access`)).doors[0];
    await admin.do('POST', `${at}/access/changes`, {
      change: {
        ...{ kind: 'door', id: door.id, name: door.name, byGroups: true, revision },
        readers: readers.map(({ id, way }: { id: string; way: string }) => ({ id, way })),
      },
    });
    labs = await group('Wet labs');
    await group('Wet labs | evenings');
  });
  afterAll(() => house.close());
  const group = async (name: string): Promise<string> =>
    (
      await admin.do('POST', `${at}/access/changes`, {
        change: {
          ...{ kind: 'group', id: null, name },
          rights: [{ doors: [{ door: door.id, ways: ['in', 'out'] }], schedule: 'always' }],
        },
      })
    ).id;
  const rows = (some: Omit<PersonRow, 'row'>[]): PersonRow[] => some.map((row, i) => ({ row: i + 2, ...row }));
  const review = (some: PersonRow[]) => admin.ask(peopleSheetApi.review, { site }, { rows: some });
  const enter = (some: PersonRow[], { seen }: PeopleReview, more: object = {}) =>
    admin.call('POST', `${at}/people-sheets`, { rows: some, seen, ...more });
  const out = async () => (await admin.ask(peopleSheetApi.out, { site })).people;
  const add = (person: object): Promise<{ id: string }> => admin.do('POST', `${at}/cardholders`, person);

  it('puts new people on file with what their kind brings, changes whom it means, and leaves what it does not say', async () => {
    const { id } = await add({ name: 'Åse Vik', contact: 'quay 2', notes: 'left-handed' });
    await admin.do('PUT', `${at}/cardholder-rules`, {
      ...{ pinDigits: 4, pinsDiffer: true, revision: 0 },
      brings: [{ organisation: '', kind: 'staff', groups: [labs], days: null }],
    });
    const sheet = rows([
      { name: 'åse vik', department: 'Labs', groups: 'wet labs | evenings | Wet labs' },
      { name: 'Bård Nes', kind: 'Staff', contact: 'dock' },
      { name: 'Bård Nes', department: 'Dock', kind: 'visitor' },
    ]);
    const told = await review(sheet);
    expect(told.fresh).toEqual({ count: 2, names: ['Bård Nes', 'Bård Nes'] });
    expect(told.changed.rows).toEqual([
      {
        ...{ row: 2, name: 'Åse Vik' },
        fields: [
          { field: 'name', was: 'Åse Vik', is: 'åse vik' },
          { field: 'department', was: '', is: 'Labs' },
          { field: 'groups', was: '', is: expect.stringContaining('evenings') },
        ],
      },
    ]);
    expect(told.rights.gains.map(({ door: name, people, later }) => [name, people + later])).toContainEqual([
      door.name,
      2,
    ]);
    // Nothing was written by looking.
    expect((await out()).map(({ name }) => name)).toEqual(['Åse Vik']);
    expect((await enter(sheet, told)).body).toEqual({ fresh: 2, changed: 1 });
    expect(await admin.do('GET', `${at}/cardholders/${id}`)).toMatchObject({
      ...{ name: 'åse vik', department: 'Labs', contact: 'quay 2', notes: 'left-handed', revision: 2 },
    });
    const people = await out();
    expect(people.map(({ department, groups }) => [department, groups.sort()])).toEqual(
      expect.arrayContaining([
        ['Labs', ['Wet labs', 'Wet labs | evenings']],
        ['', ['Wet labs']],
        ['Dock', []],
      ]),
    );
  });

  it('goes out and comes in again without a change, by identifier and by name and department alike', async () => {
    const people = await out();
    const back = people.map(({ groups, cards: _, ...rest }) => ({ ...rest, groups: groups.join(' | ') }));
    expect(await review(rows(back))).toMatchObject({ fresh: { count: 0 }, changed: { count: 0 }, same: 3, bad: [] });
    const nameless = back.flatMap(({ id: _, ...rest }) => (rest.department ? [rest] : []));
    expect(await review(rows(nameless))).toMatchObject({ same: 2, bad: [] });
  });

  it('asks rather than guesses whom a row means', async () => {
    await add({ name: 'Eli Sand', department: 'Dock' });
    const { id: other } = await admin.do('POST', '/sites', { name: 'Gull Holm', shortName: 'Gull' });
    const { id: stranger } = await admin.do('POST', `/sites/${other}/cardholders`, { name: 'Eli Sand' });
    const wrong = rows([
      { name: 'Eli Sand', department: 'Labs' },
      { name: 'Bård Nes' },
      { name: '' },
      { id: stranger, name: 'Eli Sand' },
      { name: 'Una Berg', groups: 'Cold store' },
      { name: 'Una Holm' },
      { name: 'una holm', groups: 'Wet labs' },
    ]);
    const { bad, fresh } = await review(wrong);
    expect(bad.map(({ row, message }) => [row, message])).toEqual([
      [2, 'Eli Sand on file is of Dock, and not of Labs.'],
      [3, 'Several cardholders are called Bård Nes.'],
      [4, 'It has no name.'],
      [5, `Nobody at this site is ${stranger}.`],
      [6, 'No access group is called Cold store.'],
      [8, 'una holm stands in row 7, too.'],
    ]);
    expect(fresh.names).toEqual(['Una Holm']);
    const mended = rows([{ id: 'new', name: 'Eli Sand', department: 'Labs' }]);
    expect(await review(mended)).toMatchObject({ fresh: { count: 1 }, bad: [] });
  });

  it('is entered as it was seen or not at all, and breaks an assertion only knowingly', async () => {
    await admin.do('POST', `${at}/access/assertions`, {
      ...{ id: null, name: 'Nobody new', doors: [door.id], way: 'in', but: [labs] },
      during: { periods: [{ days: [1, 2, 3, 4, 5, 6, 7], from: '00:00', to: '24:00' }], onHolidays: 'as other days' },
    });
    const sheet = rows([{ name: 'Ola Tangen', groups: 'Wet labs | evenings' }]);
    const told = await review(sheet);
    expect(told.rights.breaks.map(({ name }) => name)).toEqual(['Nobody new']);
    const refused = await enter(sheet, told);
    expect([refused.status, refused.body.error.code]).toEqual([409, 'assertion']);
    expect((await out()).some(({ name }) => name === 'Ola Tangen')).toBe(false);
    await add({ name: 'Ola Tangen' });
    const late = await enter(sheet, told, { breaking: true });
    expect([late.status, late.body.error.code]).toEqual([409, 'reviewed-other']);
    const again = await review(sheet);
    expect((await enter(sheet, again, { breaking: true })).body).toEqual({ fresh: 0, changed: 1 });
  });

  it('costs what is in it: cells full of separators are answered like any other', async () => {
    const cell = 'Wet labs|'.repeat(440).slice(0, -1);
    const sheet = rows(Array.from({ length: 1300 }, (_, i) => ({ name: `Crowd ${i}`, groups: cell })));
    const { bad, fresh } = await review(sheet);
    expect([bad, fresh.count]).toEqual([[], 1300]);
    const wrong = await review(rows([{ name: 'Crowd', groups: 'Wet labs||evenings' }]));
    expect(wrong.bad[0]!.message).toBe('No access group is called nothing.');
  });

  it('two who send one sheet at once enter it once', async () => {
    const sheet = rows(Array.from({ length: 400 }, (_, i) => ({ name: `Summer guest ${i}`, kind: 'staff' })));
    const told = await review(sheet);
    const answers = await Promise.all([1, 2, 3].map(() => enter(sheet, told, { breaking: true })));
    expect(answers.map(({ status }) => status).sort()).toEqual([200, 409, 409]);
    expect((await out()).filter(({ name }) => name.startsWith('Summer guest'))).toHaveLength(400);
  });
});
