/**
 * The vault: one store key a site, under which everything secret of that site is enveloped. The store key itself is
 * enveloped under a key that comes of a passphrase. While the store is open the servers hold it in memory: the one that
 * was given the passphrase hands it to the others. It is locked by whoever locks it, after a while without use, and when
 * the last server that holds it ends; then it stands nowhere but under the passphrase.
 */
import type { Secret } from '@rawbits/core/secret';
import { and, eq, sql } from 'drizzle-orm';
import { isWithin, newId, type Queryable } from '../database/index.ts';
import { conflict, HttpProblem } from '../problem/problem.ts';
import type { Settings } from '../settings/settings.ts';
import type { TrailApp } from '../trail/app.ts';
import { change, type Who } from '../trail/change.ts';
import { type Bound, enveloped, taken } from './envelope.ts';
import { Servers } from './servers.ts';
import { handoverTable, keyStoreTable } from './tables.ts';
import { newStoreKey, unwrap, wrap } from './wrapping.ts';

export interface VaultApp extends TrailApp {
  settings: Settings;
  live: { nudge(): void };
}

type StoreRow = typeof keyStoreTable.$inferSelect;

/** What can be done while the store is open. */
export interface Open {
  seal(plain: Uint8Array, bound: Bound): string;
  open(text: string, bound: Bound): Uint8Array;
}

export interface StoreState {
  set: boolean;
  open: boolean;
  openedBy: string | null;
  openedAt: Date | null;
  /** When it locks by itself unless something is done with it. */
  locksAt: Date | null;
  setAt: Date | null;
  revision: number;
  /** The servers that run, and whether each holds the store key. */
  servers: { name: string; holds: boolean; self: boolean }[];
}

const isLocked = () =>
  new HttpProblem(423, {
    code: 'store-locked',
    message: 'The key store is locked.',
    hint: 'A key custodian unlocks it with its passphrase on the screen Keys.',
  });

const wrongPassphrase = (field: string) =>
  new HttpProblem(422, { code: 'passphrase', message: 'The passphrase is not right.', where: { field } });

export class Vault {
  private readonly servers: Servers;
  private readonly held = new Map<string, { openId: string; key: Uint8Array }>();

  constructor(private readonly app: () => VaultApp) {
    this.servers = new Servers(app);
  }

  private get idleMs(): number {
    return this.app().settings.keyStoreIdleMinutes * 60_000;
  }

  private async row(db: Queryable, siteId: string): Promise<StoreRow | undefined> {
    return (await db.select().from(keyStoreTable).where(eq(keyStoreTable.siteId, siteId)))[0];
  }

  /** Whether an opening still lasts. */
  private lasts({ openId, usedAt }: StoreRow): boolean {
    return openId !== null && usedAt !== null && isWithin(usedAt, this.idleMs);
  }

  async state(siteId: string): Promise<StoreState> {
    const { db } = this.app();
    await this.servers.look();
    const row = await this.row(db, siteId);
    const lasting = row !== undefined && this.lasts(row);
    const running = await this.servers.running();
    const holding = lasting ? await this.servers.holding({ siteId, openId: row.openId! }) : new Set<string>();
    const servers = running.map(({ id, name }) => ({
      name,
      self: id === this.servers.id,
      holds: id === this.servers.id ? lasting && this.holds(row) : holding.has(id),
    }));
    const open = servers.some(({ holds }) => holds);
    return {
      set: row !== undefined,
      open,
      openedBy: open ? row!.openedBy : null,
      openedAt: open ? row!.openedAt : null,
      locksAt: open ? new Date(row!.usedAt!.getTime() + this.idleMs) : null,
      setAt: row?.setAt ?? null,
      revision: row?.revision ?? 0,
      servers,
    };
  }

  private holds({ siteId, openId }: StoreRow): boolean {
    return openId !== null && this.held.get(siteId)?.openId === openId;
  }

  /** Makes a store with its key and leaves it open. Throws `store-there` where the site has one. */
  async make(who: Who, siteId: string, passphrase: Secret): Promise<void> {
    const key = newStoreKey();
    const made = await wrap(siteId, 1, key, passphrase);
    const openId = newId();
    const now = new Date();
    await change(this.app(), who, siteId, async (tx, record) => {
      const [added] = await tx
        .insert(keyStoreTable)
        .ignore()
        .values({
          ...made,
          setBy: who.name,
          setAt: now,
          openId,
          openedBy: who.name,
          openedAt: now,
          usedAt: now,
        });
      if (added.affectedRows !== 1) throw conflict('store-there', 'This site has a key store already.', 'Unlock it.');
      record.trail({ action: 'key store made', subject: 'key store' });
      record.announce('keys');
    });
    await this.hold(siteId, openId, key);
  }

  /** The store key by its passphrase; throws `passphrase` where that is not right, having said so in the trail. */
  private async keyBy(who: Who, row: StoreRow, passphrase: Secret, field: string): Promise<Uint8Array> {
    try {
      return await unwrap(row, passphrase);
    } catch {
      await change(this.app(), { id: who.id, name: who.name }, row.siteId, async (_tx, record) =>
        record.trail({ action: 'wrong passphrase', subject: 'key store' }),
      );
      throw wrongPassphrase(field);
    }
  }

  private async must(siteId: string): Promise<StoreRow> {
    const row = await this.row(this.app().db, siteId);
    if (!row) throw conflict('no-store', 'This site has no key store yet.', 'Make one on the screen Keys.');
    return row;
  }

