/**
 * Live feed over server-sent events. Every server reads the feed from the database by number; the numbers of one site
 * are given in their order when the record is sealed, so a reader that goes on after the last number it saw loses and repeats nothing, on whichever
 * server it comes back. The database is asked once a site and round, however many listen.
 */

import { and, asc, eq, gt, lt, max, min, sql } from 'drizzle-orm';
import type { Response } from 'express';
import type { Database } from '../database/index.ts';
import { HttpProblem } from '../problem/problem.ts';
import { stillListening } from '../session/sessions.ts';
import type { Settings } from '../settings/settings.ts';
import { feedTable } from './tables.ts';

const POLL_MS = 700;
const CHECK_MS = 2000;
const HEARTBEAT_MS = 15_000;
const KEEP_MS = 3 * 86_400_000;
const BATCH = 200;
/** Streams of one operator on one server: a few tabs on a few machines. */
export const MOST_STREAMS = 8;
/** A listener that takes nothing off its line is let go before what waits for it fills the memory. */
const MOST_UNSENT_BYTES = 1_000_000;

export interface Listening {
  siteId: string;
  operatorId: string;
  tokenHash: string;
}

interface Listener extends Listening {
  last: number;
  response: Response;
}

interface Channel {
  listeners: Set<Listener>;
  busy: boolean;
  /** Something was committed while it was being read. */
  again: boolean;
}

export class LiveHub {
  private readonly channels = new Map<string, Channel>();
  private readonly perOperator = new Map<string, number>();
  private readonly timers: NodeJS.Timeout[];

  constructor(
    private readonly db: Database,
    private readonly settings: Settings,
  ) {
    this.timers = [
      setInterval(() => this.nudge(), POLL_MS),
      setInterval(() => void this.checkNow(), CHECK_MS),
      setInterval(() => this.each(({ response }) => void response.write(': alive\n\n')), HEARTBEAT_MS),
      setInterval(() => void this.prune().catch(() => {}), 3_600_000),
    ];
    for (const timer of this.timers) timer.unref();
  }

  private each(act: (listener: Listener) => void): void {
    for (const { listeners } of [...this.channels.values()]) for (const listener of [...listeners]) act(listener);
  }

  /** How many streams are open. */
  get streams(): number {
    let count = 0;
    for (const { listeners } of this.channels.values()) count += listeners.size;
    return count;
  }

  /** Something was sealed here: look now rather than at the next poll. */
  nudge(): void {
    for (const [siteId, channel] of this.channels) void this.deliver(siteId, channel);
  }

  /** Ends the streams of sessions at once. */
  endOf(tokenHashes: readonly string[]): void {
    this.each((listener) => tokenHashes.includes(listener.tokenHash) && listener.response.end());
  }

  /** Ends the streams of whoever may not listen any more; asked again and again, and after a change of rights. */
  async checkNow(): Promise<void> {
    try {
      for (const [siteId, { listeners }] of [...this.channels]) {
        const hashes = [...new Set([...listeners].map(({ tokenHash }) => tokenHash))];
        const allowed = await stillListening({ db: this.db, settings: this.settings }, siteId, hashes);
        for (const { tokenHash, response } of [...listeners])
          if (hashes.includes(tokenHash) && !allowed.has(tokenHash)) response.end();
      }
    } catch {
      // The database is away for a moment: nothing is delivered either.
    }
  }

  /** Streams a site's feed after `last`, or from now on. Resolves when the stream has begun; throws 429 past 8 of them. */
  async listen(response: Response, who: Listening, last: number | undefined): Promise<void> {
    const leave = this.admit(who.operatorId);
    response.once('close', leave);
    try {
      await this.begin(response, who, last);
    } catch (error) {
      leave();
      throw error;
    }
  }

