/** Sites: the ones an operator works at, and new ones. */

import { siteApi } from '@rawbits/api';
import { inArray } from 'drizzle-orm';
import { handle } from '../../platform/http/app.ts';
import { change, HOUSE } from '../../platform/trail/change.ts';
import { insertSite } from './insert.ts';
import { siteTable } from './tables.ts';

const list = handle(siteApi.list, async ({ app, operator }) => {
  const ids = [...operator.roles.keys()];
  return ids.length === 0
    ? []
    : app.db.select().from(siteTable).where(inArray(siteTable.id, ids)).orderBy(siteTable.name);
});

const add = handle(siteApi.add, async ({ app, operator, body }) =>
  change(app, operator, HOUSE, async (tx, record) => {
    const id = await insertSite(tx, body, operator.id);
    record.trail({ action: 'site added', subject: `site ${body.name}`, after: { id, ...body } });
    return { id, ...body, hasRig: false };
  }),
);

export const siteRoutes = [list, add];
