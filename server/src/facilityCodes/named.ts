/** Looking a facility code up by what it is known by. */
import { and, eq } from 'drizzle-orm';
import { type Queryable, tables } from '../database/index.ts';

/** The named code of a site for a format (empty: for any), or undefined. */
export async function namedCode(tx: Queryable, siteId: string, formatId: string, code: string) {
  const [row] = await tx
    .select()
    .from(tables.facilityCodes)
    .where(
      and(
        eq(tables.facilityCodes.siteId, siteId),
        eq(tables.facilityCodes.formatId, formatId),
        eq(tables.facilityCodes.code, code),
      ),
    );
  return row;
}
