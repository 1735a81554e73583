/** Boxes: reviewed, entered, looked at, taken back. */
import { type BoxWork, boxApi } from '@rawbits/api';
import { checkLabel } from '@rawbits/core/box';
import { RawBitsError } from '@rawbits/core/failure';
import type { Format } from '@rawbits/core/format';
import { and, desc, eq, inArray, lt, ne, or, type SQL } from 'drizzle-orm';
import { z } from 'zod';
import { newId, type Queryable } from '../../platform/database/index.ts';
import { type App, type Asking, handle } from '../../platform/http/app.ts';
import { endJob, insertJob, type JobRow, jobTable } from '../../platform/jobs/index.ts';
import { conflict, HttpProblem, invalid, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { boxTable } from '../cards/index.ts';
import { checkMoved } from '../doors/index.ts';
import { adoptedFormats } from '../library/index.ts';
import { type BoxAsked, type BoxRow, describeBoxes, findBox, ownBox, rowFrom } from './describe.ts';
import { reviewOf, seenOf } from './review.ts';
import { BOX, checkUntouched, subjectOf, type WorkInput, workInputSchema } from './work.ts';

/** The format of a box that can be one; throws what stands against it, with the field. */
async function formatFor(db: Queryable, site: string, asked: BoxAsked): Promise<Format> {
  const format = (await adoptedFormats(db, site)).find((f) => f.format.id === asked.formatId)?.format;
  if (!format) throw invalid('formatId', 'The site has not adopted this format.', 'Adopt it under Formats first.');
  try {
    checkLabel(format, asked);
  } catch (error) {
    if (!(error instanceof RawBitsError)) throw error;
    throw new HttpProblem(422, error.toFailure());
  }
  return format;
}

const review = handle(boxApi.review, async ({ app, site, body }) =>
  reviewOf(app.db, site, await formatFor(app.db, site, body), body),
);

function describeWork({ id, state, done, total, message, input }: JobRow): BoxWork {
  const work = workInputSchema.parse(input);
  const name = work.does === 'enter' ? work.box.name : work.name;
  const box = work.does === 'enter' ? (state === 'done' ? work.id : null) : state === 'done' ? null : work.id;
  return { id, does: work.does, state: state as BoxWork['state'], done, total, message, name, box };
}

const ofSite = (site: string, id: string) =>
  and(eq(jobTable.id, id), eq(jobTable.siteId, site), eq(jobTable.kind, BOX));

async function findWork(db: Queryable, site: string, id: string): Promise<JobRow> {
  const [row] = await db.select().from(jobTable).where(ofSite(site, id));
  if (!row) throw notFound('work');
  return row;
}

const newWork = (site: string, total: number, startedBy: string, input: WorkInput) => ({
  ...{ siteId: site, kind: BOX, subject: input.id, slot: `${BOX} ${site}`, total, startedBy, input },
});

const KEPT_MS = 7 * 24 * 3600_000;

/** What was entered or taken back long ago stands in the trail; how far it was is asked no more. */
async function forgetOld(tx: Queryable, site: string): Promise<void> {
  const old = lt(jobTable.startedAt, new Date(Date.now() - KEPT_MS));
  const ended = and(eq(jobTable.siteId, site), eq(jobTable.kind, BOX), ne(jobTable.state, 'running'), old);
  const rows = await tx.select({ id: jobTable.id }).from(jobTable).where(ended);
  if (rows.length === 0) return;
  await tx.delete(jobTable).where(
    inArray(
      jobTable.id,
      rows.map(({ id }) => id),
    ),
  );
}

async function begin(app: App, operator: Asking, work: ReturnType<typeof newWork>): Promise<BoxWork> {
  const job = await change(app, operator, work.siteId, async (tx, record) => {
    record.announce('work');
    await forgetOld(tx, work.siteId);
    return insertJob(tx, work);
  });
  app.jobs.begin(job);
  return describeWork(job);
}

const enter = handle(boxApi.enter, async ({ app, operator, site, body }) => {
  const { seen, leaveOut, ...box } = body;
  const row = rowFrom(await formatFor(app.db, site, box), box);
  await checkMoved(app.db, site);
  if ((await seenOf(app.db, site, row)) !== seen)
    throw conflict(
      'changed-meanwhile',
      'Cards or boxes of these numbers changed since the review.',
      'Review it again.',
    );
  const who = { id: operator.id, name: operator.name };
  const input: WorkInput = { does: 'enter', who, box, id: newId(), seen, leaveOut };
  return begin(app, operator, newWork(site, row.count, operator.name, input));
});

const takeBack = handle(boxApi.takeBack, async ({ app, operator, site, params, query }) => {
  const box = await findBox(app.db, site, params.id!);
  checkRevision(box, query.revision);
  await checkMoved(app.db, site);
  await checkUntouched(app.db, box);
  const who = { id: operator.id, name: operator.name };
  const input: WorkInput = { does: 'take back', who, id: box.id, name: box.name };
  return begin(app, operator, newWork(site, box.count, operator.name, input));
});

const work = handle(boxApi.work, async ({ app, site, params }) =>
  describeWork(await findWork(app.db, site, params.id!)),
);

const cancel = handle(boxApi.cancel, async ({ app, operator, site, params }) => {
  await change(app, operator, site, async (tx, record) => {
    if (await endJob(tx, await findWork(tx, site, params.id!), 'cancelled')) record.announce('work');
  });
  return describeWork(await findWork(app.db, site, params.id!));
});

function checkRevision(box: BoxRow, seen: number): void {
  if (box.revision !== seen)
    throw conflict('changed-meanwhile', 'Somebody changed this box meanwhile.', 'Look at it as it is now.');
}

const update = handle(boxApi.update, ({ app, operator, site, params, body }) =>
  change(app, operator, site, async (tx, record) => {
    const [box] = await tx.select().from(boxTable).where(ownBox(site, params.id!)).for('update');
    if (!box) throw notFound('box');
    checkRevision(box, body.revision);
    const { name, notes, blanks = box.blanks } = body;
    await tx
      .update(boxTable)
      .set({ name, notes, blanks, revision: box.revision + 1 })
      .where(ownBox(site, box.id));
    const before = { id: box.id, name: box.name, notes: box.notes, blanks: box.blanks };
    record.trail({
      action: 'box changed',
      subject: subjectOf(box),
      before,
      after: { id: box.id, name, notes, blanks },
    });
    record.announce('cards', { ids: [], added: true });
    const [described] = await describeBoxes(tx, [{ ...box, name, notes, blanks, revision: box.revision + 1 }]);
    return described!;
  }),
);

const one = handle(boxApi.one, async ({ app, site, params }) => {
  const [box] = await describeBoxes(app.db, [await findBox(app.db, site, params.id!)]);
  return box!;
});

/** Where a page ended: when a box was entered, and which. */
const cursorSchema = z.tuple([z.iso.datetime(), z.string().max(40)]);

function past(after: string): SQL | undefined {
  let parsed: unknown;
  try {
    parsed = JSON.parse(Buffer.from(after, 'base64url').toString('utf8'));
  } catch {
    parsed = undefined;
  }
  const cursor = cursorSchema.safeParse(parsed);
  if (!cursor.success) throw invalid('after', 'This is not where a page ended.', 'Begin at the first page again.');
  const [text, id] = cursor.data;
  const at = new Date(text);
  return or(lt(boxTable.enteredAt, at), and(eq(boxTable.enteredAt, at), lt(boxTable.id, id)));
}

const list = handle(boxApi.list, async ({ app, site, query: { after, limit } }) => {
  const rows = await app.db
    .select()
    .from(boxTable)
    .where(and(eq(boxTable.siteId, site), after === undefined ? undefined : past(after)))
    .orderBy(desc(boxTable.enteredAt), desc(boxTable.id))
    .limit(limit + 1);
  const page = rows.slice(0, limit);
  const last = page.at(-1);
  const cursor = last && JSON.stringify([last.enteredAt.toISOString(), last.id]);
  return {
    boxes: await describeBoxes(app.db, page),
    next: rows.length > limit && cursor ? Buffer.from(cursor).toString('base64url') : null,
  };
});

export const boxRoutes = [list, one, review, enter, update, takeBack, work, cancel];
