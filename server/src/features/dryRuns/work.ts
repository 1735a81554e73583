/**
 * Working a dry run through: in small steps between which the server answers others, with its progress in the
 * database, so that any server tells how far it is and any can cancel it. Reads come page by page; memory stays flat.
 */

import type { SiteChange } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { DryRun } from '@rawbits/core/dryrun';
import { failureOf } from '@rawbits/core/failure';
import { and, asc, count, eq, gt, gte, lte, or } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { readTable } from '../reads/index.ts';
import { type Stage, stageOf } from './places.ts';
import { dryRunTable } from './tables.ts';

const PAGE = 4000;
const STEP = 500;
const TELL_MS = 200;

const breathe = () => new Promise<void>((resolve) => setImmediate(resolve));

/** Tells how far a run is; false when it is not to go on. */
async function tell(db: Queryable, id: string, done: number, total: number): Promise<boolean> {
  const [result] = await db
    .update(dryRunTable)
    .set({ done, total, heardAt: new Date() })
    .where(and(eq(dryRunTable.id, id), eq(dryRunTable.state, 'running')));
  return result.affectedRows > 0;
}

async function finish(db: Queryable, id: string, fields: Partial<typeof dryRunTable.$inferInsert>): Promise<void> {
  await db
    .update(dryRunTable)
    .set({ ...fields, heardAt: new Date() })
    .where(and(eq(dryRunTable.id, id), eq(dryRunTable.state, 'running')));
}

/** Works a run through to its end, whatever that is. Never throws. */
export async function workThrough(app: App, id: string, siteId: string, change: SiteChange): Promise<void> {
  try {
    const stage = await stageOf(app.db, siteId, change);
    const run = new DryRun(stage.places, { atMs: Date.now() });
    const until = new Date();
    const [reads] = await app.db
      .select({ count: count() })
      .from(readTable)
      .where(and(eq(readTable.siteId, siteId), lte(readTable.at, until)));
    const total = stage.cards.length + (reads?.count ?? 0);
    let toldAt = 0;
    const goesOn = async (done: number): Promise<boolean> => {
      await breathe();
      if (Date.now() - toldAt < TELL_MS) return true;
      toldAt = Date.now();
      return tell(app.db, id, done, total);
    };
    const done = await workCards(stage, run, goesOn);
    if (done === undefined) return;
    const end = await workReads(app, siteId, until, run, done, goesOn);
    if (end === undefined) return;
    await finish(app.db, id, { state: 'done', done: end, total: end, result: run.result() });
  } catch (error) {
    app.log.warn({ err: error }, 'a dry run failed');
    await finish(app.db, id, { state: 'failed', message: failureOf(error).message.slice(0, 400) }).catch(() => {});
  }
}

type GoesOn = (done: number) => Promise<boolean>;

async function workCards(stage: Stage, run: DryRun, goesOn: GoesOn): Promise<number | undefined> {
  let done = 0;
  for (const card of stage.cards) {
    run.card(
      card.id,
      `${card.facility ? `${card.facility}/` : ''}${card.number}`,
      card.bits === null ? undefined : Bits.fromBinary(card.bits),
    );
    if (++done % STEP === 0 && !(await goesOn(done))) return undefined;
  }
  return (await goesOn(done)) ? done : undefined;
}

async function workReads(
  app: App,
  siteId: string,
  until: Date,
  run: DryRun,
  from: number,
  goesOn: GoesOn,
): Promise<number | undefined> {
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
      if (++done % STEP === 0 && !(await goesOn(done))) return undefined;
    }
    if (page.length < PAGE) return done;
    last = page.at(-1);
  }
}
