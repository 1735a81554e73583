/** Changes of many cards that are still being carried out, and what waits for them. */
import { and, eq } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { type JobRow, jobTable } from '../../platform/jobs/index.ts';
import { conflict } from '../../platform/problem/problem.ts';
import { MARKING } from './items.ts';

/** The kind of the job that moves cards to another facility code. */
export const RECODING = 'recoding';

async function underWay(tx: Queryable, kind: string, where: Partial<Pick<JobRow, 'siteId' | 'subject'>>) {
  const [job] = await tx
    .select()
    .from(jobTable)
    .where(
      and(
        eq(jobTable.kind, kind),
        eq(jobTable.state, 'running'),
        where.siteId === undefined ? undefined : eq(jobTable.siteId, where.siteId),
        where.subject === undefined ? undefined : eq(jobTable.subject, where.subject),
      ),
    )
    .limit(1);
  return job;
}

const far = ({ done, total }: JobRow): string => `${done.toLocaleString('en')} of ${total.toLocaleString('en')}`;

/** Throws where cards of the site are still being moved to another facility code. */
export async function checkMoved(tx: Queryable, siteId: string): Promise<void> {
  const job = await underWay(tx, RECODING, { siteId });
  if (job)
    throw conflict(
      'being-moved',
      `Cards of the site are still being moved to another facility code: ${far(job)}.`,
      'Do it when that is done.',
    );
}

/** Throws where it is still being worked out what a controller should have. */
export async function checkMarked(
  tx: Queryable,
  controller: { id: string; siteId: string; name: string },
): Promise<void> {
  await checkMoved(tx, controller.siteId);
  const job = await underWay(tx, MARKING, { subject: controller.id });
  if (job)
    throw conflict(
      'being-marked',
      `Which cards ${controller.name} should have is still being worked out: ${far(job)}.`,
      'Load it when that is done.',
    );
}
