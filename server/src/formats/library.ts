/** The format library: reading versions, saving new ones, and the catalogue put in at the first start. */
import type { LibraryFormat } from '@rawbits/api';
import { CATALOGUE } from '@rawbits/core/catalogue';
import { type Format, formatSchema, printLayoutLine } from '@rawbits/core/format';
import { and, asc, eq, isNull, sql } from 'drizzle-orm';
import { type Database, type Queryable, tables } from '../database/index.ts';
import { conflict, notFound } from '../http/problem.ts';

type FormatRow = typeof tables.formats.$inferSelect;
type VersionRow = typeof tables.formatVersions.$inferSelect;
interface Row {
  format: FormatRow;
  version: VersionRow;
  provenOn: number;
}

/** One row a version, with its format and on how many cards it has proved itself. */
const selection = (db: Queryable) =>
  db
    .select({
      format: tables.formats,
      version: tables.formatVersions,
      provenOn:
        sql<number>`(select count(*) from ${tables.formatEvidence} where ${tables.formatEvidence.formatId} = ${tables.formatVersions.formatId} and ${tables.formatEvidence.version} = ${tables.formatVersions.version})`.mapWith(
          Number,
        ),
    })
    .from(tables.formatVersions)
    .innerJoin(tables.formats, eq(tables.formats.id, tables.formatVersions.formatId));

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

const isCurrent = eq(tables.formatVersions.version, tables.formats.currentVersion);

/** The current version of every format that is not retired. */
export async function currentFormats(db: Queryable): Promise<LibraryFormat[]> {
  return inOrder((await selection(db).where(and(isCurrent, isNull(tables.formats.retiredAt)))).map(libraryFormat));
}

/** The current version of every format, those retired too. */
export async function wholeLibrary(db: Queryable): Promise<LibraryFormat[]> {
  return inOrder((await selection(db).where(isCurrent)).map(libraryFormat));
}

/** Every version of one format, the newest first. */
export async function versionsOf(db: Queryable, formatId: string): Promise<LibraryFormat[]> {
  const rows = await selection(db).where(eq(tables.formats.id, formatId)).orderBy(asc(tables.formatVersions.version));
  if (rows.length === 0) throw notFound('format');
  return rows.map(libraryFormat).reverse();
}

/** The versions that a site has adopted. */
export async function adoptedFormats(db: Queryable, siteId: string): Promise<LibraryFormat[]> {
  const rows = await selection(db)
    .innerJoin(
      tables.siteFormats,
      and(
        eq(tables.siteFormats.formatId, tables.formatVersions.formatId),
        eq(tables.siteFormats.version, tables.formatVersions.version),
      ),
    )
    .where(eq(tables.siteFormats.siteId, siteId));
  return inOrder(rows.map(libraryFormat));
}

export async function insertFormat(db: Queryable, format: Format, createdBy: string, reason: string): Promise<void> {
  const now = new Date();
  await db.insert(tables.formats).values({ id: format.id, currentVersion: 1, createdAt: now });
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
    .insert(tables.formatVersions)
    .values({ formatId: format.id, version, definition: format, layout, reason, createdBy, createdAt });
}

/**
 * Saves a new version; the one that it was made from must still be the newest. Gives its number. Throws a conflict that
 * tells who was first, and when the version that it would be is the same as the newest.
 */
export async function insertVersion(
  tx: Queryable,
  format: Format,
  basedOn: number,
  createdBy: string,
  reason: string,
): Promise<number> {
  const [row] = await tx.select().from(tables.formats).where(eq(tables.formats.id, format.id)).for('update');
  if (!row) throw notFound('format');
  const [newest] = await tx
    .select()
    .from(tables.formatVersions)
    .where(and(eq(tables.formatVersions.formatId, format.id), eq(tables.formatVersions.version, row.currentVersion)));
  if (row.currentVersion !== basedOn)
    throw conflict(
      'changed-meanwhile',
      `${newest!.createdBy} saved version ${row.currentVersion} meanwhile: ${newest!.reason}.`,
      `Yours was made from version ${basedOn}. It is kept as your draft: compare it with version ${row.currentVersion} and save it again.`,
      'basedOn',
    );
  const version = row.currentVersion + 1;
  await insertVersionRow(tx, format, version, createdBy, reason, new Date());
  await tx
    .update(tables.formats)
    .set({ currentVersion: version, retiredAt: null })
    .where(eq(tables.formats.id, format.id));
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
  await db.insert(tables.formatVersions).ignore().values(rows);
  await db
    .insert(tables.formats)
    .ignore()
    .values(CATALOGUE.map(({ id }) => ({ id, currentVersion: 1, createdAt: now })));
}
