/** Named translations of a site: what leads from one device's number to another's. */

import { translationApi } from '@rawbits/api';
import { translationSchema } from '@rawbits/core/translate';
import { and, asc, eq } from 'drizzle-orm';
import { isDuplicate, newId } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { translationTable } from './tables.ts';

type Row = typeof translationTable.$inferSelect;

const describe = ({ siteId: _site, definition, createdAt, ...row }: Row) => ({
  ...row,
  translation: translationSchema.parse(definition),
  createdAt: createdAt.toISOString(),
});

const list = handle(translationApi.list, async ({ app, site }) => {
  const rows = await app.db
    .select()
    .from(translationTable)
    .where(eq(translationTable.siteId, site))
    .orderBy(asc(translationTable.name));
  return rows.map(describe);
});

const add = handle(translationApi.add, async ({ app, operator, site, body }) => {
  const { name, notes, translation } = body;
  const row = {
    id: newId(),
    siteId: site,
    name,
    notes,
    definition: translation,
    createdBy: operator.name,
    createdAt: new Date(),
  };
  try {
    await change(app, operator, site, async (tx, record) => {
      await tx.insert(translationTable).values(row);
      record.trail({ action: 'translation kept', subject: `translation ${name}`, after: translation });
      record.announce('formats');
    });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw conflict('name-taken', `There is a translation "${name}" already.`, 'Choose another name.', 'name');
  }
  return describe(row);
});

const remove = handle(translationApi.remove, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    const own = and(eq(translationTable.id, params.id!), eq(translationTable.siteId, site));
    const [row] = await tx.select().from(translationTable).where(own).for('update');
    if (!row) throw notFound('translation');
    await tx.delete(translationTable).where(own);
    record.trail({ action: 'translation given up', subject: `translation ${row.name}`, before: row.definition });
    record.announce('formats');
    return {};
  }),
);

export const translationRoutes = [list, add, remove];
