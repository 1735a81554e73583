/** What a request can be answered with when it cannot be done: a failure and its HTTP status. */
import { type Failure, RawBitsError } from '@rawbits/core/failure';
import type { z } from 'zod';

export class HttpProblem extends RawBitsError {
  constructor(
    readonly status: number,
    failure: Failure,
    readonly retryAfterSeconds?: number,
  ) {
    super(failure);
  }
}

export const unauthenticated = () =>
  new HttpProblem(401, {
    code: 'signed-out',
    message: 'You are not signed in, or the session has ended.',
    hint: 'Sign in again; what you typed stays where it is.',
  });
export const forbidden = (message: string, hint?: string) => new HttpProblem(403, { code: 'forbidden', message, hint });
export const notFound = (what: string) =>
  new HttpProblem(404, { code: 'not-found', message: `There is no such ${what} here.` });
export const conflict = (code: string, message: string, hint?: string, field?: string) =>
  new HttpProblem(409, { code, message, hint, ...(field && { where: { field } }) });
export const invalid = (field: string, message: string, hint?: string) =>
  new HttpProblem(422, { code: 'invalid', message, hint, where: { field } });

/** The first issue of a failed validation, with the path of the field. */
export function validationProblem(error: z.ZodError, part: string): HttpProblem {
  const issue = error.issues[0]!;
  const field = issue.path.join('.');
  const message = /^[A-Z].*[.]$/.test(issue.message) ? issue.message : `${field || part}: ${issue.message}.`;
  return new HttpProblem(422, { code: 'invalid', message, where: { field: field || part } });
}
