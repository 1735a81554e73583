/** Database: connection, transactions, migrations and the schema. */
export { type Connection, connect, type Database, type Queryable } from './connect.ts';
export { DatabaseBusy, errorNumber, isAway, isDuplicate, NoConnectionFree, OutcomeUnknown } from './errors.ts';
export { derivedId, newId, orderedId } from './ids.ts';
export { dbNow, endsWithin, heardWithin, isPast, isToCome, isWithin, silentFor } from './instants.ts';
export { migrate } from './migrate.ts';
export { inSnapshot, inTransaction } from './transaction.ts';
