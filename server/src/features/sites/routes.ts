/** Sites: the ones an operator works at, and new ones. */

import { siteApi } from '@rawbits/api';
import { eq, inArray } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
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

/** What has to be worked out anew where a site's clocks change, by whoever keeps it. */
type ZoneChanged = (tx: Queryable, site: string) => Promise<void>;

const update = (zoneChanged: ZoneChanged) =>
  handle(siteApi.update, ({ app, operator, site, body }) =>
    change(app, operator, site, async (tx, record) => {
      const own = eq(siteTable.id, site);
      const [before] = await tx.select().from(siteTable).where(own).for('update');
      const { name, shortName, timeZone, hasRig } = { ...before!, ...body };
      await tx.update(siteTable).set({ name, shortName, timeZone }).where(own);
      if (timeZone !== before!.timeZone) {
        await zoneChanged(tx, site);
        record.announce('controllers');
      }
      record.trail({
        action: 'site changed',
        subject: `site ${name}`,
        before: { name: before!.name, shortName: before!.shortName, timeZone: before!.timeZone },
        after: { name, shortName, timeZone },
      });
      record.announce('operators');
      return { id: site, name, shortName, timeZone, hasRig };
    }),
  );

export const siteRoutes = (zoneChanged: ZoneChanged) => [list, add, update(zoneChanged)];
