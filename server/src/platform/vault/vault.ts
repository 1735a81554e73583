/**
 * The vault: one store key a site, under which everything secret of that site is enveloped. The store key itself is
 * enveloped under a key that comes of a passphrase. While the store is open the servers hold it in memory: the one that
 * was given the passphrase hands it to the others. It is locked by whoever locks it, after a while without use, and when
 * the last server that holds it ends; then it stands nowhere but under the passphrase.
 */
import { randomBytes } from 'node:crypto';
import { hostname } from 'node:os';
import type { Secret } from '@rawbits/core/secret';
import { and, eq, gt, inArray, lt, sql } from 'drizzle-orm';
import { newId, type Queryable } from '../database/index.ts';
import { conflict, HttpProblem } from '../problem/problem.ts';
import type { Settings } from '../settings/settings.ts';
import type { TrailApp } from '../trail/app.ts';
import { change, type Who } from '../trail/change.ts';
import { type Derivation, derived, USUAL } from './derive.ts';
import { type Bound, enveloped, taken } from './envelope.ts';
import { macHolds, macOf, newPair, type OwnPair, sealedTo, takenWith } from './handover.ts';
import { handoverTable, keyStoreTable, vaultServerTable } from './tables.ts';

export interface VaultApp extends TrailApp {
  settings: Settings;
  live: { nudge(): void };
}

/** A server counts as running for so long after it was heard. */
const HEARD_MS = 30_000;
const HEARD_AGAIN_MS = 8_000;
const STORE_KEY_BYTES = 32;

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

const wrappedAs = (siteId: string, revision: number, { salt, memoryKib, passes, lanes }: Derivation): Bound => [
  'store key',
  siteId,
  String(revision),
  salt,
  String(memoryKib),
  String(passes),
  String(lanes),
];

const isLocked = () =>
  new HttpProblem(423, {
    code: 'store-locked',
    message: 'The key store is locked.',
    hint: 'A key custodian unlocks it with its passphrase on the screen Keys.',
  });

const wrongPassphrase = (field: string) =>
  new HttpProblem(422, { code: 'passphrase', message: 'The passphrase is not right.', where: { field } });

export class Vault {
  readonly id = newId();
  private readonly name = `${hostname()} · ${process.pid}`.slice(0, 120);
  private readonly held = new Map<string, { openId: string; key: Uint8Array }>();
  private pair?: Promise<OwnPair>;
  private heardAt = 0;

  constructor(private readonly app: () => VaultApp) {}

  private get idleMs(): number {
    return this.app().settings.keyStoreIdleMinutes * 60_000;
  }

  private async row(db: Queryable, siteId: string): Promise<StoreRow | undefined> {
    return (await db.select().from(keyStoreTable).where(eq(keyStoreTable.siteId, siteId)))[0];
  }

  /** Whether an opening still lasts. */
  private lasts({ openId, usedAt }: StoreRow): boolean {
    return openId !== null && usedAt !== null && Date.now() - usedAt.getTime() < this.idleMs;
  }

