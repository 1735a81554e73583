/** Sealing: what is committed side by side stands in one chain a moment later, and what is done in between shows. */
import { cpSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createPool, type Pool, type RowDataPacket } from 'mysql2/promise';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type House, newDatabase, openHouse, Person } from '../../testing/harness.ts';
import { migrationsFolder } from '../../testing/template.ts';
import { connect, migrate } from '../database/index.ts';
import { HOUSE } from './change.ts';
import { openTrail } from './key.ts';
import { Sealer } from './seal.ts';
import { chainTable } from './tables.ts';
import { verifyChain } from './verify.ts';

describe('sealing', () => {
  let house: House;
  let pool: Pool;
  let at: string;
  beforeAll(async () => {
    house = await openHouse();
    pool = createPool(house.databaseUrl);
    at = `/sites/${house.site}`;
  });
  afterAll(async () => {
    await pool.end();
    await house.close();
  });
  const rows = async (sql: string, values: unknown[] = [house.site]) =>
    (await pool.query<RowDataPacket[]>(sql, values))[0];
  const holder = (name: string) => house.administrator.do('POST', `${at}/cardholders`, { name });

  it('what sixteen write at once stands in one chain, its numbers and the feed’s without a gap', async () => {
    await Promise.all(
      Array.from({ length: 16 }, async (_, w) => {
        for (let i = 0; i < 6; i++) await holder(`Writer ${w}, ${i}`);
      }),
    );
    expect(await house.administrator.do('GET', `${at}/trail/verification`)).toMatchObject({
      intact: true,
      entries: 96,
    });
    for (const [table, column] of [
      ['trail', 'chain'],
      ['feed', 'site_id'],
    ]) {
      const found = await rows(`SELECT seq FROM ${table} WHERE ${column} = ? ORDER BY seq`);
      expect(found.map(({ seq }) => seq)).toEqual(found.map((_, i) => i + 1));
    }
  });

  it('what a server left open when it stopped is sealed by another within a second, and can be seen before', async () => {
    await house.server.app.sealer.close();
    await holder('Left open');
    const [entry] = await house.administrator.do('GET', `${at}/trail`);
    expect(entry).toMatchObject({ seq: null, action: 'cardholder added' });
    await house.another();
    await expect.poll(() => rows('SELECT seq FROM trail WHERE chain = ? AND seq IS NULL')).toEqual([]);
  });

  /** What `tamper` did to an entry that was committed and not sealed, as another server finds it. */
  async function found(tamper: (name: string) => Promise<unknown>): Promise<string> {
    const own = await openHouse();
    const itsPool = createPool(own.databaseUrl);
    try {
      await own.server.app.sealer.now(own.site);
      await own.server.app.sealer.close();
      await own.administrator.do('POST', `/sites/${own.site}/cardholders`, { name: 'Open' });
      pool = itsPool;
      const [entry] = await rows('SELECT name FROM trail WHERE chain = ? AND seq IS NULL', [own.site]);
      await tamper(entry!.name);
      const other = new Person((await own.another()).port);
      other.cookie = own.administrator.cookie;
      return (await other.do('GET', `/sites/${own.site}/trail/verification`)).message;
    } finally {
      pool = createPool(house.databaseUrl);
      await itsPool.end();
      await own.close();
    }
  }
  const run = (sql: string, values: unknown[]) => pool.query(sql, values);

  it.each([
    [
      'changed',
      (name: string) => run("UPDATE trail SET operator = 'Somebody else' WHERE name = ?", [name]),
      'Entry 1 is not as it was written: it was changed at once.',
    ],
    [
      'changed, its keyed hash taken away as if it were an old one',
      (name: string) => run("UPDATE trail SET operator = 'Somebody else', mac = '' WHERE name = ?", [name]),
      'Entry 1 is not as it was written: it was changed at once.',
    ],
    [
      'a copy of it put in under another name',
      (name: string) =>
        run(
          "INSERT INTO trail (chain, name, at, operator_id, operator, action, subject, `before`, `after`, mac) SELECT chain, CONCAT(name, 'x'), at, operator_id, operator, action, subject, `before`, `after`, mac FROM trail WHERE name = ?",
          [name],
        ),
      'Entry 2 is not as it was written: it was changed at once.',
    ],
    [
      'a copy of it put in under its own name, past the table’s own rule',
      async (name: string) => {
        await run('ALTER TABLE trail DROP PRIMARY KEY', []);
        await run('INSERT INTO trail SELECT * FROM trail WHERE name = ?', [name]);
      },
      'Entry 2 is a copy of another one.',
    ],
    // What cannot be told, and is said in docs/decisions/trail.md.
    [
      'taken out whole',
      (name: string) => run('DELETE FROM trail WHERE name = ?', [name]),
      'All 0 entries are as they were written.',
    ],
  ])('an entry %s in the moment before it is sealed', async (_, tamper, message) => {
    expect(await found(tamper)).toBe(message);
  });

  it('a record from before entries had names goes on, and what is done to its old entries shows', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'rawbits-sealed-'));
    const former = join(folder, 'migrations');
    cpSync(migrationsFolder, former, { recursive: true });
    for (const file of readdirSync(former)) if (file >= '0009') rmSync(join(former, file), { recursive: true });
    const connection = connect(await newDatabase({ migrated: false }));
    const { db, nodes } = connection;
    await migrate(nodes, former);
    const trail = openTrail(join(folder, 'state'), undefined);
    await db.insert(chainTable).values({ id: HOUSE, trailSeq: 3, trailHead: '' });
    let previous = '';
    for (let seq = 1; seq <= 3; seq++) {
      const entry = {
        ...{
          chain: HOUSE,
          seq,
          at: new Date(1.7e12 + seq),
          operatorId: 'o',
          operator: 'O',
          action: 'a',
          subject: `s${seq}`,
        },
        ...{ before: 'null', after: '{}', previous, name: '', mac: '' },
      };
      const hash = trail.formerHashOf(entry);
      await nodes.query('INSERT INTO trail VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)', [
        ...[entry.chain, seq, entry.at, 'o', 'O', 'a', entry.subject, 'null', '{}', previous, hash],
      ]);
      previous = hash;
    }
    await nodes.query('UPDATE chains SET trail_head = ?', [previous]);
    await migrate(nodes, migrationsFolder);
    const base = { db, trail, log: house.server.app.log };
    const app = {
      ...base,
      sealer: new Sealer(
        () => base,
        () => {},
      ),
    };
    const message = async () => (await verifyChain(app, HOUSE)).verification.message;
    expect(await message()).toBe('All 3 entries are as they were written.');
    await nodes.query("UPDATE trail SET subject = 'x' WHERE seq = 2");
    expect(await message()).toContain('Entry 2 was changed after it was written.');
    await app.sealer.close();
    await connection.close();
    rmSync(folder, { recursive: true });
  });
});
