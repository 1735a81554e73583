/**
 * Live feed over server-sent events. Every server reads the feed from the database by number; the numbers of one site
 * commit in their order, so a reader that goes on after the last number it saw loses and repeats nothing, on whichever
 * server it comes back.
 */
import { and, asc, eq, gt, lt, max, min } from 'drizzle-orm';
import type { Response } from 'express';
import { type Database, tables } from '../database/index.ts';

const POLL_MS = 700;
const HEARTBEAT_MS = 15_000;
const KEEP_MS = 3 * 86_400_000;
const BATCH = 200;

interface Listener {
  siteId: string;
  last: number;
  busy: boolean;
  response: Response;
}

export class LiveHub {
  private readonly listeners = new Set<Listener>();
  private readonly timers: NodeJS.Timeout[];

  constructor(private readonly db: Database) {
    this.timers = [
      setInterval(() => this.nudge(), POLL_MS),
      setInterval(() => void this.prune().catch(() => {}), 3_600_000),
    ];
    for (const timer of this.timers) timer.unref();
  }

  /** Something was committed here: look now rather than at the next poll. */
  nudge(): void {
    for (const listener of this.listeners) void this.deliver(listener);
  }

  /**
   * Streams a site's feed after `last`, or from now on. `stillAllowed` is asked at every heartbeat. Resolves when the
   * stream has begun.
   */
  async listen(
    response: Response,
    siteId: string,
    last: number | undefined,
    stillAllowed: () => Promise<boolean>,
  ): Promise<void> {
    const [bounds] = await this.db
      .select({ oldest: min(tables.feed.seq), newest: max(tables.feed.seq) })
      .from(tables.feed)
      .where(eq(tables.feed.siteId, siteId));
    const newest = Number(bounds?.newest ?? 0);
    const lost = last !== undefined && (last > newest || last < Number(bounds?.oldest ?? 1) - 1);
    response.writeHead(200, {
      'content-type': 'text/event-stream; charset=utf-8',
      'cache-control': 'no-store',
      'x-accel-buffering': 'no',
    });
    const start = last === undefined || lost ? newest : last;
    response.write(`retry: 1500\nid: ${start}\nevent: ${lost ? 'reset' : 'hello'}\ndata: {"seq":${start}}\n\n`);
    const listener: Listener = { siteId, last: start, busy: false, response };
    this.listeners.add(listener);
    const heart = setInterval(() => {
      response.write(': alive\n\n');
      stillAllowed().then(
        (allowed) => allowed || response.end(),
        () => response.end(),
      );
    }, HEARTBEAT_MS);
    response.on('close', () => {
      clearInterval(heart);
      this.listeners.delete(listener);
    });
    void this.deliver(listener);
  }

  private async deliver(listener: Listener): Promise<void> {
    if (listener.busy || !this.listeners.has(listener)) return;
    listener.busy = true;
    try {
      for (;;) {
        const entries = await this.db
          .select()
          .from(tables.feed)
          .where(and(eq(tables.feed.siteId, listener.siteId), gt(tables.feed.seq, listener.last)))
          .orderBy(asc(tables.feed.seq))
          .limit(BATCH);
        for (const { seq, kind, data } of entries) {
          listener.response.write(`id: ${seq}\nevent: change\ndata: ${JSON.stringify({ seq, kind, data })}\n\n`);
          listener.last = seq;
        }
        if (entries.length < BATCH) break;
      }
    } catch {
      // The database is away for a moment; the next poll goes on from the same number.
    } finally {
      listener.busy = false;
    }
  }

  private async prune(): Promise<void> {
    await this.db.delete(tables.feed).where(lt(tables.feed.at, new Date(Date.now() - KEEP_MS)));
  }

  close(): void {
    for (const timer of this.timers) clearInterval(timer);
    for (const { response } of this.listeners) response.end();
  }
}
