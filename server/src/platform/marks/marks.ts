/**
 * A mark is the HMAC-SHA-256 of what stands in a row, under the trail's key, which is outside the database. It is kept in a
 * table of its own: a row that was changed, made up or put back from an older copy of its table does not agree with its mark,
 * and neither does a mark put back alone. Both put back together from the same moment do; that is the record's to find.
 */
import { timingSafeEqual } from 'node:crypto';
import { canonicalJson } from '@rawbits/core/access';
import { and, eq, inArray } from 'drizzle-orm';
import type { Queryable } from '../database/index.ts';
import type { TrailKeeper } from '../trail/keeper.ts';
import { markTable } from './tables.ts';

/** What has marks: each with what its content is made of, where it is written. */
export const MARK_KINDS = ['key', 'plan', 'plan version', 'device host', 'key use request', 'key request'] as const;
export type MarkKind = (typeof MARK_KINDS)[number];

/** A row by its kind and name, and everything of it that counts. */
export interface Mark {
  kind: MarkKind;
  rowId: string;
  content: unknown;
}

interface Keeping {
  trail: TrailKeeper;
}

const macOf = ({ trail }: Keeping, { kind, rowId, content }: Mark): string =>
  trail.keyed(`row mark ${JSON.stringify([kind, rowId, canonicalJson(content)])}`);

/** Marks a row as it is now, in the transaction that wrote it. */
export async function markRow(app: Keeping, tx: Queryable, siteId: string | null, mark: Mark): Promise<void> {
  const { kind, rowId } = mark;
  const mac = macOf(app, mark);
  await tx.insert(markTable).values({ kind, rowId, siteId, mac }).onDuplicateKeyUpdate({ set: { mac } });
}

/** Takes the mark of a row away that is gone. */
export async function unmarkRow(tx: Queryable, kind: MarkKind, ...rowIds: string[]): Promise<void> {
  if (rowIds.length === 0) return;
  await tx.delete(markTable).where(and(eq(markTable.kind, kind), inArray(markTable.rowId, rowIds)));
}

/**
 * Of some rows of one kind whether each agrees with its mark: `holds`, `differs`, or `none` where there is no mark. By the
 * names of the rows; one statement, whatever their number.
 */
export async function marksOf(
  app: Keeping,
  db: Queryable,
  kind: MarkKind,
  rows: readonly Omit<Mark, 'kind'>[],
): Promise<Map<string, 'holds' | 'differs' | 'none'>> {
  if (rows.length === 0) return new Map();
  const names = rows.map(({ rowId }) => rowId);
  const marks = await db
    .select()
    .from(markTable)
    .where(and(eq(markTable.kind, kind), inArray(markTable.rowId, names)));
  return new Map(
    rows.map((row) => {
      const mark = marks.find(({ rowId }) => rowId === row.rowId);
      if (!mark) return [row.rowId, 'none'];
      const wanted = macOf(app, { kind, ...row });
      const holds = mark.mac.length === wanted.length && timingSafeEqual(Buffer.from(mark.mac), Buffer.from(wanted));
      return [row.rowId, holds ? 'holds' : 'differs'];
    }),
  );
}

/** Forgets the marks of one kind at a site, with all that they were of. */
export async function forgetMarks(tx: Queryable, siteId: string, kind: MarkKind): Promise<void> {
  await tx.delete(markTable).where(and(eq(markTable.siteId, siteId), eq(markTable.kind, kind)));
}
