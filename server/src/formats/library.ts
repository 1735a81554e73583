/** The format library: reading versions, and the catalogue put in at the first start. */
import type { LibraryFormat } from '@rawbits/core/api';
import { CATALOGUE } from '@rawbits/core/catalogue';
import { type Format, formatSchema, printLayoutLine } from '@rawbits/core/format';
import { and, asc, eq, isNull } from 'drizzle-orm';
import { type Database, type Queryable, tables } from '../database/index.ts';

type VersionRow = typeof tables.formatVersions.$inferSelect;

export function libraryFormat(row: VersionRow): LibraryFormat {
  return {
    format: formatSchema.parse(row.definition),
    version: row.version,
    layout: row.layout,
    createdAt: row.createdAt.toISOString(),
    createdBy: row.createdBy,
    reason: row.reason,
  };
}

/** The current version of every format that is not retired. */
export async function currentFormats(db: Queryable): Promise<LibraryFormat[]> {
  const rows = await db
    .select({ version: tables.formatVersions })
    .from(tables.formats)
    .innerJoin(
      tables.formatVersions,
      and(
        eq(tables.formatVersions.formatId, tables.formats.id),
        eq(tables.formatVersions.version, tables.formats.currentVersion),
      ),
    )
    .where(isNull(tables.formats.retiredAt))
    .orderBy(asc(tables.formats.id));
  return rows
    .map((row) => libraryFormat(row.version))
    .sort((a, b) => a.format.bits - b.format.bits || a.format.id.localeCompare(b.format.id));
}

/** The versions that a site has adopted. */
export async function adoptedFormats(db: Queryable, siteId: string): Promise<LibraryFormat[]> {
  const rows = await db
    .select({ version: tables.formatVersions })
    .from(tables.siteFormats)
    .innerJoin(
      tables.formatVersions,
      and(
        eq(tables.formatVersions.formatId, tables.siteFormats.formatId),
        eq(tables.formatVersions.version, tables.siteFormats.version),
      ),
    )
    .where(eq(tables.siteFormats.siteId, siteId));
  return rows.map((row) => libraryFormat(row.version));
}

export async function insertFormat(db: Queryable, format: Format, createdBy: string, reason: string): Promise<void> {
  const now = new Date();
  await db.insert(tables.formats).values({ id: format.id, currentVersion: 1, createdAt: now });
  await db.insert(tables.formatVersions).values({
    formatId: format.id,
    version: 1,
    definition: format,
    layout: printLayoutLine(format),
    reason,
    createdBy,
    createdAt: now,
  });
}

/** Puts in what the catalogue has and the library has not; several servers may do it at once. */
export async function seedLibrary(db: Database): Promise<void> {
  const now = new Date();
  const rows = CATALOGUE.map((format) => ({
    formatId: format.id,
    version: 1,
    definition: format,
    layout: printLayoutLine(format),
    reason: 'from the catalogue',
    createdBy: 'Raw Bits',
    createdAt: now,
  }));
  await db.insert(tables.formatVersions).ignore().values(rows);
  await db
    .insert(tables.formats)
    .ignore()
    .values(CATALOGUE.map(({ id }) => ({ id, currentVersion: 1, createdAt: now })));
}
