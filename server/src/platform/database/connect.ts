/** The connection to MariaDB. */
import { drizzle, type MySql2Database } from 'drizzle-orm/mysql2';
import type { Pool } from 'mysql2/promise';
import { Nodes, type Session } from './nodes.ts';

export type Database = MySql2Database & { $client: Nodes };
/** What both the database and a transaction can do. */
export type Queryable = Pick<
  MySql2Database,
  'select' | 'selectDistinct' | 'insert' | 'update' | 'delete' | 'execute' | '$count'
>;

export interface Connection {
  db: Database;
  nodes: Nodes;
  close(): Promise<void>;
}

/** Opens the database: one node or several. Instants travel as UTC; big numbers as text. */
export function connect(url: string, options: ConstructorParameters<typeof Nodes>[1] = {}): Connection {
  const nodes = new Nodes(url, options);
  const db = drizzle({ client: nodes as unknown as Pool }) as unknown as Database;
  return { db, nodes, close: () => nodes.close() };
}

const known = new WeakMap<object, Queryable>();

/** A connection that is somebody's as what statements are put together with. */
export function queryableOf(session: Session): Queryable {
  const there = known.get(session);
  if (there) return there;
  const made = drizzle({ client: session as unknown as Pool });
  known.set(session, made);
  return made;
}
