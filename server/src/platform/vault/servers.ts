/**
 * The servers of an installation, as each sees the others: that they run, under which key something can be handed to them
 * alone, and store keys on their way from one to another.
 */
import { hostname } from 'node:os';
import { newPair, type OwnPair, openedWith, sealedTo } from '@rawbits/api/sealed';
import { and, eq, inArray } from 'drizzle-orm';
import { dbNow, heardWithin, newId, silentFor } from '../database/index.ts';
import type { KeepingApp } from '../trail/app.ts';
import { macHolds, macOf } from './handover.ts';
import { handoverTable, vaultServerTable } from './tables.ts';
import { STORE_KEY_BYTES } from './wrapping.ts';

/** A server counts as running for so long after it was heard. */
const HEARD_MS = 30_000;
const HEARD_AGAIN_MS = 8_000;

/** An opening of a site's store. */
interface Opening {
  siteId: string;
  openId: string;
}

const aboutOf = ({ siteId, openId }: Opening): string => `rawbits store key ${siteId} ${openId}`;

export class Servers {
  readonly id = newId();
  private readonly name = `${hostname()} · ${process.pid}`.slice(0, 120);
  private pair?: Promise<OwnPair>;
  private heardAt = -HEARD_AGAIN_MS;

  constructor(private readonly app: () => Pick<KeepingApp, 'db' | 'trail'>) {}

  private ownPair(): Promise<OwnPair> {
    this.pair ??= newPair();
    return this.pair;
  }

  /** Says that this server runs. */
  async look(): Promise<void> {
    if (performance.now() - this.heardAt < HEARD_AGAIN_MS) return;
    const { db, trail } = this.app();
    const { publicKey } = await this.ownPair();
    const row = { id: this.id, name: this.name, publicKey, mac: macOf(trail, 'server', this.id, publicKey) };
    await db
      .insert(vaultServerTable)
      .values({ ...row, heardAt: dbNow })
      .onDuplicateKeyUpdate({ set: { heardAt: dbNow } });
    this.heardAt = performance.now();
  }

  /** Those that run, and are ones: what is not keyed by the trail's key was made up. */
  async running() {
    const { db, trail } = this.app();
    const heard = heardWithin(vaultServerTable.heardAt, HEARD_MS);
    const rows = await db.select().from(vaultServerTable).where(heard).orderBy(vaultServerTable.name);
    return rows.filter(({ mac, id, publicKey }) => macHolds(mac, macOf(trail, 'server', id, publicKey)));
  }

  /** Those that hold the key of an opening. */
  async holding({ siteId, openId }: Opening): Promise<Set<string>> {
    const of = and(eq(handoverTable.siteId, siteId), eq(handoverTable.openId, openId), eq(handoverTable.sealed, ''));
    const rows = await this.app().db.select({ id: handoverTable.serverId }).from(handoverTable).where(of);
    return new Set(rows.map(({ id }) => id));
  }

  async noteHeld(opening: Opening): Promise<void> {
    const { db, trail } = this.app();
    const mac = macOf(trail, 'held', this.id, opening.siteId, opening.openId);
    const row = { serverId: this.id, ...opening, sealed: '', mac };
    await db.insert(handoverTable).values(row).onDuplicateKeyUpdate({ set: row });
  }

  /** Hands a store key to the running ones that have none of this opening. */
  async handOver(opening: Opening, key: Uint8Array): Promise<void> {
    const { db, trail } = this.app();
    const { siteId, openId } = opening;
    const there = await db.select().from(handoverTable).where(eq(handoverTable.siteId, siteId));
    for (const { id, publicKey } of await this.running()) {
      if (id === this.id || there.some((row) => row.serverId === id && row.openId === openId)) continue;
      const sealed = await sealedTo(publicKey, key, aboutOf(opening));
      const row = { serverId: id, siteId, openId, sealed, mac: macOf(trail, 'sealed', id, siteId, openId, sealed) };
      await db.insert(handoverTable).values(row).onDuplicateKeyUpdate({ set: row });
    }
  }

  /** What another server has handed to this one; undefined where that is nothing, or not what it should be. */
  async taken(opening: Opening): Promise<Uint8Array | undefined> {
    const { db, trail } = this.app();
    const { siteId, openId } = opening;
    const own = and(eq(handoverTable.serverId, this.id), eq(handoverTable.siteId, siteId));
    const [row] = await db.select().from(handoverTable).where(own);
    if (!row || row.openId !== openId || row.sealed === '') return undefined;
    if (!macHolds(row.mac, macOf(trail, 'sealed', this.id, siteId, openId, row.sealed))) return undefined;
    const key = await openedWith(await this.ownPair(), row.sealed, aboutOf(opening));
    return key?.length === STORE_KEY_BYTES ? key : undefined;
  }

  /** Forgets those that have not been heard for long. */
  async forgetGone(): Promise<void> {
    const gone = silentFor(vaultServerTable.heardAt, 10 * HEARD_MS);
    const lost = await this.app().db.select({ id: vaultServerTable.id }).from(vaultServerTable).where(gone);
    await this.forget(lost.map(({ id }) => id));
  }

  async forget(ids: string[]): Promise<void> {
    if (ids.length === 0) return;
    const { db } = this.app();
    await db.delete(handoverTable).where(inArray(handoverTable.serverId, ids));
    await db.delete(vaultServerTable).where(inArray(vaultServerTable.id, ids));
  }
}
