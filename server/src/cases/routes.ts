/** Cases: identifications under way, and what is made of them. */
import {
  type Case,
  type CaseSpecimen,
  caseChangeSchema,
  caseOutcomeSchema,
  caseResultSchema,
  caseSchema,
  caseSummarySchema,
  newCaseSchema,
  type Questions,
} from '@rawbits/core/api';
import { and, desc, eq, sql } from 'drizzle-orm';
import { z } from 'zod';
import { newId, type Queryable, tables } from '../database/index.ts';
import { route } from '../http/app.ts';
import { conflict, notFound } from '../http/problem.ts';
import { change } from '../trail/change.ts';
import { makeResult } from './result.ts';

type Row = typeof tables.cases.$inferSelect;

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

const own = (site: string, id: string) => and(eq(tables.cases.id, id), eq(tables.cases.siteId, site));

async function find(db: Queryable, site: string, id: string): Promise<Row> {
  const [row] = await db.select().from(tables.cases).where(own(site, id));
  if (!row) throw notFound('case');
  return row;
}

/** The case, locked for a change that was made from `revision`. */
async function locked(tx: Queryable, site: string, id: string, revision: number): Promise<Row> {
  const [row] = await tx.select().from(tables.cases).where(own(site, id)).for('update');
  if (!row) throw notFound('case');
  if (row.revision !== revision)
    throw conflict(
      'changed-meanwhile',
      'Somebody changed this case meanwhile.',
      'It is shown as it is now; what you typed last has to be entered again.',
    );
  return row;
}

const list = route({
  method: 'get',
  path: '/sites/{site}/cases',
  summary: 'The cases of a site, the last changed first',
  needs: 'viewer',
  answers: z.array(caseSummarySchema),
  handle: async ({ app, site }) => {
    const { id, name, formatId, createdBy, changedAt } = tables.cases;
    const rows = await app.db
      .select({
        id,
        name,
        formatId,
        createdBy,
        changedAt,
        specimens: sql<number>`json_length(${tables.cases.specimens})`.mapWith(Number),
      })
      .from(tables.cases)
      .where(eq(tables.cases.siteId, site))
      .orderBy(desc(changedAt));
    return rows.map((row) => ({ ...row, changedAt: row.changedAt.toISOString() }));
  },
});

const one = route({
  method: 'get',
  path: '/sites/{site}/cases/{id}',
  summary: 'One case with its specimens',
  needs: 'viewer',
  answers: caseSchema,
  handle: async ({ app, site, params }) => describe(await find(app.db, site, params.id!)),
});

const add = route({
  method: 'post',
  path: '/sites/{site}/cases',
  summary: 'Start a case',
  needs: 'technician',
  body: newCaseSchema,
  answers: caseSchema,
  handle: ({ app, operator, site, body }) =>
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
      await tx.insert(tables.cases).values(row);
      record.trail({
        action: 'case started',
        subject: `case ${body.name}`,
        after: { specimens: body.specimens.length },
      });
      record.announce('cases');
      return describe(row);
    }),
});

const update = route({
  method: 'patch',
  path: '/sites/{site}/cases/{id}',
  summary: 'Change a case: its name, its specimens, what is asked of it',
  needs: 'technician',
  body: caseChangeSchema,
  answers: caseSchema,
  handle: ({ app, operator, site, params, body }) =>
    change(app, operator, site, async (tx, record) => {
      const { revision, ...fields } = body;
      const before = await locked(tx, site, params.id!, revision);
      const next = { ...fields, revision: revision + 1, changedAt: new Date() };
      await tx.update(tables.cases).set(next).where(own(site, params.id!));
      if (fields.name !== undefined || fields.specimens !== undefined)
        record.trail({
          action: 'case changed',
          subject: `case ${fields.name ?? before.name}`,
          before: { name: before.name, specimens: (before.specimens as unknown[]).length },
          after: {
            name: fields.name ?? before.name,
            specimens: (fields.specimens ?? (before.specimens as unknown[])).length,
          },
        });
      record.announce('cases');
      return describe({ ...before, ...next });
    }),
});

const remove = route({
  method: 'delete',
  path: '/sites/{site}/cases/{id}',
  summary: 'Give a case up; formats that came of it stay',
  needs: 'technician',
  answers: z.object({}),
  handle: ({ app, operator, site, params }) =>
    change(app, operator, site, async (tx, record) => {
      const row = await find(tx, site, params.id!);
      await tx.delete(tables.cases).where(own(site, row.id));
      record.trail({ action: 'case given up', subject: `case ${row.name}`, before: { specimens: row.specimens } });
      record.announce('cases');
      return {};
    }),
});

const result = route({
  method: 'post',
  path: '/sites/{site}/cases/{id}/result',
  summary: 'Make the format of a case, for this site, with the case as its evidence; its facility code and translation',
  needs: 'technician',
  body: caseResultSchema,
  answers: caseOutcomeSchema,
  handle: ({ app, operator, site, params, body }) =>
    change(app, operator, site, async (tx, record) => {
      const row = await locked(tx, site, params.id!, body.revision);
      const outcome = await makeResult(tx, record, site, operator.name, describe(row), body);
      await tx
        .update(tables.cases)
        .set({ formatId: outcome.formatId, revision: row.revision + 1, changedAt: new Date() })
        .where(own(site, row.id));
      record.announce('cases');
      return outcome;
    }),
});

export const caseRoutes = [list, one, add, update, remove, result];
