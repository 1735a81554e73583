/** System identifiers of a site: what goes into its diversified keys, behind UID and application. */
import { systemIdentifierApi } from '@rawbits/api';
import { and, asc, eq } from 'drizzle-orm';
import { isDuplicate, newId } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { systemIdentifierTable } from './tables.ts';

const list = handle(systemIdentifierApi.list, ({ app, site }) =>
  app.db
    .select()
    .from(systemIdentifierTable)
    .where(eq(systemIdentifierTable.siteId, site))
    .orderBy(asc(systemIdentifierTable.name)),
);

const add = handle(systemIdentifierApi.add, async ({ app, operator, site, body }) => {
  const row = { id: newId(), siteId: site, ...body };
  try {
    await change(app, operator, site, async (tx, record) => {
      await tx.insert(systemIdentifierTable).values(row);
      record.trail({ action: 'system identifier added', subject: `system identifier ${row.name}`, after: row.bytes });
      record.announce('keys');
    });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw conflict('name-taken', `There is a system identifier "${row.name}" already.`, 'Choose another name.', 'name');
  }
  return row;
});

const remove = handle(systemIdentifierApi.remove, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    const own = and(eq(systemIdentifierTable.id, params.id!), eq(systemIdentifierTable.siteId, site));
    const [row] = await tx.select().from(systemIdentifierTable).where(own).for('update');
    if (!row) throw notFound('system identifier');
    await tx.delete(systemIdentifierTable).where(own);
    record.trail({
      action: 'system identifier given up',
      subject: `system identifier ${row.name}`,
      before: row.bytes,
    });
    record.announce('keys');
    return {};
  }),
);

export const identifierRoutes = [list, add, remove];
