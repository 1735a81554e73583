/** Cases: identifications under way, and what is made of them. */

import { type Case, type CaseSpecimen, caseApi, type Questions, type SettledFor, type Splice } from '@rawbits/api';
import { and, desc, eq } from 'drizzle-orm';
import { inSnapshot, newId, type Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict, invalid, notFound } from '../../platform/problem/problem.ts';
import { change, type Record } from '../../platform/trail/change.ts';
import { specimenChange } from './difference.ts';
import { makeResult } from './result.ts';
import { putSpecimens, removeSpecimens, specimensOf, spliceSpecimens } from './specimens.ts';
import { caseTable } from './tables.ts';

type Row = typeof caseTable.$inferSelect;

function describe(row: Row, specimens: CaseSpecimen[]): Case {
  return {
    id: row.id,
    name: row.name,
    revision: row.revision,
    specimens,
    questions: row.questions as Questions,
    formatId: row.formatId,
    settledFor: row.settledFor as SettledFor | null,
    createdBy: row.createdBy,
    changedAt: row.changedAt.toISOString(),
  };
}

const own = (site: string, id: string) => and(eq(caseTable.id, id), eq(caseTable.siteId, site));

async function find(db: Queryable, site: string, id: string): Promise<Row> {
  const [row] = await db.select().from(caseTable).where(own(site, id));
  if (!row) throw notFound('case');
  return row;
}

/** The case, locked for a change that was made from `revision`. */
async function locked(tx: Queryable, site: string, id: string, revision: number): Promise<Row> {
  const [row] = await tx.select().from(caseTable).where(own(site, id)).for('update');
  if (!row) throw notFound('case');
  if (row.revision !== revision)
    throw conflict(
      'changed-meanwhile',
      'Somebody changed this case meanwhile.',
      'It is shown as it is now; what you typed last has to be entered again.',
    );
  return row;
}

const list = handle(caseApi.list, async ({ app, site }) => {
  const { id, name, formatId, settledFor, createdBy, changedAt, specimenCount: specimens } = caseTable;
  const rows = await app.db
    .select({ id, name, formatId, settledFor, createdBy, changedAt, specimens })
    .from(caseTable)
    .where(eq(caseTable.siteId, site))
    .orderBy(desc(changedAt));
  return rows.map((row) => ({
    ...row,
    settledFor: row.settledFor as SettledFor | null,
    changedAt: row.changedAt.toISOString(),
  }));
});

const one = handle(caseApi.one, ({ app, site, params }) =>
  inSnapshot(app.db, async (tx) => {
    const row = await find(tx, site, params.id!);
    return describe(row, await specimensOf(tx, row.id));
  }),
);

const add = handle(caseApi.add, ({ app, operator, site, body }) =>
  change(app, operator, site, async (tx, record) => {
    const now = new Date();
    const { specimens, ...fields } = body;
    const row = {
      ...fields,
      specimenCount: specimens.length,
      id: newId(),
      siteId: site,
      revision: 1,
      formatId: null,
      settledFor: null,
      createdBy: operator.name,
      createdAt: now,
      changedAt: now,
    };
    await tx.insert(caseTable).values(row);
    await putSpecimens(tx, row, specimens);
    record.trail({
      action: 'case started',
      subject: `case ${body.name}`,
      after: { specimens: specimens.length },
    });
    record.announce('cases', { ids: [row.id], added: true });
    return describe(row, specimens);
  }),
);

const update = handle(caseApi.update, ({ app, operator, site, params, body }) =>
  change(app, operator, site, async (tx, record) => {
    const { revision, specimens, splice: given, ...fields } = body;
    const before = await locked(tx, site, params.id!, revision);
    const splice = given ?? (specimens && { at: 0, remove: before.specimenCount, add: specimens });
    const specimenCount = splice ? await spliced(tx, record, before, splice, fields.name) : before.specimenCount;
    const next = { ...fields, specimenCount, revision: revision + 1, changedAt: new Date() };
    await tx.update(caseTable).set(next).where(own(site, params.id!));
    if (!splice && fields.name !== undefined && fields.name !== before.name)
      record.trail({
        action: 'case changed',
        subject: `case ${fields.name}`,
        before: { name: before.name, specimens: specimenCount },
        after: { name: fields.name, specimens: specimenCount },
      });
    record.announce('cases', { ids: [before.id] });
    return { id: before.id, revision: next.revision, changedAt: next.changedAt.toISOString() };
  }),
);

/** Changes the specimens in one place, and tells the trail what they were there; gives how many there are then. */
async function spliced(tx: Queryable, record: Record, of: Row, splice: Splice, name = of.name): Promise<number> {
  const { at, remove, add } = splice;
  const count = of.specimenCount - remove + add.length;
  if (at + remove > of.specimenCount)
    throw invalid(
      'splice',
      `The case has ${of.specimenCount} specimens; there are none from ${at} to ${at + remove - 1}.`,
    );
  if (count > MOST) throw invalid('splice', `${count} specimens are too many; a case holds at most 10,000.`);
  const old = await specimensOf(tx, of.id, at, remove);
  const sides = specimenChange(old, add, { at, before: of.specimenCount, after: count });
  const was = { name: of.name, ...sides.before };
  const is = { name, ...sides.after };
  // The same sent again is no change.
  if (JSON.stringify(was) !== JSON.stringify(is))
    record.trail({ action: 'case changed', subject: `case ${name}`, before: was, after: is });
  await spliceSpecimens(tx, of, splice);
  return count;
}
/** The most specimens of a case. */
const MOST = 10_000;

const remove = handle(caseApi.remove, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    const row = await find(tx, site, params.id!);
    const specimens = await specimensOf(tx, row.id);
    await tx.delete(caseTable).where(own(site, row.id));
    await removeSpecimens(tx, row.id);
    record.trail({ action: 'case given up', subject: `case ${row.name}`, before: { specimens } });
    record.announce('cases', { ids: [row.id] });
    return {};
  }),
);

const result = handle(caseApi.result, ({ app, operator, site, params, body }) =>
  change(app, operator, site, async (tx, record) => {
    const row = await locked(tx, site, params.id!, body.revision);
    const specimens = await specimensOf(tx, row.id);
    const outcome = await makeResult(tx, record, site, operator.name, describe(row, specimens), body);
    const heard = specimens.filter(({ setAside }) => !setAside).length;
    const settledFor = body.settledFor && { ...body.settledFor, specimens: heard };
    await tx
      .update(caseTable)
      .set({ formatId: outcome.formatId, settledFor, revision: row.revision + 1, changedAt: new Date() })
      .where(own(site, row.id));
    record.announce('cases', { ids: [row.id] });
    return outcome;
  }),
);

export const caseRoutes = [list, one, add, update, remove, result];
