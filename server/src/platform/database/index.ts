/** Database: connection, transactions, migrations and the schema. */
export { type Connection, connect, type Database, type Queryable } from './connect.ts';
export { newId } from './ids.ts';
export { migrate } from './migrate.ts';
export { errorNumber, inTransaction, isDuplicate, OutcomeUnknown } from './transaction.ts';
