/** The trail: every change is in it, and changing, removing or cutting off entries is found. */
import { readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { createPool, type Pool } from 'mysql2/promise';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { catchUp } from '../../platform/trail/anchor.ts';
import type { TrailKeeper } from '../../platform/trail/keeper.ts';
import { type House, openHouse, PASSWORD, Person } from '../../testing/harness.ts';

describe('the trail', () => {
  let house: House;
  let pool: Pool;
  let at: string;
  /** Each case has a site of its own, with a record of its own. */
  let site: string;
  beforeAll(async () => {
    house = await openHouse();
    pool = createPool(house.databaseUrl);
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });
  beforeEach(async () => {
    site = (await house.administrator.do('POST', '/sites', { name: 'A site', shortName: 'A site' })).id;
    at = `/sites/${site}`;
    await house.administrator.do('PUT', `${at}/formats/26-8-16`);
    for (const name of ['A', 'B', 'C']) await house.administrator.do('POST', `${at}/cardholders`, { name });
    await house.server.app.sealer.now(site);
  });
  const verify = () => house.administrator.do('GET', `${at}/trail/verification`);

  it('tells who, when, before and after, and is intact', async () => {
    const card = await house.administrator.do('POST', `${at}/cards`, {
      formatId: '26-8-16',
      facility: '7',
      number: '8',
    });
    await house.administrator.do('PATCH', `${at}/cards/${card.id}`, { revision: 1, notes: 'scuffed' });
    const [latest] = await house.administrator.do('GET', `${at}/trail`);
    expect(latest).toMatchObject({
      operator: 'Admin',
      action: 'card changed',
      subject: 'card 7/8',
      before: { notes: '' },
      after: { notes: 'scuffed' },
    });
    expect(await verify()).toMatchObject({ intact: true, brokenAt: null, entries: 6 });
  });

  it('a change that fails leaves nothing in the trail', async () => {
    const before = (await verify()).entries;
    await house.administrator.call('POST', `${at}/cards`, {
      formatId: '26-8-16',
      facility: '7',
      number: '8',
      holderId: 'nobody',
      state: 'active',
    });
    expect((await verify()).entries).toBe(before);
  });

  it.each([
    ['a changed entry', "UPDATE trail SET operator = 'Somebody else' WHERE chain = ? AND seq = 2", 2],
    ['a removed entry', 'DELETE FROM trail WHERE chain = ? AND seq = 3', 3],
    ['the first entry removed', 'DELETE FROM trail WHERE chain = ? AND seq = 1', 1],
    ['the last entry cut off', 'DELETE FROM trail WHERE chain = ? AND seq = 4', 4],
  ])('%s is found', async (_, statement, brokenAt) => {
    await pool.query(statement, [site]);
    expect(await verify()).toMatchObject({ intact: false, brokenAt });
  });

  it('cutting off is found even where the head in the database was set back with it', async () => {
    await pool.query('DELETE FROM trail WHERE chain = ? AND seq = 4', [site]);
    const [[last]] = (await pool.query('SELECT hash FROM trail WHERE chain = ? AND seq = 3', [site])) as unknown as [
      [{ hash: string }],
    ];
    await pool.query('UPDATE chains SET trail_seq = 3, trail_head = ? WHERE id = ?', [last.hash, site]);
    expect(await verify()).toMatchObject({ intact: false, brokenAt: 4, message: 'Entry 4 was cut off.' });
  });

  /** Adds somebody, and waits until it is sealed. */
  const holder = async (name: string) => {
    await house.administrator.do('POST', `${at}/cardholders`, { name });
    await house.server.app.sealer.now(site);
  };
  const settle = (reason: string) => house.administrator.call('POST', `${at}/trail/settlement`, { reason });

  /** The last entries cut off as somebody with the database in hand would: with the head set back. */
  async function cutOff(from: number): Promise<void> {
    await pool.query('DELETE FROM trail WHERE chain = ? AND seq >= ?', [site, from]);
    await pool.query(
      'UPDATE chains SET trail_seq = ?, trail_head = (SELECT hash FROM trail WHERE chain = ? AND seq = ?) WHERE id = ?',
      [from - 1, site, from - 1, site],
    );
  }

  it('what was cut off is still found after as many new entries, until it is settled with a reason', async () => {
    await cutOff(3);
    for (const name of ['D', 'E', 'F', 'G']) await holder(name);
    expect(await verify()).toMatchObject({ intact: false, brokenAt: 4, findings: [{ kind: 'not the noted one' }] });
    // What every server looks after from time to time does not take the new head for the old one's.
    await catchUp(house.server.app);
    const technician = await house.person('tech', 'technician', site);
    expect((await technician.call('POST', `${at}/trail/settlement`, { reason: 'no' })).status).toBe(403);
    const after = await settle('restored from the backup of Tuesday');
    expect(after.body).toMatchObject({ intact: true, brokenAt: null });
    const [entry] = await house.administrator.do('GET', `${at}/trail`);
    expect(entry).toMatchObject({
      action: 'break in the record settled',
      after: { reason: 'restored from the backup of Tuesday' },
    });
    await holder('H');
    expect((await verify()).intact).toBe(true);
    expect((await settle('once more')).body.error.code).toBe('nothing-to-settle');
  });

  it.each([
    ['missing', (file: string) => rmSync(file)],
    ['empty', (file: string) => writeFileSync(file, '')],
  ])('a note that is %s is a finding, and is not quietly made anew', async (_, spoil) => {
    spoil(join(house.stateFolder, 'trail', `${site}.json`));
    await holder('D');
    expect(await verify()).toMatchObject({ intact: false, findings: [{ kind: 'note lost', settled: null }] });
    expect((await settle('the state folder was not in the backup')).body.intact).toBe(true);
    expect((await verify()).intact).toBe(true);
  });

  it('all that is wrong is listed, past the first; further damage at a settled place is found again', async () => {
    await pool.query("UPDATE trail SET subject = 'x' WHERE chain = ? AND seq = 2", [site]);
    await pool.query('DELETE FROM trail WHERE chain = ? AND seq = 3', [site]);
    const found = await verify();
    expect(found.findings.map((f: { seq: number; kind: string }) => [f.seq, f.kind])).toEqual([
      [2, 'changed'],
      [3, 'missing'],
    ]);
    expect((await settle('known')).body).toMatchObject({
      intact: true,
      message: expect.stringContaining('but for 2 breaks that an administrator has settled'),
    });
    await pool.query("UPDATE trail SET subject = 'y' WHERE chain = ? AND seq = 2", [site]);
    expect(await verify()).toMatchObject({ intact: false, brokenAt: 2 });
  });

  it('an entry put in the place of another, hash and all, is found', async () => {
    await pool.query(
      'UPDATE trail a JOIN trail b ON b.chain = a.chain AND b.seq = 3 SET a.operator = b.operator, a.hash = b.hash WHERE a.chain = ? AND a.seq = 2',
      [site],
    );
    expect(await verify()).toMatchObject({ intact: false, brokenAt: 2 });
  });

  const failsSince = async () => (await house.administrator.do('GET', `${at}/trail/sealing`)).failsSince;
  const health = async () => (await fetch(`http://127.0.0.1:${house.server.port}/api/health`)).json();
  /** What is written while nothing is sealed, and changed and taken out again then. */
  async function editUnsealed(): Promise<void> {
    for (const name of ['D', 'E']) await house.administrator.do('POST', `${at}/cardholders`, { name });
    await pool.query("UPDATE trail SET subject = 'x' WHERE chain = ? AND seq IS NULL ORDER BY name LIMIT 1", [site]);
    await pool.query('DELETE FROM trail WHERE chain = ? AND seq IS NULL ORDER BY name DESC LIMIT 1', [site]);
  }

  it.each([
    ['its row deleted', 'DELETE FROM chains WHERE id = ?', ['not sealed', 'head lost']],
    ['its number set back', 'UPDATE chains SET trail_seq = 2 WHERE id = ?', ['not sealed', 'head changed']],
    ['its head changed', "UPDATE chains SET trail_head = REPEAT('0', 64) WHERE id = ?", ['does not follow']],
  ])('a record that was switched off, %s, is found, told at once, and goes on once it is settled', async (_, statement, kinds) => {
    await pool.query(statement, [site]);
    await editUnsealed();
    const found = await verify();
    expect(found.intact).toBe(false);
    expect(found.findings.map(({ kind }: { kind: string }) => kind)).toEqual(expect.arrayContaining(kinds));
    if (kinds.includes('not sealed')) {
      await expect.poll(failsSince, { timeout: 15_000 }).not.toBeNull();
      expect(await health()).toMatchObject({ ok: true, record: false });
    }
    // What was changed meanwhile is sealed as it is, and shows then.
    await settle('looked into');
    await settle('and what it brought to light');
    expect((await verify()).intact).toBe(true);
    await holder('F');
    const after = await verify();
    expect(after.intact).toBe(true);
    await expect.poll(failsSince, { timeout: 15_000 }).toBeNull();
    await pool.query("UPDATE trail SET subject = 'y' WHERE chain = ? AND seq = ?", [site, after.entries]);
    expect((await verify()).intact).toBe(false);
  });

  const forged = (after: string, time = 'NOW(3)') =>
    pool.query(
      `INSERT INTO trail (chain, name, at, operator_id, operator, action, subject, \`before\`, after)
       VALUES (?, UUID_SHORT(), ${time}, 'x', 'Somebody', 'break in the record settled', 'x', 'null', ?)`,
      [site, after],
    );
  it.each([
    ['no JSON', '{'],
    ['nothing in it', 'null'],
    ['another shape', '{"findings":7}'],
    ['brackets within brackets', '['.repeat(100_000)],
  ])('a settlement that somebody put in, with %s, is a finding and throws nothing', async (_, after) => {
    await forged(after);
    expect((await verify()).findings).toMatchObject([{ kind: 'changed', settled: null }]);
    expect((await settle('looked into')).body.intact).toBe(true);
  });

  it('a settlement that somebody put in settles nothing', async () => {
    await pool.query("UPDATE trail SET subject = 'x' WHERE chain = ? AND seq = 2", [site]);
    const [[row]] = (await pool.query('SELECT * FROM trail WHERE chain = ? AND seq = 2', [site])) as never as [
      [Parameters<TrailKeeper['hashOf']>[0] & { operator_id: string }],
    ];
    const keeper = house.server.app.trail;
    const own = keeper.hashOf({ ...row, operatorId: row.operator_id, seq: 2 });
    await forged(JSON.stringify({ reason: 'nothing to see', findings: [`changed 2 ${own}`] }));
    const found = await verify();
    expect(found.findings).toMatchObject([
      { seq: 2, kind: 'changed', settled: null },
      { kind: 'changed', settled: null },
    ]);
  });

  it('an entry whose time is none is told, and listed', async () => {
    const connection = await pool.getConnection();
    await connection.query("SET SESSION sql_mode = ''");
    await connection.query("UPDATE trail SET at = '0000-00-00' WHERE chain = ? AND seq = 2", [site]);
    connection.release();
    expect(await verify()).toMatchObject({ intact: false, brokenAt: 2 });
    expect((await house.administrator.do('GET', `${at}/trail`)).length).toBeGreaterThan(3);
  });

  it('half a character is refused at the edge, wherever it stands, and the record stays whole', async () => {
    const half = 'A\ud83d';
    const refused = [
      await house.administrator.call('POST', `${at}/cardholders`, { name: half }),
      await house.administrator.call('POST', `${at}/cases`, { name: 'C', specimens: [{ bits: '01', printed: half }] }),
      await house.administrator.call('POST', '/session', { login: half, password: 'x' }),
    ];
    expect(refused.map((r) => [r.status, r.body.error.code])).toEqual(Array(3).fill([422, 'invalid']));
    // A subject is cut to its length without cutting a character in two.
    await holder(`${'x'.repeat(118)}😀`);
    await house.administrator.do('POST', `${at}/cases`, { name: `${'😀'.repeat(59)}x` });
    expect((await verify()).intact).toBe(true);
  });

  it('verifying while others write gives no false alarm', async () => {
    let writing = true;
    const writer = (async () => {
      for (let i = 0; writing; i++) await holder(`W${i}`);
    })();
    const found = [];
    for (let i = 0; i < 25; i++) found.push((await verify()).message);
    writing = false;
    await writer;
    expect(found.filter((message) => !message.startsWith('All '))).toEqual([]);
  });

  it('what belongs to no site is shown to administrators and verified, without what concerns other sites', async () => {
    const other = (await house.administrator.do('POST', '/sites', { name: 'Elsewhere', shortName: 'Else' })).id;
    await house.administrator.do('POST', `/sites/${other}/operators`, {
      login: 'stranger',
      name: 'Stranger',
      roles: ['administrator'],
      password: `first-${PASSWORD}`,
    });
    const stranger = new Person(house.server.port);
    await stranger.signIn('stranger', `first-${PASSWORD}`);
    await stranger.do('POST', '/session/password', { current: `first-${PASSWORD}`, next: PASSWORD });
    await house.administrator.do('POST', '/formats', { id: 'eight', name: 'Eight', layout: '8 | 1-8 number' });
    const local = await house.person('local', 'viewer');
    const seen = async (who: Person) =>
      (await who.do('GET', '/trail?limit=50')).map(
        (e: { operator: string; action: string }) => `${e.operator}: ${e.action}`,
      );
    expect(await seen(stranger)).toContain('Admin: format added');
    expect(await seen(stranger)).not.toContain('local: signed in');
    expect(await seen(house.administrator)).toContain('local: signed in');
    expect((await local.call('GET', '/trail')).status).toBe(403);
    expect((await house.administrator.do('GET', '/trail/verification')).intact).toBe(true);
    await pool.query("UPDATE trail SET operator = 'x' WHERE chain = 'house' AND seq = 1");
    expect(await house.administrator.do('GET', '/trail/verification')).toMatchObject({ intact: false, brokenAt: 1 });
  });

  it('prints and bits of a case that were changed are told, old and new', async () => {
    const specimens = ['0101', '0110', '1111'].map((bits, i) => ({ bits, printed: String(i) }));
    const { id } = await house.administrator.do('POST', `${at}/cases`, { name: 'Box', specimens });
    const changed = [specimens[0], { ...specimens[1], printed: '7' }, { bits: '1110', printed: '2' }];
    await house.administrator.do('PATCH', `${at}/cases/${id}`, { revision: 1, specimens: changed });
    await house.administrator.do('PATCH', `${at}/cases/${id}`, { revision: 2, specimens: changed.slice(1) });
    // The same sent again is no change.
    await house.administrator.do('PATCH', `${at}/cases/${id}`, { revision: 3, specimens: changed.slice(1) });
    const [cut, entry] = await house.administrator.do('GET', `${at}/trail`);
    expect([entry.before.changed, entry.after.changed]).toEqual([
      [
        { row: 2, bits: '0110', printed: '1' },
        { row: 3, bits: '1111', printed: '2' },
      ],
      [
        { row: 2, bits: '0110', printed: '7' },
        { row: 3, bits: '1110', printed: '2' },
      ],
    ]);
    expect([cut.before, cut.after]).toEqual([
      { name: 'Box', specimens: 3, only: [{ row: 1, bits: '0101', printed: '0' }] },
      { name: 'Box', specimens: 2 },
    ]);
  });

  it('a server with another key, or a key that is none, does not start', async () => {
    const elsewhere = join(house.stateFolder, '../other-state');
    await expect(house.another({ stateFolder: elsewhere })).rejects.toThrow('another trail key');
    await expect(house.another({ trailKey: 'not hex' })).rejects.toThrow('is not 64 hex digits');
    // A database from before keys were checked is asked by its entries.
    await pool.query("DELETE FROM installation WHERE name = 'trail key'");
    await expect(house.another({ stateFolder: elsewhere })).rejects.toThrow('another trail key');
    await house.another();
    expect(readdirSync(join(house.stateFolder, 'trail')).length).toBeGreaterThan(0);
  });

  it('a change whose head could not be noted is answered as done, and the note follows', async () => {
    const { trail } = house.server.app;
    const place = trail.place.bind(trail);
    trail.place = () => {
      throw Object.assign(new Error('no space left'), { code: 'ENOSPC' });
    };
    expect((await house.administrator.call('POST', `${at}/cardholders`, { name: 'D' })).status).toBe(200);
    await house.server.app.sealer.now(site);
    expect(trail.anchorOf(site)?.seq).toBe(4);
    trail.place = place;
    await holder('E');
    // Another server may have sealed it, and notes it a moment later.
    await expect.poll(() => trail.anchorOf(site)?.seq).toBe(6);
    expect((await verify()).intact).toBe(true);
  });

  it('a second server with a folder of its own notes what it finds; a folder that lost everything says so', async () => {
    const trailKey = readFileSync(join(house.stateFolder, 'trail.key'), 'utf8');
    const stateFolder = join(house.stateFolder, '../second');
    const second = await house.another({ trailKey, stateFolder });
    const there = new Person(second.port);
    there.cookie = house.administrator.cookie;
    const verifyThere = () => there.do('GET', `${at}/trail/verification`);
    await holder('D');
    await there.do('POST', `${at}/cardholders`, { name: 'E' });
    expect([(await verify()).intact, (await verifyThere()).intact]).toEqual([true, true]);
    // A site that the second server never heard of until somebody asks it.
    const other = (await house.administrator.do('POST', '/sites', { name: 'Other', shortName: 'Other' })).id;
    await house.administrator.do('POST', `/sites/${other}/cardholders`, { name: 'F' });
    expect((await there.do('GET', `/sites/${other}/trail/verification`)).intact).toBe(true);
    rmSync(join(house.stateFolder, 'trail'), { recursive: true });
    const third = new Person((await house.another()).port);
    third.cookie = house.administrator.cookie;
    expect(await third.do('GET', `${at}/trail/verification`)).toMatchObject({
      intact: false,
      findings: [{ kind: 'note lost' }],
    });
  });
});
