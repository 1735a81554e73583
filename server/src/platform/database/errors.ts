/** What the database and the way to it refuse with, and what each means for whoever asked. */
import { RawBitsError } from '@rawbits/core/failure';

export function errorNumber(error: unknown): number | undefined {
  for (let at = error; at instanceof Error; at = at.cause) {
    const { errno } = at as { errno?: number };
    if (typeof errno === 'number') return errno;
  }
  return undefined;
}

function errorCode(error: unknown): string {
  for (let at = error; at instanceof Error; at = at.cause) {
    const { code } = at as { code?: string };
    if (typeof code === 'string') return code;
  }
  return '';
}

export const isDuplicate = (error: unknown): boolean => errorNumber(error) === 1062;

/**
 * Lock wait, deadlock, "changed since last read": another transaction was first, and nothing of this one was kept. A
 * cluster tells a lost certification as a deadlock, at any statement or at the commit.
 */
const CONFLICTS = new Set([1205, 1213, 1020]);
export const isConflict = (error: unknown): boolean => CONFLICTS.has(errorNumber(error) ?? 0);

/** A node of a cluster that is not ready refuses before it does anything, reads too. */
export const isRefusedBefore = (error: unknown): boolean => errorNumber(error) === 1047;

/** The statement was ended by the server's limit or ours, the server goes down, or the connection was killed. */
const ENDED = new Set([1053, 1927, 1317, 1969]);
const AWAY =
  /ECONNREFUSED|ECONNRESET|EPIPE|ETIMEDOUT|ENOTFOUND|EHOSTUNREACH|EAI_AGAIN|PROTOCOL_CONNECTION_LOST|PROTOCOL_SEQUENCE_TIMEOUT|ER_SERVER_SHUTDOWN/;

/** Whether the database, or the way to it, is not there. */
export const isAway = (error: unknown): boolean => AWAY.test(errorCode(error)) || isRefusedBefore(error);

/** Whether a connection on which this happened is not to be used again. */
export const isBroken = (error: unknown): boolean => isAway(error) || ENDED.has(errorNumber(error) ?? 0);

/** Growing random pauses between tries, in milliseconds. */
export const pauseMs = (attempt: number): number => Math.min(400, 8 * 1.6 ** attempt) * (0.5 + Math.random());

/** Others were first again and again, until the deadline: nothing was saved. */
export class DatabaseBusy extends RawBitsError {
  constructor(cause: unknown) {
    super({ code: 'busy', message: 'Others are saving at the same place; nothing was saved.', hint: 'Try again.' });
    this.cause = cause;
  }
}

/** Every connection to the database is somebody else's, and was for a while: nothing was asked. */
export class NoConnectionFree extends RawBitsError {
  constructor() {
    super({ code: 'busy', message: 'The server is busy; nothing was done.', hint: 'Try again in a moment.' });
  }
}

/** The connection went while it was committing: the change may stand or not. */
export class OutcomeUnknown extends RawBitsError {
  constructor(cause: unknown) {
    super({
      code: 'outcome-unknown',
      message: 'The database went away while it was saving: it may have been saved or not.',
      hint: 'Look before you do it again. Sending the same request once more does not save it twice.',
    });
    this.cause = cause;
  }
}
