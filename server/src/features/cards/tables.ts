/** Cards and the people who hold them. */
import { index, int, mysqlTable, text, unique, varchar } from 'drizzle-orm/mysql-core';
import { id, instant } from '../../platform/database/columns.ts';

export const cardholderTable = mysqlTable(
  'cardholders',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    department: varchar('department', { length: 120 }).notNull(),
  },
  (t) => [index('cardholders_by_site').on(t.siteId, t.name)],
);

export const cardTable = mysqlTable(
  'cards',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    formatId: id('format_id').notNull(),
    /** Empty where the format has none, so that the key below still holds. */
    facility: varchar('facility', { length: 40 }).notNull(),
    number: varchar('number', { length: 160 }).notNull(),
    printed: varchar('printed', { length: 80 }).notNull(),
    /**
     * The bits that the card itself delivers, as its format was when it was entered: a later change of the format does
     * not change the card. Null where they could not be worked out.
     */
    bits: varchar('bits', { length: 512 }),
    state: varchar('state', { length: 20 }).notNull(),
    holderId: id('holder_id'),
    validFrom: instant('valid_from'),
    validTo: instant('valid_to'),
    notes: text('notes').notNull(),
    revision: int('revision').notNull().default(1),
    createdAt: instant('created_at').notNull(),
  },
  (t) => [
    unique('cards_once').on(t.siteId, t.formatId, t.facility, t.number),
    index('cards_by_number').on(t.siteId, t.number),
  ],
);
