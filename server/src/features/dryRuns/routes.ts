/** Dry runs: what a change would do, shown before it is saved, and saving it on what was shown. */

import { type DryRunState, dryRunApi, type SiteChange } from '@rawbits/api';
import { and, eq, lt } from 'drizzle-orm';
import { isDuplicate, newId, type Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { applyChange } from './apply.ts';
import { basisOf, stageOf } from './places.ts';
import { dryRunTable } from './tables.ts';
import { workThrough } from './work.ts';

type Row = typeof dryRunTable.$inferSelect;

/** A running one not heard of for this long lost its server. */
const SILENT_MS = 15_000;
const KEPT_MS = 7 * 24 * 3600_000;

function describe(row: Row): DryRunState {
  const lost = row.state === 'running' && Date.now() - row.heardAt.getTime() > SILENT_MS;
  return {
    id: row.id,
    change: row.change as SiteChange,
    state: lost ? 'failed' : (row.state as DryRunState['state']),
    done: row.done,
    total: row.total,
    message: lost ? 'The server that worked on it stopped; start it again.' : row.message,
    startedBy: row.startedBy,
    startedAt: row.startedAt.toISOString(),
    result: row.result as DryRunState['result'],
  };
}

const own = (site: string, id: string) => and(eq(dryRunTable.id, id), eq(dryRunTable.siteId, site));

async function find(db: Queryable, site: string, id: string): Promise<Row> {
  const [row] = await db.select().from(dryRunTable).where(own(site, id));
  if (!row) throw notFound('dry run');
  return row;
}

const start = handle(dryRunApi.start, async ({ app, operator, site, body }) => {
  // What makes no sense is refused at once, not after the work.
  await stageOf(app.db, site, body);
  const now = new Date();
  await app.db
    .delete(dryRunTable)
    .where(and(eq(dryRunTable.siteId, site), lt(dryRunTable.startedAt, new Date(now.getTime() - KEPT_MS))));
  const id = newId();
  const row = {
    id,
    siteId: site,
    change: body,
    state: 'running',
    done: 0,
    total: 0,
    message: '',
    basis: await basisOf(app.db, site),
    startedBy: operator.name,
    startedAt: now,
    heardAt: now,
  };
  await app.db.insert(dryRunTable).values(row);
  void workThrough(app, id, site, body);
  return describe({ ...row, result: null });
});

const one = handle(dryRunApi.one, async ({ app, site, params }) => describe(await find(app.db, site, params.id!)));

const cancel = handle(dryRunApi.cancel, async ({ app, site, params }) => {
  await app.db
    .update(dryRunTable)
    .set({ state: 'cancelled' })
    .where(and(own(site, params.id!), eq(dryRunTable.state, 'running')));
  return describe(await find(app.db, site, params.id!));
});

const apply = handle(dryRunApi.apply, async ({ app, operator, site, params, body }) => {
  const id = params.id!;
  try {
    await change(app, operator, site, async (tx, record) => {
      const [row] = await tx.select().from(dryRunTable).where(own(site, id)).for('update');
      if (!row) throw notFound('dry run');
      const { state, result, change: wanted } = describe(row);
      if (state === 'applied') throw conflict('applied', 'This change is saved already.');
      if (state !== 'done' || !result)
        throw conflict('not-done', 'The dry run is not finished.', 'Wait for it, or start it again.');
      if ((await basisOf(tx, site)) !== row.basis)
        throw conflict(
          'changed-meanwhile',
          'Cards, formats or controllers of the site changed since the dry run.',
          'Run it again to see what the change does now; what you entered is kept.',
        );
      const refused = result.cards['newly refused'];
      if (body.refuses !== refused)
        throw conflict(
          'refuses',
          `The change refuses ${refused} ${refused === 1 ? 'card' : 'cards'}, not ${body.refuses}.`,
          'Type the number of cards that it refuses to save it all the same.',
          'refuses',
        );
      await applyChange(tx, record, site, operator.name, wanted, result);
      await tx.update(dryRunTable).set({ state: 'applied' }).where(own(site, id));
    });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw conflict('card-on-file', 'Two cards would be the same after this change; nothing was saved.');
  }
  return describe(await find(app.db, site, id));
});

export const dryRunRoutes = [start, one, cancel, apply];
