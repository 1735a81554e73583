/** What a changed plan would mean: for the cards of each version, told on one simulated card a version; for readers, on what they read. */
import { randomBytes } from 'node:crypto';
import type { ChipPlan, PlanChangeShown } from '@rawbits/api';
import { failureOf } from '@rawbits/core/failure';
import {
  deliveredAt,
  differencesOf,
  type FileReader,
  fileReaderSchema,
  planChange,
  standInKnown,
} from '@rawbits/core/plan';
import { and, eq } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { readerTable } from '../doors/index.ts';
import { currentVersions } from '../keys/index.ts';
import { fromOf, namesIn } from './carried.ts';
import { findPlan, planIn, versionsOfPlan } from './describe.ts';
import { readerPlanTable } from './tables.ts';

const draw = (count: number) => new Uint8Array(randomBytes(count));

export async function changeOf(app: App, site: string, id: string, next: ChipPlan): Promise<PlanChangeShown> {
  const { db } = app;
  const plan = await findPlan(db, site, id);
  const versions = await versionsOfPlan(db, id);
  const current = planIn(versions.find(({ version }) => version === plan.current)!);
  const cards: PlanChangeShown['cards'] = [];
  for (const row of versions) {
    if (row.cards === 0 && row.version !== plan.current) continue;
    const was = planIn(row);
    const change =
      was.kind === 'files' && next.kind === 'files'
        ? await planChange(was, next, draw)
        : {
            steps: [],
            keys: [],
            refused: was.kind === next.kind ? undefined : 'It is a plan of another kind of card.',
          };
    const { steps, keys, refused = null } = change;
    cards.push({ version: row.version, cards: row.cards, steps, keys, refused });
  }
  const there = await currentVersions(
    db,
    site,
    namesIn(next).map((name) => ({ name, from: fromOf(next, name) })),
  );
  return {
    cards,
    differences: differencesOf(current, next),
    missing: [...there].flatMap(([name, version]) => (version === null ? [name] : [])),
    readers: next.kind === 'files' ? await readersOf(db, site, id, next) : [],
  };
}

/** Of the readers that are set up by a plan, whether they would still read its cards, and why not. */
async function readersOf(
  db: Queryable,
  site: string,
  planId: string,
  next: Extract<ChipPlan, { kind: 'files' }>,
): Promise<PlanChangeShown['readers']> {
  const rows = await db
    .select({ row: readerPlanTable, reader: readerTable })
    .from(readerPlanTable)
    .innerJoin(readerTable, eq(readerTable.id, readerPlanTable.readerId))
    .where(and(eq(readerPlanTable.siteId, site), eq(readerPlanTable.planId, planId)));
  return Promise.all(
    rows.map(async ({ row, reader }) => {
      const refuses = await refusal(next, fileReaderSchema.parse(row.settings));
      return { id: reader.id, name: reader.name, refuses };
    }),
  );
}

async function refusal(next: Extract<ChipPlan, { kind: 'files' }>, settings: FileReader): Promise<string | null> {
  try {
    const { steps } = await deliveredAt(next, settings, standInKnown(next), draw);
    const last = steps.find(({ holds }) => !holds);
    return last ? `${last.step}: it wants ${last.expected}, and what comes is ${last.came}.` : null;
  } catch (error) {
    return failureOf(error).message;
  }
}
