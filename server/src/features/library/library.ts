/** The format library: reading versions, saving new ones, and the catalogue put in at the first start. */

import type { LibraryFormat } from '@rawbits/api';
import { CATALOGUE } from '@rawbits/core/catalogue';
import { type Format, formatSchema, printLayoutLine } from '@rawbits/core/format';
import { and, asc, eq, isNull, sql } from 'drizzle-orm';
import type { Database, Queryable } from '../../platform/database/index.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import { formatEvidenceTable, formatTable, formatVersionTable, siteFormatTable } from './tables.ts';

type FormatRow = typeof formatTable.$inferSelect;
type VersionRow = typeof formatVersionTable.$inferSelect;
interface Row {
  format: FormatRow;
  version: VersionRow;
  provenOn: number;
}

/** One row a version, with its format and on how many cards it has proved itself. */
const selection = (db: Queryable) =>
  db
    .select({
      format: formatTable,
      version: formatVersionTable,
      provenOn:
        sql<number>`(select count(*) from ${formatEvidenceTable} where ${formatEvidenceTable.formatId} = ${formatVersionTable.formatId} and ${formatEvidenceTable.version} = ${formatVersionTable.version})`.mapWith(
          Number,
        ),
    })
    .from(formatVersionTable)
    .innerJoin(formatTable, eq(formatTable.id, formatVersionTable.formatId));

function libraryFormat({ format, version, provenOn }: Row): LibraryFormat {
  return {
    format: formatSchema.parse(version.definition),
    version: version.version,
    layout: version.layout,
    createdAt: version.createdAt.toISOString(),
    createdBy: version.createdBy,
    reason: version.reason,
    newest: format.currentVersion,
    retiredAt: format.retiredAt?.toISOString() ?? null,
    provenOn,
  };
}

const inOrder = (formats: LibraryFormat[]): LibraryFormat[] =>
  formats.sort((a, b) => a.format.bits - b.format.bits || a.format.id.localeCompare(b.format.id));

const isCurrent = eq(formatVersionTable.version, formatTable.currentVersion);

/** The current version of every format that is not retired. */
export async function currentFormats(db: Queryable): Promise<LibraryFormat[]> {
  return inOrder((await selection(db).where(and(isCurrent, isNull(formatTable.retiredAt)))).map(libraryFormat));
}

/** The current version of every format, those retired too. */
export async function wholeLibrary(db: Queryable): Promise<LibraryFormat[]> {
  return inOrder((await selection(db).where(isCurrent)).map(libraryFormat));
}

/** Every version of one format, the newest first. */
export async function versionsOf(db: Queryable, formatId: string): Promise<LibraryFormat[]> {
  const rows = await selection(db).where(eq(formatTable.id, formatId)).orderBy(asc(formatVersionTable.version));
  if (rows.length === 0) throw notFound('format');
  return rows.map(libraryFormat).reverse();
}

/** The versions that a site has adopted. */
export async function adoptedFormats(db: Queryable, siteId: string): Promise<LibraryFormat[]> {
  const rows = await selection(db)
    .innerJoin(
      siteFormatTable,
      and(
        eq(siteFormatTable.formatId, formatVersionTable.formatId),
        eq(siteFormatTable.version, formatVersionTable.version),
      ),
    )
    .where(eq(siteFormatTable.siteId, siteId));
  return inOrder(rows.map(libraryFormat));
}

export async function insertFormat(db: Queryable, format: Format, createdBy: string, reason: string): Promise<void> {
  const now = new Date();
  await db.insert(formatTable).values({ id: format.id, currentVersion: 1, createdAt: now });
  await insertVersionRow(db, format, 1, createdBy, reason, now);
}

async function insertVersionRow(
  db: Queryable,
  format: Format,
  version: number,
  createdBy: string,
  reason: string,
  createdAt: Date,
): Promise<void> {
  const layout = printLayoutLine(format);
  await db
    .insert(formatVersionTable)
    .values({ formatId: format.id, version, definition: format, layout, reason, createdBy, createdAt });
}

/**
 * Saves a new version; the one that it was made from must still be the newest. Gives its number. A retired format stays retired. Throws a conflict that
 * tells who was first, and when the version that it would be is the same as the newest.
 */
export async function insertVersion(
  tx: Queryable,
  format: Format,
  basedOn: number,
  createdBy: string,
  reason: string,
): Promise<number> {
  const [row] = await tx.select().from(formatTable).where(eq(formatTable.id, format.id)).for('update');
  if (!row) throw notFound('format');
  const [newest] = await tx
    .select()
    .from(formatVersionTable)
    .where(and(eq(formatVersionTable.formatId, format.id), eq(formatVersionTable.version, row.currentVersion)));
  if (row.currentVersion !== basedOn)
    throw conflict(
      'changed-meanwhile',
      `${newest!.createdBy} saved version ${row.currentVersion} meanwhile: ${newest!.reason}.`,
      `Yours was made from version ${basedOn}. It is kept as your draft: compare it with version ${row.currentVersion} and save it again.`,
      'basedOn',
    );
  const version = row.currentVersion + 1;
  await insertVersionRow(tx, format, version, createdBy, reason, new Date());
  await tx.update(formatTable).set({ currentVersion: version }).where(eq(formatTable.id, format.id));
  return version;
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
  await db.insert(formatVersionTable).ignore().values(rows);
  await db
    .insert(formatTable)
    .ignore()
    .values(CATALOGUE.map(({ id }) => ({ id, currentVersion: 1, createdAt: now })));
}
