/** The specimens of a case as rows: read in their order, put, and changed in one place without touching the others. */
import type { CaseSpecimen, Splice } from '@rawbits/api';
import { and, asc, eq, gte, lt, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { caseSpecimenTable } from './tables.ts';

/** Rows in one statement. */
const PIECE = 500;

export interface CaseKey {
  id: string;
  siteId: string;
}

const { caseId, position } = caseSpecimenTable;

/** All of them, or those of some places: from `at` on, `count` of them. */
export async function specimensOf(db: Queryable, id: string, at = 0, count?: number): Promise<CaseSpecimen[]> {
  const until = count === undefined ? undefined : lt(position, at + count);
  const rows = await db
    .select({ specimen: caseSpecimenTable.specimen })
    .from(caseSpecimenTable)
    .where(and(eq(caseId, id), gte(position, at), until))
    .orderBy(asc(position));
  return rows.map(({ specimen }) => specimen as CaseSpecimen);
}

/** Puts specimens at the places from `at` on, which have to be free. */
export async function putSpecimens(
  tx: Queryable,
  { id, siteId }: CaseKey,
  specimens: readonly CaseSpecimen[],
  at = 0,
): Promise<void> {
  for (let i = 0; i < specimens.length; i += PIECE) {
    const rows = specimens
      .slice(i, i + PIECE)
      .map((specimen, k) => ({ caseId: id, position: at + i + k, siteId, specimen }));
    await tx.insert(caseSpecimenTable).values(rows);
  }
}

/** Takes some out and puts others in their place; those behind move up or down. Costs by what is put and by what moves. */
export async function spliceSpecimens(tx: Queryable, of: CaseKey, { at, remove, add }: Splice): Promise<void> {
  if (remove > 0)
    await tx.delete(caseSpecimenTable).where(and(eq(caseId, of.id), gte(position, at), lt(position, at + remove)));
  const shift = add.length - remove;
  if (shift !== 0) {
    // In this order no row ever moves to a place that another still has.
    const order = shift > 0 ? sql`DESC` : sql`ASC`;
    await tx.execute(
      sql`UPDATE case_specimens SET position = position + ${shift} WHERE case_id = ${of.id} AND position >= ${at + remove} ORDER BY position ${order}`,
    );
  }
  await putSpecimens(tx, of, add, at);
}

export async function removeSpecimens(tx: Queryable, id: string): Promise<void> {
  await tx.delete(caseSpecimenTable).where(eq(caseId, id));
}
