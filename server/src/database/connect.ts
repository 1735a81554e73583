/** The connection to MariaDB, transactions that are tried again when another node or transaction was first. */
import { drizzle, type MySql2Database } from 'drizzle-orm/mysql2';
import { createPool, type Pool } from 'mysql2/promise';
import * as schema from './schema.ts';

export type Database = MySql2Database<typeof schema>;
/** What both the database and a transaction can do. */
export type Queryable = Pick<
  Database,
  'select' | 'selectDistinct' | 'insert' | 'update' | 'delete' | 'execute' | '$count'
>;

export interface Connection {
  db: Database;
  pool: Pool;
  close(): Promise<void>;
}

/** Opens a pool. Instants travel as UTC; big numbers as text. */
export function connect(url: string): Connection {
  const pool = createPool({
    uri: url,
    timezone: 'Z',
    connectionLimit: 12,
    supportBigNumbers: true,
    charset: 'utf8mb4',
  });
  pool.on('connection', (connection) => {
    connection.query("SET time_zone = '+00:00', sql_mode = 'STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION'");
  });
  return { db: drizzle(pool, { schema, mode: 'default' }), pool, close: () => pool.end() };
}

/**
 * Lock wait, deadlock, "changed since last read" and a cluster node that is not ready: nothing of the transaction was
 * kept, and a second try may succeed. A cluster tells a lost certification as a deadlock at commit.
 */
const WORTH_A_RETRY = new Set([1205, 1213, 1020, 1047]);
const TRIES = 6;

export function errorNumber(error: unknown): number | undefined {
  for (let at = error; at instanceof Error; at = at.cause) {
    const { errno } = at as { errno?: number };
    if (typeof errno === 'number') return errno;
  }
  return undefined;
}

export const isDuplicate = (error: unknown): boolean => errorNumber(error) === 1062;

/** Runs `work` in one transaction, again when that is worth it. `work` must have no effect outside the database. */
export async function inTransaction<T>(db: Database, work: (tx: Queryable) => Promise<T>): Promise<T> {
  for (let attempt = 1; ; attempt++) {
    try {
      return await db.transaction((tx) => work(tx as unknown as Queryable), { isolationLevel: 'read committed' });
    } catch (error) {
      if (attempt >= TRIES || !WORTH_A_RETRY.has(errorNumber(error) ?? 0)) throw error;
      await new Promise((resolve) => setTimeout(resolve, 15 * 2 ** attempt * (0.5 + Math.random())));
    }
  }
}
