/** Runs: started, let rest, gone on with, ended. */

import { exchangeApi, runApi } from '@rawbits/api';
import { grantsOf, keyNamesOf } from '@rawbits/core/plan';
import { and, eq, inArray, isNotNull, sql } from 'drizzle-orm';
import { type HostRow, padClaimTable } from '../../devices/tables.ts';
import { isDuplicate, newId, type Queryable } from '../../platform/database/index.ts';
import { type App, type Asking, handle } from '../../platform/http/app.ts';
import { insertJob, type JobRow } from '../../platform/jobs/index.ts';
import { conflict, HttpProblem, invalid, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { checkKeysThere, materialFor, steadily } from '../keys/index.ts';
import { currentPlanAt, encodedTable, findPlan, planAtVersion, planTable, versionsOfPlan } from '../plans/index.ts';
import { beginRun, padsOfRun, RUN } from './carry.ts';
import { cardsOfRun, describeRun, describeRuns, findRun } from './describe.ts';
import { keptExchange, playAgain, stepIn } from './exchange.ts';
import { knownOf } from './known.ts';
import { lookAt } from './look.ts';
import { cardsFor, checkKnown } from './numbers.ts';
import { padsNamed } from './pads.ts';
import { type RunCardRow, type RunRow, runCardTable, runStepTable, runTable } from './tables.ts';

const list = handle(runApi.list, ({ app, site }) => describeRuns(app, site));
const one = handle(runApi.one, ({ app, site, params }) => describeRun(app, site, params.id!));

/** Throws where a pad is not one of the site's. */
async function checkPads(app: App, site: string, pads: readonly string[]): Promise<string[]> {
  const offered = await app.devices.pads(site);
  for (const pad of pads)
    if (!offered.some(({ id }) => id === pad)) throw invalid('pads', 'One of these is no pad of this site.');
  return [...new Set(pads)];
}

/** The hosts of some pads, each once. */
async function hostsOfPads(app: App, site: string, pads: readonly string[]): Promise<HostRow[]> {
  const hosts = new Map<string, HostRow>();
  for (const pad of pads) {
    const host = await app.devices.hostOfPad(site, pad);
    hosts.set(host.id, host);
  }
  return [...hosts.values()];
}

type KeysOf = Pick<RunRow, 'kind' | 'planId' | 'version'>;

/**
 * Throws where the keys of a run may not go over one of these pads. Of older versions that cards still have what is missing is
 * asked for, too, and stops nothing: the run refuses those cards alone until it is agreed to.
 */
async function checkKeysOver(app: App, who: Asking, site: string, pads: readonly string[], run: KeysOf): Promise<void> {
  for (const host of await hostsOfPads(app, site, pads))
    for (const version of await versionsMet(app, run)) {
      const check = steadily(async () => {
        const plan = await findPlan(app.db, site, run.planId);
        const at = await planAtVersion(app, app.db, plan, version);
        await materialFor(app, who, site, at, { to: 'card on a pad', host });
      });
      if (version === run.version) await check;
      else
        await check.catch((error) => {
          if (!(error instanceof HttpProblem) || error.status !== 409) throw error;
        });
    }
}

/** The versions of the plan that a run puts on cards, or meets on them. */
async function versionsMet(app: App, { kind, planId, version }: KeysOf): Promise<number[]> {
  if (kind === 'encode') return [version];
  const carried = (await versionsOfPlan(app.db, planId)).filter(({ cards }) => cards > 0);
  return [...new Set([version, ...carried.map((row) => row.version)])];
}

/** The pads are the run's; a duplicate is thrown where another one has one of them. */
async function claimPads(tx: Queryable, siteId: string, claimedBy: string, pads: readonly string[]): Promise<void> {
  const tells = { weight: 'waits', says: 'Begins …', next: '' };
  await tx.insert(padClaimTable).values(pads.map((pad) => ({ siteId, pad, claimedBy, tells, at: new Date() })));
}

const padTaken = () => conflict('pad-taken', 'Another run has this pad.', 'Let it rest, or take another pad.', 'pads');

const jobOf = (tx: Queryable, { id, siteId }: Pick<RunRow, 'id' | 'siteId'>, startedBy: string): Promise<JobRow> =>
  insertJob(tx, { siteId, kind: RUN, subject: id, slot: `run ${id}`, input: {}, startedBy });

const start = handle(runApi.start, async ({ app, operator, site, body }) => {
  const { kind, planId, pads, cards, under } = body;
  const at = await currentPlanAt(app, app.db, site, planId);
  const { plan } = at;
  if (under !== undefined && !(plan.kind === 'files' ? grantsOf(plan) : []).some((grant) => grant.under === under))
    throw invalid('under', `The plan has no hand-back grant for "${under}".`);
  // Refused now and not at the first card: a key that is missing, a store that is locked.
  await checkKeysThere(app.db, site, plan, under === undefined ? keyNamesOf(plan) : [under]);
  await checkKeysOver(app, operator, site, await checkPads(app, site, pads), { kind, planId, version: at.version });
  const id = newId();
  try {
    const own = await checkPads(app, site, pads);
    const job = await change(app, operator, site, async (tx, record) => {
      await claimPads(tx, site, id, own);
      await tx
        .update(planTable)
        .set({ guard: sql`${planTable.guard} + 1` })
        .where(eq(planTable.id, planId));
      const ids = cards ? await cardsFor(tx, site, cards) : [];
      for (let at = 0; at < ids.length; at += 500) {
        const some = ids.slice(at, at + 500);
        const known = await knownOf(tx, site, some);
        checkKnown(
          plan,
          some.flatMap((one) => known.get(one) ?? []),
        );
      }
      const wanted =
        kind === 'encode'
          ? ids.length
          : (await versionsOfPlan(tx, planId)).reduce((sum, version) => sum + version.cards, 0);
      await tx.insert(runTable).values({
        id,
        siteId: site,
        kind,
        planId,
        version: at.version,
        under: under ?? null,
        takesUsed: Number(body.takesUsed),
        state: 'going',
        wanted,
        startedBy: operator.name,
        startedAt: new Date(),
      });
      for (let at = 0; at < ids.length; at += 500)
        await tx.insert(runCardTable).values(
          ids.slice(at, at + 500).map((cardId, i) => ({
            runId: id,
            seq: at + i + 1,
            siteId: site,
            cardId,
            holds: cardId,
            state: 'waiting',
          })),
        );
      record.trail({
        action: 'run started',
        subject: `run of plan ${at.name}`,
        after: { run: id, kind, version: at.version, cards: wanted, ...(under !== undefined && { under }) },
      });
      record.announce('runs', { ids: [id], added: true });
      if (cards?.from === 'next numbers') record.announce('cards');
      return jobOf(tx, { id, siteId: site }, operator.name);
    });
    await beginRun(app, job);
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw (await padsTaken(app, site, pads))
      ? padTaken()
      : conflict('card-taken', 'Another run took one of these cards just now.', 'Start it again.', 'cards');
  }
  return describeRun(app, site, id);
});

const padsTaken = async (app: App, site: string, pads: readonly string[]): Promise<boolean> =>
  (await app.db.$count(padClaimTable, and(eq(padClaimTable.siteId, site), inArray(padClaimTable.pad, [...pads])))) > 0;

const stop = handle(runApi.stop, async ({ app, operator, site, params }) => {
  await change(app, operator, site, async (tx, record) => {
    const run = await findRun({ db: tx as App['db'] }, site, params.id!);
    const [stopped] = await tx
      .update(runTable)
      .set({ state: 'stopped' })
      .where(and(eq(runTable.id, run.id), eq(runTable.state, 'going')));
    if (stopped.affectedRows === 0) return;
    record.trail({ action: 'run let rest', subject: `run ${run.id}` });
    record.announce('runs', { ids: [run.id] });
  });
  return describeRun(app, site, params.id!);
});

const goOn = handle(runApi.goOn, async ({ app, operator, site, params, body }) => {
  try {
    const pads = await checkPads(app, site, body.pads);
    await checkKeysOver(app, operator, site, pads, await findRun(app, site, params.id!));
    const job = await change(app, operator, site, async (tx, record) => {
      const run = await findRun({ db: tx as App['db'] }, site, params.id!);
      if (run.state === 'done' || run.state === 'cancelled')
        throw conflict('run-ended', 'This run has ended.', 'Start another.');
      if (run.state === 'going') throw conflict('run-going', 'This run is going already.');
      const own = eq(runTable.id, run.id);
      const held = (await padsOfRun({ db: tx as App['db'] }, run.id)).length > 0;
      if (held) throw conflict('run-going', 'The card on the pad is finished first.', 'Wait a moment.');
      await tx
        .update(runTable)
        .set({ state: 'going', guard: sql`${runTable.guard} + 1` })
        .where(own);
      await claimPads(tx, site, run.id, pads);
      record.trail({ action: 'run gone on with', subject: `run ${run.id}` });
      record.announce('runs', { ids: [run.id] });
      return jobOf(tx, run, operator.name);
    });
    await beginRun(app, job);
  } catch (error) {
    throw isDuplicate(error) ? padTaken() : error;
  }
  return describeRun(app, site, params.id!);
});

const end = handle(runApi.end, async ({ app, operator, site, params }) => {
  await change(app, operator, site, async (tx, record) => {
    const run = await findRun({ db: tx as App['db'] }, site, params.id!);
    if (run.state === 'done' || run.state === 'cancelled') return;
    const of = eq(runCardTable.runId, run.id);
    const begun = await tx.$count(runCardTable, and(of, eq(runCardTable.state, 'begun')));
    if (begun > 0 && run.kind === 'encode')
      throw conflict(
        'cards-begun',
        `${begun} ${begun === 1 ? 'card is' : 'cards are'} begun and not finished.`,
        'Lay them on again to finish them, or give each up first.',
      );
    await tx
      .update(runCardTable)
      .set({ holds: null })
      .where(and(of, isNotNull(runCardTable.holds)));
    const state = run.kind === 'encode' ? 'cancelled' : 'done';
    await tx.update(runTable).set({ state, endedAt: new Date() }).where(eq(runTable.id, run.id));
    record.trail({ action: 'run ended', subject: `run ${run.id}`, after: { done: run.done, of: run.wanted } });
    record.announce('runs', { ids: [run.id] });
  });
  return describeRun(app, site, params.id!);
});

const cards = handle(runApi.cards, async ({ app, site, params, query }) => {
  const run = await findRun(app, site, params.id!);
  return cardsOfRun(app, site, run.id, query);
});

const seqIn = (text: string | undefined): number => {
  if (!/^\d{1,9}$/.test(text ?? '')) throw notFound('card of the run');
  return Number(text);
};

const steps = handle(runApi.steps, async ({ app, site, params }) => {
  const run = await findRun(app, site, params.id!);
  const rows = await app.db
    .select()
    .from(runStepTable)
    .where(and(eq(runStepTable.runId, run.id), eq(runStepTable.seq, seqIn(params.seq))))
    .orderBy(runStepTable.n);
  return rows.map(stepIn);
});

const exchange = handle(exchangeApi.one, ({ app, site, params }) =>
  keptExchange(app, site, params.id!, seqIn(params.seq)),
);
const play = handle(exchangeApi.play, ({ app, site, body }) => playAgain(app, site, body));

const giveUp = handle(runApi.giveUp, async ({ app, operator, site, params }) => {
  const seq = seqIn(params.seq);
  await change(app, operator, site, async (tx, record) => {
    const run = await findRun({ db: tx as App['db'] }, site, params.id!);
    await tx
      .update(runTable)
      .set({ guard: sql`${runTable.guard} + 1` })
      .where(eq(runTable.id, run.id));
    const own = and(eq(runCardTable.runId, run.id), eq(runCardTable.seq, seq));
    const [card] = await tx.select().from(runCardTable).where(own);
    if (!card) throw notFound('card of the run');
    if (card.state !== 'begun')
      throw conflict('not-begun', 'This card is not begun.', 'Only what is begun is given up.');
    await tx.update(runCardTable).set({ state: 'given up', holds: null, endedAt: new Date() }).where(own);
    if (run.kind === 'encode') await forgetBegun(tx, run, card);
    await tx
      .update(runTable)
      .set({ amiss: sql`${runTable.amiss} - 1` })
      .where(eq(runTable.id, run.id));
    record.trail({ action: 'card given up', subject: `run ${run.id}`, before: { chip: card.uid, seq } });
    record.announce('runs', { ids: [run.id] });
  });
  return describeRun(app, site, params.id!);
});

/**
 * The number of a blank that was begun and given up waits for another, and the chip is freed when it comes back. A card that
 * was only brought along, or taken back in part, stays on file as what it was: its number is on it still.
 */
async function forgetBegun(tx: Queryable, run: RunRow, { uid, cardId }: RunCardRow): Promise<void> {
  await tx
    .update(encodedTable)
    .set({ state: 'given up', cardId: null })
    .where(and(eq(encodedTable.siteId, run.siteId), eq(encodedTable.uid, uid ?? ''), eq(encodedTable.state, 'begun')));
  const [last] = await tx
    .select({ seq: sql<number>`MAX(${runCardTable.seq})`.mapWith(Number) })
    .from(runCardTable)
    .where(eq(runCardTable.runId, run.id));
  await tx
    .insert(runCardTable)
    .values({ runId: run.id, seq: last!.seq + 1, siteId: run.siteId, cardId, holds: cardId, state: 'waiting' });
}

const pads = handle(runApi.pads, async ({ app, site }) => {
  const taken = await app.db.select().from(padClaimTable).where(eq(padClaimTable.siteId, site));
  const offered = await padsNamed(app, site);
  return offered.map((pad) => ({ ...pad, run: taken.find((one) => one.pad === pad.id)?.claimedBy ?? null }));
});

const look = handle(runApi.look, async ({ app, site, body }) => {
  if (body.pad !== null && (await padsTaken(app, site, [body.pad])))
    throw conflict('pad-taken', 'A run has this pad.', 'Let it rest to read a card there.', 'pad');
  return lookAt(app, site, body.pad);
});

export const runRoutes = [list, one, start, stop, goOn, end, cards, steps, exchange, play, giveUp, pads, look];
