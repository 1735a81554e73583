/** What the vault keeps in the database: a wrapped store key a site, and which servers hold it at the moment. */
import { index, int, mysqlTable, primaryKey, text, varchar } from 'drizzle-orm/mysql-core';
import { id, instant } from '../database/columns.ts';

export const keyStoreTable = mysqlTable('key_stores', {
  siteId: id('site_id').primaryKey(),
  /** Of argon2id (RFC 9106): 16 bytes in hex, memory in KiB, passes, lanes. */
  salt: varchar('salt', { length: 64 }).notNull(),
  memoryKib: int('memory_kib').notNull(),
  passes: int('passes').notNull(),
  lanes: int('lanes').notNull(),
  /** The store key, enveloped under the key that comes of the passphrase. */
  wrapped: varchar('wrapped', { length: 200 }).notNull(),
  /** Grows with each change of the passphrase. */
  revision: int('revision').notNull().default(1),
  setBy: varchar('set_by', { length: 120 }).notNull(),
  setAt: instant('set_at').notNull(),
  /** Names this opening, until it is locked; null while it is. */
  openId: id('open_id'),
  openedBy: varchar('opened_by', { length: 120 }),
  openedAt: instant('opened_at'),
  usedAt: instant('used_at'),
});

/** The servers that run, with the key of each under which something can be handed to it alone. */
export const vaultServerTable = mysqlTable('vault_servers', {
  id: id('id').primaryKey(),
  name: varchar('name', { length: 120 }).notNull(),
  /** JWK, kept as text. Its private half is in that server's memory and nowhere else. */
  publicKey: text('public_key').notNull(),
  /** Keyed with the trail's key, which is outside the database: who can write here makes no server up. */
  mac: varchar('mac', { length: 64 }).notNull(),
  heardAt: instant('heard_at').notNull(),
});

/** Store keys on their way from a server that holds one to one that does not; `sealed` is empty where it is there. */
export const handoverTable = mysqlTable(
  'vault_handovers',
  {
    serverId: id('server_id').notNull(),
    siteId: id('site_id').notNull(),
    openId: id('open_id').notNull(),
    sealed: text('sealed').notNull(),
    mac: varchar('mac', { length: 64 }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.serverId, t.siteId] }), index('vault_handovers_by_site').on(t.siteId)],
);
