/** A new site: its row, its chain, and its first administrator. */

import { newId, type Queryable } from '../../platform/database/index.ts';
import { operatorSiteTable } from '../../platform/session/tables.ts';
import { openChain } from '../../platform/trail/change.ts';
import { siteTable } from './tables.ts';

export async function insertSite(
  tx: Queryable,
  {
    id = newId(),
    name,
    shortName,
    timeZone,
    hasRig = false,
  }: { id?: string; name: string; shortName: string; timeZone: string; hasRig?: boolean },
  administratorId: string,
): Promise<string> {
  await tx.insert(siteTable).values({ id, name, shortName, timeZone, hasRig, createdAt: new Date() });
  await openChain(tx, id);
  await tx.insert(operatorSiteTable).values({ operatorId: administratorId, siteId: id, role: 'administrator' });
  return id;
}
