/** Named translations of a site: what leads from one device's number to another's. */
import { translationApi } from '@rawbits/api';
import { translationSchema } from '@rawbits/core/translate';
import { and, asc, eq } from 'drizzle-orm';
import { isDuplicate, newId, tables } from '../database/index.ts';
import { handle } from '../http/app.ts';
import { conflict, notFound } from '../http/problem.ts';
import { change } from '../trail/change.ts';

type Row = typeof tables.translations.$inferSelect;

const describe = ({ siteId: _site, definition, createdAt, ...row }: Row) => ({
  ...row,
  translation: translationSchema.parse(definition),
  createdAt: createdAt.toISOString(),
});

const list = handle(translationApi.list, async ({ app, site }) => {
  const rows = await app.db
    .select()
    .from(tables.translations)
    .where(eq(tables.translations.siteId, site))
    .orderBy(asc(tables.translations.name));
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
      await tx.insert(tables.translations).values(row);
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
    const own = and(eq(tables.translations.id, params.id!), eq(tables.translations.siteId, site));
    const [row] = await tx.select().from(tables.translations).where(own).for('update');
    if (!row) throw notFound('translation');
    await tx.delete(tables.translations).where(own);
    record.trail({ action: 'translation given up', subject: `translation ${row.name}`, before: row.definition });
    record.announce('formats');
    return {};
  }),
);

export const translationRoutes = [list, add, remove];