  private admit(operatorId: string): () => void {
    const open = this.perOperator.get(operatorId) ?? 0;
    if (open >= MOST_STREAMS)
      throw new HttpProblem(
        429,
        {
          code: 'streams',
          message: `You have Raw Bits open in ${open} places already; this one does not show what happens by itself.`,
          hint: 'Close some of the others.',
        },
        30,
      );
    this.perOperator.set(operatorId, open + 1);
    let left = false;
    return () => {
      if (left) return;
      left = true;
      const now = this.perOperator.get(operatorId)! - 1;
      if (now > 0) this.perOperator.set(operatorId, now);
      else this.perOperator.delete(operatorId);
    };
  }

  private async begin(response: Response, who: Listening, last: number | undefined): Promise<void> {
    const { siteId } = who;
    const [bounds] = await this.db
      .select({ oldest: min(feedTable.seq), newest: max(feedTable.seq) })
      .from(feedTable)
      .where(eq(feedTable.siteId, siteId));
    const newest = Number(bounds?.newest ?? 0);
    const lost = last !== undefined && (last > newest || last < Number(bounds?.oldest ?? 1) - 1);
    response.writeHead(200, {
      'content-type': 'text/event-stream; charset=utf-8',
      'cache-control': 'no-store',
      'x-accel-buffering': 'no',
    });
    const start = last === undefined || lost ? newest : last;
    response.write(`retry: 1500\nid: ${start}\nevent: ${lost ? 'reset' : 'hello'}\ndata: {"seq":${start}}\n\n`);
    if (response.destroyed) return;
    const listener: Listener = { ...who, last: start, response };
    const channel = this.channels.get(siteId) ?? { listeners: new Set(), busy: false, again: false };
    this.channels.set(siteId, channel);
    channel.listeners.add(listener);
    response.on('close', () => {
      channel.listeners.delete(listener);
      if (channel.listeners.size === 0 && this.channels.get(siteId) === channel) this.channels.delete(siteId);
    });
    void this.deliver(siteId, channel);
  }

  private async deliver(siteId: string, channel: Channel): Promise<void> {
    if (channel.busy) {
      channel.again = true;
      return;
    }
    channel.busy = true;
    try {
      do {
        channel.again = false;
        while (await this.deliverPage(siteId, channel)) {
          // A full page: there is more.
        }
      } while (channel.again);
    } catch {
      // The database is away for a moment; the next poll goes on from the same number.
    } finally {
      channel.busy = false;
    }
  }

  /** Sends one page after the last number that the hindmost listener has seen; whether there may be more. */
  private async deliverPage(siteId: string, { listeners }: Channel): Promise<boolean> {
    if (listeners.size === 0) return false;
    const from = Math.min(...[...listeners].map(({ last }) => last));
    const entries = await this.db
      .select({ seq: sql<number>`${feedTable.seq}`.mapWith(Number), kind: feedTable.kind, data: feedTable.data })
      .from(feedTable)
      .where(and(eq(feedTable.siteId, siteId), gt(feedTable.seq, from)))
      .orderBy(asc(feedTable.seq))
      .limit(BATCH);
    const texts = entries.map(({ seq, kind, data }) => ({
      seq,
      text: `id: ${seq}\nevent: change\ndata: ${JSON.stringify({ seq, kind, data })}\n\n`,
    }));
    for (const listener of listeners) {
      // One that came while this page was read may be further behind than it begins: it takes the next one.
      if (listener.last < from) continue;
      for (const { seq, text } of texts) {
        if (seq <= listener.last) continue;
        listener.response.write(text);
        listener.last = seq;
      }
      if (listener.response.writableLength > MOST_UNSENT_BYTES) listener.response.destroy();
    }
    return entries.length === BATCH || [...listeners].some(({ last }) => last < from);
  }

  private async prune(): Promise<void> {
    await this.db.delete(feedTable).where(lt(feedTable.at, new Date(Date.now() - KEEP_MS)));
  }

  close(): void {
    for (const timer of this.timers) clearInterval(timer);
    this.each(({ response }) => void response.end());
  }
}
