/** What a site is busy with: changes of many cards, told until they are done. */

import { workApi } from '@rawbits/api';
import { and, asc, eq, inArray } from 'drizzle-orm';
import { handle } from '../../platform/http/app.ts';
import { type JobRow, jobTable } from '../../platform/jobs/index.ts';
import { BOX, workInputSchema } from '../boxes/index.ts';
import { controllerTable, MARKING, RECODING } from '../doors/index.ts';

const list = handle(workApi.list, async ({ app, site }) => {
  const mine = and(
    eq(jobTable.siteId, site),
    inArray(jobTable.kind, [MARKING, RECODING, BOX]),
    eq(jobTable.state, 'running'),
  );
  const jobs = await app.db.select().from(jobTable).where(mine).orderBy(asc(jobTable.startedAt));
  if (jobs.length === 0) return [];
  const controllers = await app.db.select().from(controllerTable).where(eq(controllerTable.siteId, site));
  const names = new Map(controllers.map(({ id, name }) => [id, name]));
  return jobs.map((job) => ({
    id: job.id,
    kind: job.kind,
    what: wordsFor(job, names),
    done: job.done,
    total: job.total,
    startedBy: job.startedBy,
    startedAt: job.startedAt.toISOString(),
  }));
});

function wordsFor({ kind, subject, input }: JobRow, names: ReadonlyMap<string, string>): string {
  if (kind === MARKING)
    return `Working out which ${(input as { formatId: string }).formatId} cards ${names.get(subject) ?? 'a controller'} should have`;
  if (kind === BOX) {
    const work = workInputSchema.parse(input);
    return work.does === 'enter' ? `Entering the box ${work.box.name}` : `Taking the box ${work.name} back`;
  }
  const { from, to } = input as { from: string; to: string };
  return `Moving cards from facility code ${from} to ${to}`;
}

export const workRoutes = [list];
