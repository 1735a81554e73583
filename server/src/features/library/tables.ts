/** The format library, and what each site has taken from it. */
import { int, mysqlTable, primaryKey, text, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../../platform/database/columns.ts';

export const formatTable = mysqlTable('formats', {
  id: id('id').primaryKey(),
  currentVersion: int('current_version').notNull(),
  createdAt: instant('created_at').notNull(),
  retiredAt: instant('retired_at'),
});

/** A saved version is never changed. */
export const formatVersionTable = mysqlTable(
  'format_versions',
  {
    formatId: id('format_id').notNull(),
    version: int('version').notNull(),
    definition: json('definition').notNull(),
    layout: text('layout').notNull(),
    reason: varchar('reason', { length: 400 }).notNull(),
    createdBy: varchar('created_by', { length: 120 }).notNull(),
    createdAt: instant('created_at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.formatId, t.version] })],
);

export const siteFormatTable = mysqlTable(
  'site_formats',
  { siteId: id('site_id').notNull(), formatId: id('format_id').notNull(), version: int('version').notNull() },
  (t) => [primaryKey({ columns: [t.siteId, t.formatId] })],
);

/**
 * The cards on which a version of a format has proved itself: accepted at a door, or specimens of a case. A card is
 * known by a hash of its site and bits, so it counts once however often it is presented.
 */
export const formatEvidenceTable = mysqlTable(
  'format_evidence',
  {
    formatId: id('format_id').notNull(),
    version: int('version').notNull(),
    card: varchar('card', { length: 64 }).notNull(),
    source: varchar('source', { length: 20 }).notNull(),
    sourceId: id('source_id').notNull(),
    at: instant('at').notNull(),
  },
  (t) => [primaryKey({ columns: [t.formatId, t.version, t.card] })],
);
