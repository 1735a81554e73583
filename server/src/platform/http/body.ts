/**
 * Bodies of requests: read only once it is known who asks, and within limits that are looked at before anything is
 * built from them.
 */
import type { Limits } from '@rawbits/api';
import express, { type Request, type Response } from 'express';
import { HttpProblem, invalid } from '../problem/problem.ts';
import { DEEPEST, excessOf, illFormedIn } from '../shape/shape.ts';

export const USUAL_LIMITS: Limits = { bytes: 1_000_000, entries: 1000 };

const sizeInWords = (bytes: number): string =>
  bytes >= 1_000_000 ? `${Math.floor(bytes / 1_000_000)} MB` : `${Math.floor(bytes / 1000)} kB`;

const tooLarge = (limits: Limits) =>
  new HttpProblem(413, {
    code: 'too-large',
    message: `The request is too large: ${sizeInWords(limits.bytes)} at most.`,
    hint: 'Send less at once.',
  });

/** The JSON of a body, or undefined where there is none. Throws 400, 413, 415 or 422. */
export async function readBody(request: Request, response: Response, limits: Limits): Promise<unknown> {
  const bytes = await receive(request, response, limits);
  if (bytes === undefined) return undefined;
  const text = decodeText(bytes);
  checkShape(bytes, limits);
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw new HttpProblem(400, {
      code: 'json',
      message: 'The request body is not JSON.',
      hint: (error as Error).message.slice(0, 200),
    });
  }
  refuseIllFormed(value, 'body');
  return value;
}

async function receive(request: Request, response: Response, limits: Limits): Promise<Buffer | undefined> {
  if (request.headers['content-length'] === '0') return undefined;
  if (request.headers['content-length'] === undefined && request.headers['transfer-encoding'] === undefined)
    return undefined;
  if (!request.is('application/json'))
    throw new HttpProblem(415, {
      code: 'content-type',
      message: 'The request body is not said to be JSON.',
      hint: 'Send it with content-type: application/json.',
    });
  try {
    await new Promise<void>((resolve, reject) =>
      express.raw({ limit: limits.bytes, type: 'application/json' })(request, response, (error?: unknown) =>
        error ? reject(error) : resolve(),
      ),
    );
  } catch (error) {
    throw (error as { type?: string }).type === 'entity.too.large' ? tooLarge(limits) : error;
  }
  return Buffer.isBuffer(request.body) && request.body.length > 0 ? request.body : undefined;
}

function decodeText(bytes: Buffer): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    throw new HttpProblem(400, { code: 'utf-8', message: 'The request body is not UTF-8.' });
  }
}

/** Throws 413 or 422 where a JSON text has more entries in one list, or nests deeper, than may be; builds nothing. */
export function checkShape(bytes: Uint8Array, { entries }: Pick<Limits, 'entries'>): void {
  const excess = excessOf(bytes, entries);
  if (excess === 'too-many')
    throw new HttpProblem(413, {
      code: excess,
      message: `A list of the request has more than ${entries} entries.`,
      hint: 'Send fewer at once.',
    });
  if (excess === 'too-deep')
    throw new HttpProblem(422, { code: excess, message: `The request nests more than ${DEEPEST} levels deep.` });
}

/**
 * Refuses text that is no Unicode: half of a surrogate pair. A database keeps another character in its place, and what
 * was hashed or compared is then not what is kept.
 */
export function refuseIllFormed(value: unknown, field: string): void {
  const at = illFormedIn(value, field);
  if (at !== undefined)
    throw invalid(at, 'The text holds half a character (a lone surrogate).', 'Type or paste it again.');
}
