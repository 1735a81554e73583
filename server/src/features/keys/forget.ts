/** Taking out everything that was kept of a site's keys. */
import { eq } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { forgetMarks } from '../../platform/marks/index.ts';
import {
  cardKeyTable,
  componentTable,
  keyHoldingTable,
  keyRequestTable,
  keySetTable,
  keyTable,
  keyUseRequestTable,
  keyUseTable,
  keyVersionTable,
} from './tables.ts';

/** All but the backups: they are how the keys come back. */
export async function forgetAll(tx: Queryable, site: string): Promise<void> {
  for (const table of [
    componentTable,
    keyVersionTable,
    keyTable,
    keySetTable,
    keyHoldingTable,
    cardKeyTable,
    keyRequestTable,
    keyUseTable,
    keyUseRequestTable,
  ])
    await tx.delete(table).where(eq(table.siteId, site));
  for (const kind of ['key', 'key use request', 'key request'] as const) await forgetMarks(tx, site, kind);
}
