/** A new site: its row, its chain, and its first administrator. */
import { newId, type Queryable, tables } from '../database/index.ts';
import { openChain } from '../trail/change.ts';

export async function insertSite(
  tx: Queryable,
  site: { name: string; shortName: string; hasRig?: boolean },
  administratorId: string,
): Promise<string> {
  const id = newId();
  await tx
    .insert(tables.sites)
    .values({ id, name: site.name, shortName: site.shortName, hasRig: site.hasRig ?? false, createdAt: new Date() });
  await openChain(tx, id);
  await tx.insert(tables.operatorSites).values({ operatorId: administratorId, siteId: id, role: 'administrator' });
  return id;
}
