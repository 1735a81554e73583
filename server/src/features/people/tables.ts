/** What is kept of cardholders apart from their rows: PINs as keyed hashes, photographs, and what a site asks of both. */
import { boolean, index, int, longtext, mysqlTable, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../../platform/database/columns.ts';

/** A PIN is nowhere but in a hash under a key that is outside the database. */
export const pinTable = mysqlTable(
  'cardholder_pins',
  {
    holderId: id('holder_id').primaryKey(),
    siteId: id('site_id').notNull(),
    hash: varchar('hash', { length: 64 }).notNull(),
    setAt: instant('set_at').notNull(),
  },
  (t) => [index('cardholder_pins_by_hash').on(t.siteId, t.hash)],
);

export const photographTable = mysqlTable(
  'photographs',
  {
    holderId: id('holder_id').primaryKey(),
    siteId: id('site_id').notNull(),
    type: varchar('type', { length: 20 }).notNull(),
    /** Base64. */
    data: longtext('data').notNull(),
    setAt: instant('set_at').notNull(),
  },
  (t) => [index('photographs_by_site').on(t.siteId)],
);

/** How a site keeps its cardholders; a site without a row keeps them by the defaults of `cardholderRulesSchema`. */
export const cardholderRulesTable = mysqlTable('cardholder_rules', {
  siteId: id('site_id').primaryKey(),
  pinDigits: int('pin_digits').notNull(),
  pinsDiffer: boolean('pins_differ').notNull(),
  /** What an organisation or a kind brings: groups, and how long a card lives. */
  brings: json('brings').notNull(),
  revision: int('revision').notNull().default(1),
});
