/** Runs as the API gives them. */

import type { PadTells, Run, RunCard } from '@rawbits/api';
import { and, asc, desc, eq, gt, inArray, type SQL } from 'drizzle-orm';
import { padClaimTable } from '../../devices/tables.ts';
import type { App } from '../../platform/http/app.ts';
import { notFound } from '../../platform/problem/problem.ts';
import { planTable } from '../plans/index.ts';
import { knownOf } from './known.ts';
import { padsNamed } from './pads.ts';
import { type RunCardRow, type RunRow, runCardTable, runTable } from './tables.ts';

const MOST_SHOWN = 200;

export async function describeRuns(app: App, site: string, only?: SQL): Promise<Run[]> {
  const rows = await app.db
    .select({ run: runTable, plan: planTable })
    .from(runTable)
    .innerJoin(planTable, eq(planTable.id, runTable.planId))
    .where(and(eq(runTable.siteId, site), only))
    .orderBy(desc(runTable.startedAt))
    .limit(MOST_SHOWN);
  const pads = await app.db.select().from(padClaimTable).where(eq(padClaimTable.siteId, site));
  const named = new Map((await padsNamed(app, site)).map(({ id, name }) => [id, name]));
  return rows.map(({ run, plan }) => ({
    id: run.id,
    kind: run.kind as Run['kind'],
    plan: { id: plan.id, name: plan.name, version: run.version, kind: plan.kind as Run['plan']['kind'] },
    state: run.state as Run['state'],
    wanted: run.wanted,
    done: run.done,
    amiss: run.amiss,
    startedBy: run.startedBy,
    startedAt: run.startedAt.toISOString(),
    endedAt: run.endedAt?.toISOString() ?? null,
    paceMs: paceOf(run),
    under: run.under,
    pads: pads
      .filter(({ claimedBy }) => claimedBy === run.id)
      .map(({ pad, tells, at }) => ({
        pad,
        name: named.get(pad) ?? 'A pad that is gone',
        card: null,
        last: null,
        ...(tells as Pick<PadTells, 'weight' | 'says' | 'next'>),
        at: at.toISOString(),
      })),
  }));
}

const paceOf = ({ done, workedMs }: RunRow): number | null => (done === 0 ? null : Math.round(workedMs / done));

export async function describeRun(app: App, site: string, id: string): Promise<Run> {
  const [run] = await describeRuns(app, site, eq(runTable.id, id));
  if (!run) throw notFound('run');
  return run;
}

export async function findRun(app: Pick<App, 'db'>, site: string, id: string): Promise<RunRow> {
  const own = and(eq(runTable.id, id), eq(runTable.siteId, site));
  const [run] = await app.db.select().from(runTable).where(own);
  if (!run) throw notFound('run');
  return run;
}

export async function cardsOfRun(
  app: App,
  site: string,
  runId: string,
  { after, limit, only }: { after: number; limit: number; only: 'all' | 'amiss' },
): Promise<{ cards: RunCard[]; next: number | null }> {
  const rows = await app.db
    .select()
    .from(runCardTable)
    .where(
      and(
        eq(runCardTable.runId, runId),
        gt(runCardTable.seq, after),
        only === 'amiss' ? inArray(runCardTable.state, ['begun', 'differs']) : undefined,
      ),
    )
    .orderBy(asc(runCardTable.seq))
    .limit(limit);
  const known = await knownOf(
    app.db,
    site,
    rows.flatMap(({ cardId }) => cardId ?? []),
  );
  return {
    cards: rows.map((row) => cardIn(row, known.get(row.cardId ?? ''))),
    next: rows.length === limit ? rows.at(-1)!.seq : null,
  };
}

const cardIn = (row: RunCardRow, known: { called: string; holder: string | null } | undefined): RunCard => ({
  seq: row.seq,
  card: known?.called ?? row.uid ?? '',
  cardId: row.cardId,
  holder: known?.holder ?? null,
  uid: row.uid,
  state: row.state as RunCard['state'],
  message: row.message,
  tries: row.tries,
  endedAt: row.endedAt?.toISOString() ?? null,
});