  async unlock(who: Who, siteId: string, passphrase: Secret): Promise<void> {
    const row = await this.must(siteId);
    const key = await this.keyBy(who, row, passphrase, 'passphrase');
    const openId = await change(this.app(), who, siteId, async (tx, record) => {
      const own = eq(keyStoreTable.siteId, siteId);
      const [now] = await tx.select().from(keyStoreTable).where(own).for('update');
      if (!now || now.revision !== row.revision) throw wrongPassphrase('passphrase');
      const lasting = this.lasts(now) ? now.openId! : newId();
      const at = new Date();
      await tx.update(keyStoreTable).set({ openId: lasting, openedBy: who.name, openedAt: at, usedAt: at }).where(own);
      record.trail({ action: 'key store unlocked', subject: 'key store' });
      record.announce('keys');
      return lasting;
    });
    await this.hold(siteId, openId, key);
  }

  /** Keeps a store key in memory, and hands it to the others. */
  private async hold(siteId: string, openId: string, key: Uint8Array): Promise<void> {
    if (this.held.get(siteId)?.openId === openId) key.fill(0);
    else {
      this.drop(siteId);
      this.held.set(siteId, { openId, key });
    }
    await this.servers.noteHeld({ siteId, openId });
    await this.servers.look();
    await this.handOver(siteId);
  }

  private drop(siteId: string): void {
    this.held.get(siteId)?.key.fill(0);
    this.held.delete(siteId);
  }

  /** Locks the store for every server; `why` stands in the trail. */
  async lock(who: Who, siteId: string, why: string): Promise<void> {
    await change(this.app(), who, siteId, async (tx, record) => {
      const own = and(eq(keyStoreTable.siteId, siteId), sql`${keyStoreTable.openId} IS NOT NULL`);
      const [locked] = await tx.update(keyStoreTable).set({ openId: null }).where(own);
      if (locked.affectedRows === 0) return;
      await tx.delete(handoverTable).where(eq(handoverTable.siteId, siteId));
      record.trail({ action: 'key store locked', subject: 'key store', after: { why } });
      record.announce('keys');
    });
    this.drop(siteId);
  }

  async changePassphrase(who: Who, siteId: string, current: Secret, next: Secret): Promise<void> {
    const row = await this.must(siteId);
    const key = await this.keyBy(who, row, current, 'current');
    const made = await wrap(siteId, row.revision + 1, key, next);
    key.fill(0);
    await change(this.app(), who, siteId, async (tx, record) => {
      const [set] = await tx
        .update(keyStoreTable)
        .set({ ...made, setBy: who.name, setAt: new Date() })
        .where(and(eq(keyStoreTable.siteId, siteId), eq(keyStoreTable.revision, row.revision)));
      if (set.affectedRows !== 1)
        throw conflict('passphrase-changed', 'Somebody changed the passphrase meanwhile.', 'Ask them for it.');
      record.trail({ action: 'passphrase changed', subject: 'key store', after: { revision: made.revision } });
      record.announce('keys');
    });
  }

  /** Gives the store up, with everything that was enveloped under its key: nothing opens that any more. */
  async giveUp(tx: Queryable, siteId: string): Promise<void> {
    await tx.delete(keyStoreTable).where(eq(keyStoreTable.siteId, siteId));
    await tx.delete(handoverTable).where(eq(handoverTable.siteId, siteId));
  }

  /** What can be done with the open store; throws 423 `store-locked` where it is not open. Counts as a use. */
  async open(siteId: string): Promise<Open> {
    const row = await this.must(siteId);
    if (!this.lasts(row)) throw isLocked();
    if (!this.holds(row)) await this.take(row);
    const held = this.held.get(siteId);
    if (!held || held.openId !== row.openId) throw isLocked();
    const now = Date.now();
    if (now - row.usedAt!.getTime() > Math.min(10_000, this.idleMs / 10))
      await this.app()
        .db.update(keyStoreTable)
        .set({ usedAt: new Date(now) })
        .where(and(eq(keyStoreTable.siteId, siteId), eq(keyStoreTable.openId, row.openId!)));
    const { openId } = held;
    /** Locked since, there is no key any more: what was the key is overwritten. */
    const key = () => {
      const now = this.held.get(siteId);
      if (now?.openId !== openId) throw isLocked();
      return now.key;
    };
    return {
      seal: (plain, bound) => enveloped(key(), plain, [siteId, ...bound]),
      open: (text, bound) => taken(key(), text, [siteId, ...bound]),
    };
  }

  /** Takes what another server has handed to this one. */
  private async take({ siteId, openId }: StoreRow): Promise<void> {
    if (openId === null) return;
    const key = await this.servers.taken({ siteId, openId });
    if (!key) return;
    this.drop(siteId);
    this.held.set(siteId, { openId, key });
    await this.servers.noteHeld({ siteId, openId });
  }

  /** Hands a store key that this server holds to those that have none. */
  private async handOver(siteId: string): Promise<void> {
    const held = this.held.get(siteId);
    if (held) await this.servers.handOver({ siteId, openId: held.openId }, held.key);
  }

  /** Looked after from time to time: what was locked elsewhere is forgotten, what lies idle locked, the rest handed on. */
  async keep(): Promise<void> {
    const { db } = this.app();
    await this.servers.look();
    const rows = await db.select().from(keyStoreTable).where(sql`${keyStoreTable.openId} IS NOT NULL`);
    for (const siteId of this.held.keys())
      if (!rows.some((row) => row.siteId === siteId && this.holds(row))) this.drop(siteId);
    for (const row of rows)
      if (!this.lasts(row)) await this.lock({ id: 'server', name: 'Raw Bits' }, row.siteId, 'it lay idle');
      else if (this.holds(row)) await this.handOver(row.siteId);
      else await this.take(row);
    await this.servers.forgetGone();
  }

  /** Forgets everything that it holds. */
  async close(): Promise<void> {
    for (const siteId of [...this.held.keys()]) this.drop(siteId);
    await this.servers.forget([this.servers.id]).catch(() => {});
  }
}
