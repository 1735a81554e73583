/** Cases: identifications under way, and what is made of them. */

import { type Case, type CaseSpecimen, caseApi, type Questions } from '@rawbits/api';
import { and, desc, eq, sql } from 'drizzle-orm';
import { newId, type Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { specimenChange } from './difference.ts';
import { makeResult } from './result.ts';
import { caseTable } from './tables.ts';

type Row = typeof caseTable.$inferSelect;

function describe(row: Row): Case {
  return {
    id: row.id,
    name: row.name,
    revision: row.revision,
    specimens: row.specimens as CaseSpecimen[],
    questions: row.questions as Questions,
    formatId: row.formatId,
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
  const { id, name, formatId, createdBy, changedAt } = caseTable;
  const rows = await app.db
    .select({
      id,
      name,
      formatId,
      createdBy,
      changedAt,
      specimens: sql<number>`json_length(${caseTable.specimens})`.mapWith(Number),
    })
    .from(caseTable)
    .where(eq(caseTable.siteId, site))
    .orderBy(desc(changedAt));
  return rows.map((row) => ({ ...row, changedAt: row.changedAt.toISOString() }));
});

const one = handle(caseApi.one, async ({ app, site, params }) => describe(await find(app.db, site, params.id!)));

const add = handle(caseApi.add, ({ app, operator, site, body }) =>
  change(app, operator, site, async (tx, record) => {
    const now = new Date();
    const row = {
      ...body,
      id: newId(),
      siteId: site,
      revision: 1,
      formatId: null,
      createdBy: operator.name,
      createdAt: now,
      changedAt: now,
    };
    await tx.insert(caseTable).values(row);
    record.trail({
      action: 'case started',
      subject: `case ${body.name}`,
      after: { specimens: body.specimens.length },
    });
    record.announce('cases', { ids: [row.id], added: true });
    return describe(row);
  }),
);

const update = handle(caseApi.update, ({ app, operator, site, params, body }) =>
  change(app, operator, site, async (tx, record) => {
    const { revision, ...fields } = body;
    const before = await locked(tx, site, params.id!, revision);
    const next = { ...fields, revision: revision + 1, changedAt: new Date() };
    await tx.update(caseTable).set(next).where(own(site, params.id!));
    if (fields.name !== undefined || fields.specimens !== undefined) {
      const old = before.specimens as CaseSpecimen[];
      const sides = specimenChange(old, fields.specimens ?? old);
      const was = { name: before.name, ...sides.before };
      const is = { name: fields.name ?? before.name, ...sides.after };
      // The same sent again is no change.
      if (JSON.stringify(was) !== JSON.stringify(is))
        record.trail({ action: 'case changed', subject: `case ${is.name}`, before: was, after: is });
    }
    record.announce('cases', { ids: [before.id] });
    return describe({ ...before, ...next });
  }),
);

const remove = handle(caseApi.remove, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    const row = await find(tx, site, params.id!);
    await tx.delete(caseTable).where(own(site, row.id));
    record.trail({ action: 'case given up', subject: `case ${row.name}`, before: { specimens: row.specimens } });
    record.announce('cases', { ids: [row.id] });
    return {};
  }),
);

const result = handle(caseApi.result, ({ app, operator, site, params, body }) =>
  change(app, operator, site, async (tx, record) => {
    const row = await locked(tx, site, params.id!, body.revision);
    const outcome = await makeResult(tx, record, site, operator.name, describe(row), body);
    await tx
      .update(caseTable)
      .set({ formatId: outcome.formatId, revision: row.revision + 1, changedAt: new Date() })
      .where(own(site, row.id));
    record.announce('cases', { ids: [row.id] });
    return outcome;
  }),
);

export const caseRoutes = [list, one, add, update, remove, result];
