/** Readers that are armed: for one operator at once, for a while, filled by the next card, on any server. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { eventually, furnish, type House, openHouse, type Person } from '../../testing/harness.ts';

describe('an armed reader', () => {
  let house: House;
  let at: string;
  let one: Person;
  let other: Person;
  let pad: string;
  let door: string;
  beforeAll(async () => {
    house = await openHouse();
    at = `/sites/${house.site}`;
    ({ pad, door } = await furnish(house));
    one = house.administrator;
    other = await house.person('tech', 'technician');
  });
  afterAll(() => house.close());
  const arm = (person: Person, reader: string, seconds = 60) =>
    person.call('POST', `${at}/readers/${reader}/arming`, { seconds });
  const armed = (person: Person) => person.do('GET', `${at}/armed-readers`);

  it('is filled by the next card that is held to it, and by no other reader’s; then it waits no more', async () => {
    expect(await arm(one, pad)).toMatchObject({ status: 200, body: { reader: 'Pad', isMine: true, read: null } });
    expect(await armed(other)).toMatchObject([{ isMine: false, by: 'Admin' }]);
    house.rig.present('boat', 'door');
    await eventually(
      () => one.do('GET', `${at}/reads`),
      (reads) => reads.length === 1,
    );
    expect(await armed(one)).toMatchObject([{ read: null }]);
    house.rig.present('boat', 'pad');
    const [filled] = await eventually(
      () => armed(one),
      ([mine]) => mine.read !== null,
    );
    house.rig.present('boat', 'pad');
    await eventually(
      () => one.do('GET', `${at}/reads`),
      (reads) => reads.length === 3,
    );
    const [after] = await armed(one);
    expect({ ...after, leftMs: 0 }).toEqual({ ...filled, leftMs: 0 });
    expect(after.leftMs).toBeLessThanOrEqual(60_000);
    // What was read is not waited for any more: the next may have the reader.
    expect((await arm(other, pad)).status).toBe(200);
    expect((await other.call('DELETE', `${at}/readers/${pad}/arming`)).status).toBe(200);
  });

  it('is armed for one: of twenty at once from two servers one operator has it, and the others are told by whom', async () => {
    const second = await house.another();
    const people = [one, other].map((person) =>
      Object.assign(Object.create(Object.getPrototypeOf(person)), { ...person, port: second.port }),
    ) as Person[];
    const answers = await Promise.all(
      Array.from({ length: 20 }, (_, i) => arm([one, other, ...people][i % 4]!, door).then((a) => ({ i, ...a }))),
    );
    const had = new Set(answers.filter(({ status }) => status === 200).map(({ i }) => i % 2));
    expect(had.size).toBe(1);
    const [refused] = answers.filter(({ status }) => status === 409);
    expect(refused!.body.error.message).toMatch(/ waits for a card at Shed door\.$/);
    const [winner, loser] = had.has(0) ? [one, other] : [other, one];
    expect((await loser.call('DELETE', `${at}/readers/${door}/arming`)).status).toBe(404);
    expect((await winner.call('DELETE', `${at}/readers/${door}/arming`)).status).toBe(200);
  });

  it('gives up after its while', async () => {
    expect((await arm(one, pad, 4)).status).toBe(422);
    expect((await arm(one, pad, 5)).status).toBe(200);
    await eventually(
      () => armed(one),
      (all) => all.length === 0,
    );
    house.rig.present('boat', 'pad');
    await eventually(
      () => one.do('GET', `${at}/reads`),
      (reads) => reads.length === 4,
    );
    expect((await arm(other, pad)).status).toBe(200);
    expect(await armed(other)).toMatchObject([{ isMine: true, read: null }]);
  });
});
