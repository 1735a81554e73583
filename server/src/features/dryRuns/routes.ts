/** Dry runs: what a change would do, shown before it is saved, and saving it on what was shown. */

import { type DryRunState, dryRunApi, type SiteChange } from '@rawbits/api';
import { and, eq, lt } from 'drizzle-orm';
import { isDuplicate, type Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { endJob, insertJob, isSilent, type JobRow, jobTable } from '../../platform/jobs/index.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { checkMoved } from '../doors/index.ts';
import { applyChange } from './apply.ts';
import { basisOf, stageOf } from './places.ts';
import { DRY_RUN } from './work.ts';

const KEPT_MS = 7 * 24 * 3600_000;

/** What a dry run remembers: what the site was when it ran. A change is saved on that only. */
interface Memo {
  basis: string;
}

function describe(row: JobRow): DryRunState {
  return {
    id: row.id,
    change: row.input as SiteChange,
    state: row.state as DryRunState['state'],
    done: row.done,
    total: row.total,
    message: isSilent(row)
      ? 'Nothing was heard of it for a while. If its server stopped, another begins it again.'
      : row.message,
    startedBy: row.startedBy,
    startedAt: row.startedAt.toISOString(),
    result: row.result as DryRunState['result'],
  };
}

const own = (site: string, id: string) =>
  and(eq(jobTable.id, id), eq(jobTable.siteId, site), eq(jobTable.kind, DRY_RUN));

async function find(db: Queryable, site: string, id: string): Promise<JobRow> {
  const [row] = await db.select().from(jobTable).where(own(site, id));
  if (!row) throw notFound('dry run');
  return row;
}

const start = handle(dryRunApi.start, async ({ app, operator, site, body }) => {
  // What makes no sense is refused at once, not after the work.
  await stageOf(app.db, site, body);
  const old = lt(jobTable.startedAt, new Date(Date.now() - KEPT_MS));
  await app.db.delete(jobTable).where(and(eq(jobTable.siteId, site), eq(jobTable.kind, DRY_RUN), old));
  const memo: Memo = { basis: await basisOf(app.db, site) };
  const job = await insertJob(app.db, { siteId: site, kind: DRY_RUN, input: body, memo, startedBy: operator.name });
  app.jobs.begin(job);
  return describe(job);
});

const one = handle(dryRunApi.one, async ({ app, site, params }) => describe(await find(app.db, site, params.id!)));

const cancel = handle(dryRunApi.cancel, async ({ app, site, params }) => {
  await endJob(app.db, await find(app.db, site, params.id!), 'cancelled');
  return describe(await find(app.db, site, params.id!));
});

const apply = handle(dryRunApi.apply, async ({ app, operator, site, params, body }) => {
  const id = params.id!;
  try {
    const jobs = await change(app, operator, site, async (tx, record) => {
      await checkMoved(tx, site);
      const [row] = await tx.select().from(jobTable).where(own(site, id)).for('update');
      if (!row) throw notFound('dry run');
      const { state, result, change: wanted } = describe(row);
      if (state === 'applied') throw conflict('applied', 'This change is saved already.');
      if (state !== 'done' || !result)
        throw conflict('not-done', 'The dry run is not finished.', 'Wait for it, or start it again.');
      if ((await basisOf(tx, site)) !== (row.memo as Memo).basis)
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
      const carried = await applyChange(tx, record, site, operator.name, wanted, result);
      await tx.update(jobTable).set({ state: 'applied' }).where(own(site, id));
      return carried;
    });
    for (const job of jobs) app.jobs.begin(job);
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw conflict('card-on-file', 'Two cards would be the same after this change; nothing was saved.');
  }
  return describe(await find(app.db, site, id));
});

export const dryRunRoutes = [start, one, cancel, apply];
