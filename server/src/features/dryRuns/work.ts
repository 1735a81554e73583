/**
 * Working a dry run through: in small steps between which the server answers others, with its progress in the
 * database, so that any server tells how far it is and any can cancel it. Reads come page by page; memory stays flat. One
 * whose server stopped is worked through anew by another: it takes seconds, and what it found stands in memory alone.
 */

import type { SiteChange } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { DryRun } from '@rawbits/core/dryrun';
import { failureOf } from '@rawbits/core/failure';
import { and, asc, count, eq, gt, gte, lte, or } from 'drizzle-orm';
import type { App } from '../../platform/http/app.ts';
import { endJob, type JobRow, LostJob, tell } from '../../platform/jobs/index.ts';
import { readTable } from '../reads/index.ts';
import { type Stage, stageOf } from './places.ts';

export const DRY_RUN = 'dry run';

const PAGE = 4000;
const STEP = 500;
const TELL_MS = 200;

const breathe = () => new Promise<void>((resolve) => setImmediate(resolve));

/** Works a run through to its end, whatever that is; throws LostJob where it was cancelled or is carried on elsewhere. */
export const carryDryRun =
  (app: () => App) =>
  async (job: JobRow): Promise<void> => {
    try {
      await workThrough(app(), job);
    } catch (error) {
      if (error instanceof LostJob) throw error;
      app().log.warn({ err: error }, 'a dry run failed');
      await endJob(app().db, job, 'failed', { message: failureOf(error).message }).catch(() => {});
    }
  };

async function workThrough(app: App, job: JobRow): Promise<void> {
  const { siteId } = job;
  const stage = await stageOf(app.db, siteId, job.input as SiteChange);
  const run = new DryRun(stage.places, { atMs: Date.now() });
  const until = new Date();
  const [reads] = await app.db
    .select({ count: count() })
    .from(readTable)
    .where(and(eq(readTable.siteId, siteId), lte(readTable.at, until)));
  const total = stage.cards.length + (reads?.count ?? 0);
  let toldAt = 0;
  const step = async (done: number): Promise<void> => {
    await breathe();
    if (Date.now() - toldAt < TELL_MS) return;
    toldAt = Date.now();
    await tell(app.db, job, { done, total });
  };
  const cards = await workCards(stage, run, step);
  const done = await workReads(app, siteId, until, run, cards, step);
  await endJob(app.db, job, 'done', { done, total: done, result: run.result() });
}

type Step = (done: number) => Promise<void>;

async function workCards(stage: Stage, run: DryRun, step: Step): Promise<number> {
  let done = 0;
  for (const card of stage.cards) {
    run.card(
      card.id,
      `${card.facility ? `${card.facility}/` : ''}${card.number}`,
      card.bits === null ? undefined : Bits.fromBinary(card.bits),
    );
    if (++done % STEP === 0) await step(done);
  }
  await step(done);
  return done;
}

async function workReads(
  app: App,
  siteId: string,
  until: Date,
  run: DryRun,
  from: number,
  step: Step,
): Promise<number> {
  let done = from;
  let last: { at: Date; id: string } | undefined;
  for (;;) {
    // The bare limit on the instant lets the index find the page; the rest keeps reads of one instant apart.
    const after =
      last &&
      and(
        gte(readTable.at, last.at),
        or(gt(readTable.at, last.at), and(eq(readTable.at, last.at), gt(readTable.id, last.id))),
      );
    const page = await app.db
      .select({ id: readTable.id, at: readTable.at, bits: readTable.bits })
      .from(readTable)
      .where(and(eq(readTable.siteId, siteId), lte(readTable.at, until), after))
      .orderBy(asc(readTable.at), asc(readTable.id))
      .limit(PAGE);
    for (const read of page) {
      run.read(read.id, Bits.fromBinary(read.bits));
      if (++done % STEP === 0) await step(done);
    }
    if (page.length < PAGE) return done;
    last = page.at(-1);
  }
}
