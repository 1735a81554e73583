/** Looking a facility code up by what it is known by. */

import type { FacilityCode } from '@rawbits/api';
import { and, eq, inArray } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { facilityCodeTable } from './tables.ts';

/** The named code of a site for a format (empty: for any), or undefined. */
export async function namedCode(tx: Queryable, siteId: string, formatId: string, code: string) {
  const [row] = await tx
    .select()
    .from(facilityCodeTable)
    .where(
      and(
        eq(facilityCodeTable.siteId, siteId),
        eq(facilityCodeTable.formatId, formatId),
        eq(facilityCodeTable.code, code),
      ),
    );
  return row;
}

type Reserved = FacilityCode['reserved'][number];

/** The ranges of a code as they are kept: those from before ranges could be kept for encoding are not. */
export const reservedFrom = (kept: unknown): Reserved[] =>
  ((kept ?? []) as (Omit<Reserved, 'forEncoding'> & { forEncoding?: boolean })[]).map((range) => ({
    ...range,
    forEncoding: range.forEncoding ?? false,
  }));

/** The ranges that are reserved under a code, for a format or for all. */
export async function reservedUnder(
  db: Queryable,
  siteId: string,
  formatId: string,
  code: string,
): Promise<Reserved[]> {
  if (code === '') return [];
  const rows = await db
    .select({ reserved: facilityCodeTable.reserved })
    .from(facilityCodeTable)
    .where(
      and(
        eq(facilityCodeTable.siteId, siteId),
        inArray(facilityCodeTable.formatId, [formatId, '']),
        eq(facilityCodeTable.code, code),
      ),
    );
  return rows.flatMap(({ reserved }) => reservedFrom(reserved));
}
