/** Who would be let in: each card put on a simulated card by its plan, read by the reader’s settings, and decided on as its controller would. */
import { randomBytes } from 'node:crypto';
import type { ChipPlan, ReaderPlan, WouldOpen } from '@rawbits/api';
import { RawBitsError } from '@rawbits/core/failure';
import { type DoorReading, deliveredAt } from '@rawbits/core/plan';
import { and, asc, eq } from 'drizzle-orm';
import type { App } from '../../platform/http/app.ts';
import { notFound } from '../../platform/problem/problem.ts';
import { controllerTable, decideAsWanted, type readerTable } from '../doors/index.ts';
import { encodedTable, planIn, versionsOfPlan } from '../plans/index.ts';
import { type CardKnown, knownOf, runCardTable, runTable } from '../runs/index.ts';

const draw = (count: number) => new Uint8Array(randomBytes(count));

export async function wouldOpen(
  app: App,
  site: string,
  reader: typeof readerTable.$inferSelect,
  { plan, settings, problem }: ReaderPlan,
  { run, limit }: { run?: string; limit: number },
): Promise<WouldOpen> {
  const { db } = app;
  const { ids, version } =
    run === undefined ? await carrying(app, site, plan.id, limit) : await ofRun(app, site, run, limit);
  const known = await knownOf(db, site, ids);
  const all = await versionsOfPlan(db, plan.id);
  const row = all.find((one) => one.version === version) ?? all[0];
  const definition = row && planIn(row);
  if (!definition) return { problem: 'The plan is not there any more.', cards: [] };
  const [controller] =
    reader.controllerId === null
      ? []
      : await db.select().from(controllerTable).where(eq(controllerTable.id, reader.controllerId));
  const cards: WouldOpen['cards'] = [];
  for (const id of ids) {
    const card = known.get(id);
    if (!card) continue;
    const { steps, bits } = await delivered(definition, settings, card);
    const about = { card: card.called, holder: card.holder, bits: bits?.toBinary() ?? null, steps };
    const last = steps.at(-1);
    if (!bits) cards.push({ ...about, outcome: 'refused', reason: `${last?.step}: ${last?.came ?? 'refused'}` });
    else if (!controller) cards.push({ ...about, outcome: 'read', reason: 'No controller is at the end of its line.' });
    else {
      const { outcome, reason } = await decideAsWanted(db, controller, bits, Date.now(), reader.device);
      cards.push({ ...about, outcome, reason });
    }
  }
  const stopped = cards.length > 0 && cards.every(({ bits }) => bits === null) ? cards[0]!.reason : null;
  return { problem: stopped ?? problem, cards };
}

/** What a card would deliver; one that cannot be made stops before the reader’s first step, and says why. */
async function delivered(plan: ChipPlan, settings: ReaderPlan['settings'], card: CardKnown): Promise<DoorReading> {
  try {
    return await deliveredAt(plan, settings, card, draw);
  } catch (error) {
    if (!(error instanceof RawBitsError)) throw error;
    return { steps: [{ step: 'make the card', holds: false, expected: 'what the plan takes', came: error.message }] };
  }
}

/** Cards, and the version of the plan that they are to have; the newest without it. */
interface Wanted {
  ids: string[];
  version?: number;
}

async function carrying({ db }: App, site: string, planId: string, limit: number): Promise<Wanted> {
  const rows = await db
    .select({ cardId: encodedTable.cardId })
    .from(encodedTable)
    .where(and(eq(encodedTable.siteId, site), eq(encodedTable.planId, planId), eq(encodedTable.state, 'whole')))
    .limit(limit);
  return { ids: rows.flatMap(({ cardId }) => cardId ?? []) };
}

async function ofRun({ db }: App, site: string, run: string, limit: number): Promise<Wanted> {
  const [there] = await db
    .select()
    .from(runTable)
    .where(and(eq(runTable.id, run), eq(runTable.siteId, site)));
  if (!there) throw notFound('run');
  const rows = await db
    .select({ cardId: runCardTable.cardId })
    .from(runCardTable)
    .where(eq(runCardTable.runId, run))
    .orderBy(asc(runCardTable.seq))
    .limit(limit);
  return { ids: [...new Set(rows.flatMap(({ cardId }) => cardId ?? []))], version: there.version };
}
