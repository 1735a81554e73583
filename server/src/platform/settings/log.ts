/**
 * What may be written about an error. The words of a failed query hold its parameters, and those hold passwords' hashes,
 * tokens and people's names: of a database's error only its number, its kind and the place in the code are told.
 */
import pino, { type DestinationStream, type Logger } from 'pino';

interface DatabaseError extends Error {
  errno?: number;
  code?: string;
  sqlState?: string;
}

function databaseErrorIn(error: unknown): DatabaseError | undefined {
  for (let at = error; at instanceof Error; at = at.cause) {
    const { sqlState, errno, code } = at as DatabaseError;
    if (sqlState !== undefined || (errno !== undefined && code?.startsWith('ER_'))) return at;
  }
  return undefined;
}

const isQuery = (error: Error): boolean =>
  error.name === 'DrizzleQueryError' || error.message.startsWith('Failed query');

/** The frames of a stack without the message before them. */
const framesOf = (error: Error): string[] =>
  (error.stack ?? '')
    .split('\n')
    .filter((line) => /^\s+at /.test(line))
    .map((line) => line.trim());

/** An error as the log may hold it. */
export function loggable(error: unknown): unknown {
  if (!(error instanceof Error)) return { type: typeof error };
  const database = databaseErrorIn(error);
  const { code, errno } = (database ?? error) as DatabaseError;
  const frames = framesOf(error);
  if (database || isQuery(error))
    return { type: 'database error', code, errno, sqlState: database?.sqlState, stack: frames };
  return {
    type: error.name,
    message: error.message,
    ...(code !== undefined && { code }),
    stack: frames,
    ...(error.cause !== undefined && { cause: loggable(error.cause) }),
  };
}

/** Whether it is the database that refused, or could not. */
export const isDatabaseError = (error: unknown): boolean =>
  databaseErrorIn(error) !== undefined || (error instanceof Error && isQuery(error));

export const serverLog = (level: string, destination: DestinationStream = pino.destination(2)): Logger =>
  pino({ level, serializers: { err: loggable, error: loggable } }, destination);