  async state(siteId: string): Promise<StoreState> {
    const { db } = this.app();
    await this.look();
    const row = await this.row(db, siteId);
    const lasting = row !== undefined && this.lasts(row);
    const running = await this.running();
    const holding = lasting
      ? await db
          .select({ id: handoverTable.serverId, sealed: handoverTable.sealed })
          .from(handoverTable)
          .where(and(eq(handoverTable.siteId, siteId), eq(handoverTable.openId, row.openId!)))
      : [];
    const servers = running.map(({ id, name }) => ({
      name,
      self: id === this.id,
      holds: id === this.id ? lasting && this.holds(row) : holding.some((h) => h.id === id && h.sealed === ''),
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
    const key = randomBytes(STORE_KEY_BYTES);
    const made = await this.wrap(siteId, 1, key, passphrase);
    const openId = newId();
    const now = new Date();
    await change(this.app(), who, siteId, async (tx, record) => {
      const [added] = await tx
        .insert(keyStoreTable)
        .ignore()
        .values({
          siteId,
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
    await this.hold(siteId, openId, new Uint8Array(key));
  }

  private async wrap(siteId: string, revision: number, key: Uint8Array, passphrase: Secret) {
    const how: Derivation = { salt: randomBytes(16).toString('hex'), ...USUAL };
    const wrapping = await derived(passphrase, how);
    const wrapped = enveloped(wrapping, key, wrappedAs(siteId, revision, how));
    wrapping.fill(0);
    return { ...how, wrapped, revision };
  }

  /** The store key by its passphrase; throws `passphrase` where that is not right, having said so in the trail. */
  private async unwrap(who: Who, row: StoreRow, passphrase: Secret, field: string): Promise<Uint8Array> {
    const wrapping = await derived(passphrase, row);
    try {
      return taken(wrapping, row.wrapped, wrappedAs(row.siteId, row.revision, row));
    } catch {
      await change(this.app(), { id: who.id, name: who.name }, row.siteId, async (_tx, record) =>
        record.trail({ action: 'wrong passphrase', subject: 'key store' }),
      );
      throw wrongPassphrase(field);
    } finally {
      wrapping.fill(0);
    }
  }

  private async must(siteId: string): Promise<StoreRow> {
    const row = await this.row(this.app().db, siteId);
    if (!row) throw conflict('no-store', 'This site has no key store yet.', 'Make one on the screen Keys.');
    return row;
  }

  async unlock(who: Who, siteId: string, passphrase: Secret): Promise<void> {
    const row = await this.must(siteId);
    const key = await this.unwrap(who, row, passphrase, 'passphrase');
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
    this.drop(siteId);
    this.held.set(siteId, { openId, key });
    await this.noteHeld(siteId, openId);
    await this.look();
    await this.handOver(siteId);
  }

  private drop(siteId: string): void {
    this.held.get(siteId)?.key.fill(0);
    this.held.delete(siteId);
  }

  private async noteHeld(siteId: string, openId: string): Promise<void> {
    const { db, trail } = this.app();
    const mac = macOf(trail, 'held', this.id, siteId, openId);
    const row = { serverId: this.id, siteId, openId, sealed: '', mac };
    await db.insert(handoverTable).values(row).onDuplicateKeyUpdate({ set: row });
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
    const key = await this.unwrap(who, row, current, 'current');
    const made = await this.wrap(siteId, row.revision + 1, key, next);
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
    const { key } = held;
    return {
      seal: (plain, bound) => enveloped(key, plain, [siteId, ...bound]),
      open: (text, bound) => taken(key, text, [siteId, ...bound]),
    };
  }

  /** Takes what another server has handed to this one. */
  private async take({ siteId, openId }: StoreRow): Promise<void> {
    const { db, trail } = this.app();
    const own = and(eq(handoverTable.serverId, this.id), eq(handoverTable.siteId, siteId));
    const [row] = await db.select().from(handoverTable).where(own);
    if (!row || openId === null || row.openId !== openId || row.sealed === '') return;
    if (!macHolds(row.mac, macOf(trail, 'sealed', this.id, siteId, openId, row.sealed))) return;
    const key = await takenWith(await this.ownPair(), row.sealed, aboutOf(siteId, openId));
    if (key?.length !== STORE_KEY_BYTES) return;
    this.drop(siteId);
    this.held.set(siteId, { openId, key });
    await this.noteHeld(siteId, openId);
  }

  private ownPair(): Promise<OwnPair> {
    this.pair ??= newPair();
    return this.pair;
  }

  private async running() {
    const { db, trail } = this.app();
    const heard = gt(vaultServerTable.heardAt, new Date(Date.now() - HEARD_MS));
    const rows = await db.select().from(vaultServerTable).where(heard).orderBy(vaultServerTable.name);
    return rows.filter(({ mac, id, publicKey }) => macHolds(mac, macOf(trail, 'server', id, publicKey)));
  }

  /** Says that this server runs. */
  private async look(): Promise<void> {
    if (Date.now() - this.heardAt < HEARD_AGAIN_MS) return;
    const { db, trail } = this.app();
    const { publicKey } = await this.ownPair();
    const heardAt = new Date();
    const row = { id: this.id, name: this.name, publicKey, mac: macOf(trail, 'server', this.id, publicKey), heardAt };
    await db.insert(vaultServerTable).values(row).onDuplicateKeyUpdate({ set: { heardAt } });
    this.heardAt = heardAt.getTime();
  }

  /** Hands a store key that this server holds to the running ones that have none. */
  private async handOver(siteId: string): Promise<void> {
    const held = this.held.get(siteId);
    if (!held) return;
    const { db, trail } = this.app();
    const { openId, key } = held;
    const there = await db.select().from(handoverTable).where(eq(handoverTable.siteId, siteId));
    for (const { id, publicKey } of await this.running()) {
      if (id === this.id || there.some((row) => row.serverId === id && row.openId === openId)) continue;
      const sealed = await sealedTo(publicKey, key, aboutOf(siteId, openId));
      const row = { serverId: id, siteId, openId, sealed, mac: macOf(trail, 'sealed', id, siteId, openId, sealed) };
      await db.insert(handoverTable).values(row).onDuplicateKeyUpdate({ set: row });
    }
  }

  /** Looked after from time to time: what was locked elsewhere is forgotten, what lies idle locked, the rest handed on. */
  async keep(): Promise<void> {
    const { db } = this.app();
    await this.look();
    const rows = await db.select().from(keyStoreTable).where(sql`${keyStoreTable.openId} IS NOT NULL`);
    for (const siteId of this.held.keys())
      if (!rows.some((row) => row.siteId === siteId && this.holds(row))) this.drop(siteId);
    for (const row of rows)
      if (!this.lasts(row)) await this.lock({ id: 'server', name: 'Raw Bits' }, row.siteId, 'it lay idle');
      else if (this.holds(row)) await this.handOver(row.siteId);
      else await this.take(row);
    const gone = lt(vaultServerTable.heardAt, new Date(Date.now() - 10 * HEARD_MS));
    const lost = await db.select({ id: vaultServerTable.id }).from(vaultServerTable).where(gone);
    await this.forget(lost.map(({ id }) => id));
  }

  private async forget(ids: string[]): Promise<void> {
    if (ids.length === 0) return;
    const { db } = this.app();
    await db.delete(handoverTable).where(inArray(handoverTable.serverId, ids));
    await db.delete(vaultServerTable).where(inArray(vaultServerTable.id, ids));
  }

  /** Forgets everything that it holds. */
  async close(): Promise<void> {
    for (const siteId of [...this.held.keys()]) this.drop(siteId);
    await this.forget([this.id]).catch(() => {});
  }
}

const aboutOf = (siteId: string, openId: string): string => `rawbits store key ${siteId} ${openId}`;
