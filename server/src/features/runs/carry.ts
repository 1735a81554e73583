/**
 * Carrying a run: at each of its pads a card after another is waited for and worked on. What a run knows stands in the
 * database alone, so that any server goes on with it where another stopped.
 */

import type { PadTells, RunKind } from '@rawbits/api';
import { RawBitsError } from '@rawbits/core/failure';
import { and, eq } from 'drizzle-orm';
import { HostRefusal } from '../../devices/line.ts';
import { padClaimTable } from '../../devices/tables.ts';
import { inTransaction, type Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { endJob, type JobRow, LostJob, tell } from '../../platform/jobs/index.ts';
import { sentenceFor } from '../../platform/problem/sentence.ts';
import { materialOf, steadily } from '../keys/index.ts';
import { type EncodedRow, plansAt } from '../plans/index.ts';
import { OnPad } from './recognise.ts';
import { type RunRow, runTable } from './tables.ts';
import { type Told, workOn } from './works.ts';

export const RUN = 'run';

const LOOK_MS = 200;
const AGAIN_MS = 1500;
const wait = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

export const carryRun =
  (app: () => App) =>
  async (job: JobRow): Promise<void> => {
    const pads = await padsOfRun(app(), job.subject);
    const ended = await Promise.allSettled(pads.map((claim) => servePad(app(), job, claim)));
    const failed = ended.find((one) => one.status === 'rejected');
    if (failed) throw failed.reason;
    // At once: whoever sees its pads free may go on with it in the same moment.
    await inTransaction(app().db, async (tx) => {
      await letGo(tx, job.subject);
      await endJob(tx, job, 'done');
    });
  };

/** Begins to carry a run where the lines of its pads are. */
export async function beginRun(app: App, job: JobRow): Promise<void> {
  if (await canCarry(app)(job)) app.jobs.begin(job);
  else await app.jobs.handOn(job);
}

/** Whether this server can carry a run: the lines of its pads are here. */
export const canCarry =
  (app: App) =>
  async ({ siteId, subject }: JobRow): Promise<boolean> => {
    const pads = await padsOfRun(app, subject);
    return app.devices.linesAreHere(
      siteId,
      pads.map(({ pad }) => pad),
    );
  };

export const padsOfRun = (app: Pick<App, 'db'>, runId: string) =>
  app.db.select().from(padClaimTable).where(eq(padClaimTable.claimedBy, runId));

/** The pads of a run are free for another. */
export async function letGo(db: Queryable, runId: string): Promise<void> {
  await db.delete(padClaimTable).where(eq(padClaimTable.claimedBy, runId));
}

async function servePad(app: App, job: JobRow, { pad, tells }: typeof padClaimTable.$inferSelect): Promise<void> {
  const { siteId } = job;
  let worked: string | undefined;
  let said = '';
  let { last = null } = tells as Partial<PadTells>;
  const show = async (news: Told) => {
    const told = { ...news, last };
    const text = JSON.stringify(told);
    if (text === said) return;
    said = text;
    await app.db
      .update(padClaimTable)
      .set({ tells: told, at: new Date() })
      .where(
        and(eq(padClaimTable.siteId, siteId), eq(padClaimTable.pad, pad), eq(padClaimTable.claimedBy, job.subject)),
      );
  };
  for (;;) {
    await tell(app.db, job);
    const [run] = await app.db.select().from(runTable).where(eq(runTable.id, job.subject));
    if (run?.state !== 'going') return;
    // Keys go over the host's own line alone: whoever has that carries the run.
    if (!(await app.devices.linesAreHere(siteId, [pad]))) {
      await app.jobs.handOn(job);
      throw new LostJob();
    }
    const lies = await liesOn(app, siteId, pad);
    if (typeof lies === 'string') {
      await show({ weight: 'problem', says: lies, next: 'See that it is plugged in and its host runs.' });
      await wait(AGAIN_MS);
      continue;
    }
    if (lies.cards.length === 0) {
      // What was said of a card that was torn away stays until the next one lies there.
      if (worked !== undefined || said === '') await show(waiting(run));
      worked = undefined;
      await wait(LOOK_MS);
      continue;
    }
    const now = `${lies.laid} ${lies.cards.join(' ')}`;
    if (now === worked) {
      await wait(LOOK_MS);
      continue;
    }
    await show({ weight: 'works', says: 'Working …', next: 'Leave the card where it is.' });
    const { told, again } = await workAt(app, job, run, pad);
    last = null;
    await show(told);
    last = { weight: told.weight, says: told.says, card: told.card ?? null };
    if (again) await wait(AGAIN_MS);
    else if (told.weight !== 'problem' || lies.cards.length > 1) worked = now;
    else worked = (await stillThere(app, siteId, pad, now)) ? now : undefined;
  }
}

const waiting = ({ kind, done, wanted }: RunRow): Told => ({
  weight: 'waits',
  says: kind === 'encode' ? `Waits for blank ${done + 1} of ${wanted}.` : 'Waits for a card.',
  next: kind === 'encode' ? 'Lay a blank on the pad.' : 'Lay the next card on the pad, or hold it to the reader.',
});

async function liesOn(app: App, siteId: string, pad: string) {
  try {
    return await app.devices.pad(siteId, 'pad', {}, pad);
  } catch (error) {
    if (error instanceof HostRefusal) return error.message;
    throw error;
  }
}

/** Whether the same card lies there as before it was worked on; one that was torn away does not. */
async function stillThere(app: App, siteId: string, pad: string, before: string): Promise<boolean> {
  const lies = await liesOn(app, siteId, pad);
  return typeof lies !== 'string' && `${lies.laid} ${lies.cards.join(' ')}` === before;
}

/** Works on what lies there; `again` where it is worth another try without anybody doing something. */
async function workAt(app: App, job: JobRow, run: RunRow, pad: string): Promise<{ told: Told; again: boolean }> {
  let card: OnPad | undefined;
  try {
    const host = await app.devices.hostOfPad(run.siteId, pad);
    const to = { to: 'card on a pad', host } as const;
    const { versions, material } = await steadily(async () => {
      const all = await plansAt(app, run.siteId, run.planId);
      const versions = new Map(all.map(({ version, plan }) => [version, plan]));
      const material = await materialOf(app, run.siteId, all, to);
      const refusal = material.refusal(versions.get(run.version)!);
      if (refusal) throw refusal;
      return { versions, material };
    });
    const planOf = async (chip: EncodedRow) => {
      const own = (await plansAt(app, run.siteId, chip.planId)).find(({ version }) => version === chip.version);
      return own && { plan: own.plan, material: await materialOf(app, run.siteId, [own], to) };
    };
    card = await OnPad.select(app, run.siteId, pad, true);
    const told = await workOn(run.kind as RunKind, { app, job, run, card, material, versions, planOf });
    return { told, again: false };
  } catch (error) {
    if (error instanceof LostJob) throw error;
    return inTheWay(app, error);
  } finally {
    await card?.disconnect();
  }
}

/** What to do about what a pad refuses, by the code of its refusal. */
const NEXT_AT_PAD: Record<string, string> = {
  'two-cards': 'Take all but one away.',
  'no-card': 'Lay the card on again.',
};

function inTheWay(app: App, error: unknown): { told: Told; again: boolean } {
  const problem = (says: string, next: string, again = false) => ({
    told: { weight: 'problem', says, next } as const satisfies Partial<PadTells>,
    again,
  });
  if (error instanceof HostRefusal)
    return problem(
      error.message,
      NEXT_AT_PAD[error.code ?? ''] ?? 'Lay the card on again: it is gone on with where it was left.',
    );
  if (error instanceof RawBitsError)
    return problem(error.message, error.hint ?? 'Lay the card on again, or give it up.', error.code === 'store-locked');
  app.log.warn({ err: error }, 'a card of a run failed');
  return problem(sentenceFor(error), 'Lay the card on again, or give it up.');
}
