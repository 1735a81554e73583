/**
 * What of an error reaches a person: our own sentences, and nothing else. The words of a failed query hold its parameters,
 * those of a library hold paths and more.
 */
import { RawBitsError } from '@rawbits/core/failure';
import { isDatabaseError } from '../settings/log.ts';

/** What a device host, or the line to it, answered instead of doing it: a sentence for people. */
export class HostRefusal extends Error {
  constructor(
    message: string,
    /** As the host calls it; undefined where it is the line that says so. */
    readonly code?: string,
  ) {
    super(message);
  }
}

/** The one sentence about an error that a person may be shown. */
export function sentenceFor(error: unknown): string {
  if (error instanceof RawBitsError || error instanceof HostRefusal) return error.message;
  return isDatabaseError(error)
    ? 'The database could not do it. Try again.'
    : 'Something went wrong on the server; its log says more.';
}
