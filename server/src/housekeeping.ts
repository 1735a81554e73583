/** Housekeeping: what every server looks after from time to time, and no request waits for. */

import { lt } from 'drizzle-orm';
import { forgetUnansweredKeyRequests } from './features/keys/index.ts';
import { forgetUnanswered } from './features/operators/index.ts';
import { endCards } from './features/stock/index.ts';
import { giveUpQuietImports } from './features/transfer/index.ts';
import type { App } from './platform/http/app.ts';
import { forgetEnded } from './platform/session/sessions.ts';
import { forgetOld } from './platform/session/slowDown.ts';
import { catchUp } from './platform/trail/anchor.ts';
import { requestTable } from './platform/trail/tables.ts';

const OFTEN_MS = 5000;
const SELDOM_MS = 10 * 60_000;
/** How long a request that was carried out is known by its key. */
const REQUESTS_KEPT_MS = 24 * 3_600_000;

async function often(app: App): Promise<void> {
  await app.jobs.takeUpLost();
  await catchUp(app);
  await app.vault.keep();
  await endCards(app);
}

async function seldom(app: App): Promise<void> {
  await forgetEnded(app.db, app.settings);
  await forgetOld(app.db);
  await forgetUnanswered(app.db);
  await forgetUnansweredKeyRequests(app.db);
  await giveUpQuietImports(app);
  await app.devices.hosts.forget();
  await app.db.delete(requestTable).where(lt(requestTable.at, new Date(Date.now() - REQUESTS_KEPT_MS)));
}

/** One turn of all of it, now; throws what went wrong. For whoever steps it. */
export async function stepHousekeeping(app: App): Promise<void> {
  await often(app);
  await seldom(app);
}

/** Begins it by the clock; the function that it gives ends it and waits for what is under way. */
export function beginHousekeeping(app: App): () => Promise<void> {
  const turns = [
    { work: often, everyMs: OFTEN_MS },
    { work: seldom, everyMs: SELDOM_MS },
  ].map(({ work, everyMs }) => {
    let running: Promise<void> | undefined;
    const turn = () => {
      running ??= work(app)
        .catch((error) => app.log.debug({ err: error }, 'housekeeping is tried again'))
        .finally(() => (running = undefined));
    };
    turn();
    const timer = setInterval(turn, everyMs);
    timer.unref();
    return async () => {
      clearInterval(timer);
      await running;
    };
  });
  return async () => {
    for (const end of turns) await end();
  };
}
