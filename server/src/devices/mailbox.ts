/**
 * Calls to a host that is connected to another server: put down in the database, taken from there by the server that has
 * the line, and answered there: the first after a while within 0.3 s more than a call of one's own, the next within 0.05 s.
 */
import type { WireAnswer, WireMethod, WireParams } from '@rawbits/api';
import { and, asc, eq, inArray, isNull, lt } from 'drizzle-orm';
import { type Database, newId } from '../platform/database/index.ts';
import { HostRefusal, sentenceFor } from '../platform/problem/sentence.ts';
import { deviceCallTable } from './tables.ts';

const ASK_MS = { first: 20, later: 100 };
/** How often the server that has a line looks for calls: seldom where there have been none for a while. */
const LOOK_MS = { often: 50, seldom: 300 };
const BUSY_MS = 5000;
const FORGOTTEN_MS = 120_000;

/**
 * Puts a call down for the server that has the line, and waits for its answer. Gives `is here` where nobody has taken it
 * and the host has dialled in to this server meanwhile.
 */
export async function callElsewhere<M extends WireMethod>(
  db: Database,
  host: { id: string; name: string },
  method: M,
  params: WireParams<M> | { sealed: string; mac: string },
  withinMs: number,
  isHere: () => boolean,
): Promise<WireAnswer<M> | 'is here'> {
  const id = newId();
  const own = eq(deviceCallTable.id, id);
  await db.insert(deviceCallTable).values({ id, hostId: host.id, method, params, at: new Date() });
  try {
    const until = performance.now() + withinMs;
    for (let tries = 0; performance.now() < until; tries++) {
      await new Promise((resolve) => setTimeout(resolve, tries < 10 ? ASK_MS.first : ASK_MS.later));
      if (isHere()) {
        const [back] = await db.delete(deviceCallTable).where(and(own, isNull(deviceCallTable.takenBy)));
        if (back.affectedRows > 0) return 'is here';
      }
      const [row] = await db.select({ answer: deviceCallTable.answer }).from(deviceCallTable).where(own);
      const answer = row?.answer as
        | { result: WireAnswer<M> }
        | { error: string | { message: string; code?: string } }
        | null
        | undefined;
      if (!answer) continue;
      if (!('error' in answer)) return answer.result;
      // A server of an earlier version sends the sentence alone.
      const { error } = answer;
      throw typeof error === 'string' ? new HostRefusal(error) : new HostRefusal(error.message, error.code);
    }
    throw new HostRefusal(`${host.name} does not answer.`);
  } finally {
    await db
      .delete(deviceCallTable)
      .where(own)
      .catch(() => {});
  }
}

type Carry = (hostId: string, method: WireMethod, params: unknown) => Promise<unknown>;

/** Takes what other servers put down for hosts whose line is here. */
export class Mailbox {
  private timer: NodeJS.Timeout | undefined;
  private closed = false;
  private lastCallAt = -BUSY_MS;

  constructor(
    private readonly db: () => Database,
    private readonly server: string,
    private readonly hosts: () => string[],
    private readonly carry: Carry,
  ) {}

  /** Begins to look, now that there is a line. */
  look(): void {
    if (this.closed || this.timer) return;
    this.timer = setTimeout(
      () =>
        void this.turn()
          .catch(() => {})
          .finally(() => {
            this.timer = undefined;
            if (this.hosts().length > 0) this.look();
          }),
      performance.now() - this.lastCallAt < BUSY_MS ? LOOK_MS.often : LOOK_MS.seldom,
    );
    this.timer.unref();
  }

  private async turn(): Promise<void> {
    const hosts = this.hosts();
    if (hosts.length === 0) return;
    const waiting = await this.db()
      .select()
      .from(deviceCallTable)
      .where(and(inArray(deviceCallTable.hostId, hosts), isNull(deviceCallTable.takenBy)))
      .orderBy(asc(deviceCallTable.at))
      .limit(50);
    if (waiting.length > 0) this.lastCallAt = performance.now();
    for (const { id, hostId, method, params } of waiting) {
      const [taken] = await this.db()
        .update(deviceCallTable)
        .set({ takenBy: this.server })
        .where(and(eq(deviceCallTable.id, id), isNull(deviceCallTable.takenBy)));
      if (taken.affectedRows > 0) void this.answer(id, hostId, method as WireMethod, params);
    }
  }

  private async answer(id: string, hostId: string, method: WireMethod, params: unknown): Promise<void> {
    const answer = await this.carry(hostId, method, params).then(
      (result) => ({ result }),
      (error: unknown) => ({ error: { message: sentenceFor(error), code: (error as { code?: string }).code } }),
    );
    await this.db()
      .update(deviceCallTable)
      .set({ answer })
      .where(eq(deviceCallTable.id, id))
      .catch(() => {});
  }

  /** Takes away what nobody waits for any more: the server that asked stopped. */
  async forget(): Promise<void> {
    await this.db()
      .delete(deviceCallTable)
      .where(lt(deviceCallTable.at, new Date(Date.now() - FORGOTTEN_MS)));
  }

  close(): void {
    this.closed = true;
    clearTimeout(this.timer);
  }
}
