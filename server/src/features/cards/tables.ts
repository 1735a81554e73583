/** Cards, the boxes that they came in, and the people who hold them. */
import { sql } from 'drizzle-orm';
import { bigint, boolean, index, int, mysqlTable, primaryKey, text, unique, varchar } from 'drizzle-orm/mysql-core';
import { id, instant, json } from '../../platform/database/columns.ts';

/** Its names are found by their words, too: migration 0004 has the index for that, which cannot be told here. */
export const cardholderTable = mysqlTable(
  'cardholders',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    department: varchar('department', { length: 120 }).notNull(),
    organisation: varchar('organisation', { length: 120 }).notNull().default(''),
    /** Staff, visitor, contractor, or what the site calls it. */
    kind: varchar('kind', { length: 40 }).notNull().default(''),
    /** Where they can be reached. */
    contact: varchar('contact', { length: 200 }).notNull().default(''),
    notes: varchar('notes', { length: 2000 }).notNull().default(''),
    revision: int('revision').notNull().default(1),
    /** The set of access groups that they are in; null for none. */
    groupSetId: id('group_set_id'),
  },
  (t) => [
    index('cardholders_by_site').on(t.siteId, t.name, t.id),
    index('cardholders_by_groups').on(t.siteId, t.groupSetId, t.name, t.id),
  ],
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
    /** The number so that it sorts and compares as one, however great: its count of digits, then its digits. */
    numberKey: varchar('number_key', { length: 163 })
      .notNull()
      .generatedAlwaysAs(sql`concat(lpad(char_length(\`number\`), 3, '0'), \`number\`)`, { mode: 'stored' }),
    printed: varchar('printed', { length: 80 }).notNull(),
    /**
     * The bits that the card itself delivers, as its format was when it was entered: a later change of the format does
     * not change the card. Null where they could not be worked out.
     */
    bits: varchar('bits', { length: 512 }),
    state: varchar('state', { length: 20 }).notNull(),
    holderId: id('holder_id'),
    /** The box that it came in; null where nobody said. */
    boxId: id('box_id'),
    /** Access groups of the card itself, beside its holder's; null for none. */
    groupSetId: id('group_set_id'),
    validFrom: instant('valid_from'),
    validTo: instant('valid_to'),
    notes: text('notes').notNull(),
    revision: int('revision').notNull().default(1),
    createdAt: instant('created_at').notNull(),
  },
  (t) => [
    unique('cards_once').on(t.siteId, t.formatId, t.facility, t.number),
    index('cards_by_number').on(t.siteId, t.number, t.id),
    index('cards_in_order').on(t.siteId, t.numberKey),
    // With the state, so that counting along the numbers reads nothing else.
    index('cards_of_format').on(t.siteId, t.formatId, t.facility, t.numberKey, t.state),
    index('cards_by_time').on(t.siteId, t.createdAt, t.id),
    index('cards_by_state').on(t.siteId, t.state, t.createdAt, t.id),
    index('cards_by_print').on(t.siteId, t.printed, t.id),
    // With all that says whether somebody has a card that opens.
    index('cards_by_holder').on(t.holderId, t.state, t.groupSetId, t.validTo),
    index('cards_by_bits').on(t.siteId, t.bits),
    index('cards_by_box').on(t.boxId, t.numberKey),
    index('cards_by_groups').on(t.siteId, t.groupSetId, t.holderId),
    index('cards_by_end').on(t.state, t.validTo),
  ],
);

/** A run of cards bought together, as its label has it. */
export const boxTable = mysqlTable(
  'boxes',
  {
    id: id('id').primaryKey(),
    siteId: id('site_id').notNull(),
    name: varchar('name', { length: 120 }).notNull(),
    formatId: id('format_id').notNull(),
    /** As the cards have it: empty where the format has none. */
    facility: varchar('facility', { length: 40 }).notNull(),
    first: varchar('first', { length: 160 }).notNull(),
    last: varchar('last', { length: 160 }).notNull(),
    /** So that they compare as numbers (`numberKey`). */
    firstKey: varchar('first_key', { length: 163 }).notNull(),
    lastKey: varchar('last_key', { length: 163 }).notNull(),
    /** How many cards the label is about. */
    count: int('count').notNull(),
    print: json('print').notNull(),
    /** The format's other values, which all of its cards share. */
    values: json('values').notNull(),
    notes: text('notes').notNull(),
    /** Blanks to be encoded: their numbers are on no card yet. */
    blanks: boolean('blanks').notNull().default(false),
    enteredBy: varchar('entered_by', { length: 120 }).notNull(),
    enteredAt: instant('entered_at').notNull(),
    revision: int('revision').notNull().default(1),
  },
  (t) => [
    index('boxes_along').on(t.siteId, t.formatId, t.facility, t.firstKey),
    index('boxes_by_time').on(t.siteId, t.enteredAt, t.id),
  ],
);

/** How many cards of a box are in each state, kept as `cardCountTable` is. */
export const boxCountTable = mysqlTable(
  'box_counts',
  {
    boxId: id('box_id').notNull(),
    siteId: id('site_id').notNull(),
    state: varchar('state', { length: 20 }).notNull(),
    slot: int('slot').notNull(),
    cards: int('cards').notNull(),
  },
  (t) => [primaryKey({ columns: [t.boxId, t.state, t.slot] }), index('box_counts_by_site').on(t.siteId)],
);

/**
 * How many cards a site has of a format in a state, and how often they changed: the sums over the slots, so that those
 * who count at the same time seldom wait for one another.
 */
export const cardCountTable = mysqlTable(
  'card_counts',
  {
    siteId: id('site_id').notNull(),
    formatId: id('format_id').notNull(),
    state: varchar('state', { length: 20 }).notNull(),
    slot: int('slot').notNull(),
    cards: int('cards').notNull(),
    /** How often cards were put here, taken away or changed: what was worked out on them stands while this does. */
    changes: bigint('changes', { mode: 'number' }).notNull().default(0),
  },
  (t) => [primaryKey({ columns: [t.siteId, t.formatId, t.state, t.slot] })],
);
