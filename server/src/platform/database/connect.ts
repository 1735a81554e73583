/** The connection to MariaDB. */
import { drizzle, type MySql2Database } from 'drizzle-orm/mysql2';
import { createPool, type Pool } from 'mysql2/promise';

export type Database = MySql2Database;
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
  return { db: drizzle(pool), pool, close: () => pool.end() };
}
