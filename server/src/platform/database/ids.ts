/** Random identifiers: 80 bits in 16 lower-case characters, made without asking the database. */
import { createHmac, randomBytes } from 'node:crypto';

const LETTERS = '0123456789abcdefghjkmnpqrstvwxyz';

export function newId(): string {
  return [...randomBytes(16)].map((byte) => LETTERS[byte & 31]).join('');
}

/** The identifier that something has here which is called `name` elsewhere: always the same one under one `secret`. */
export function derivedId(secret: string, name: string): string {
  return [...createHmac('sha256', secret).update(name).digest().subarray(0, 16)]
    .map((byte) => LETTERS[byte & 31])
    .join('');
}

let last = { at: 0, count: 0 };

/**
 * An identifier that sorts by when it was made: milliseconds since 1970 in 12 hex digits, a count within the
 * millisecond in 4, and 64 random bits. Those of one process are strictly rising.
 */
export function orderedId(now = Date.now()): string {
  const at = Math.max(now, last.at);
  last = { at, count: at === last.at ? last.count + 1 : 0 };
  if (last.count > 0xffff) last = { at: at + 1, count: 0 };
  const hex = (n: number, digits: number) => n.toString(16).padStart(digits, '0');
  return hex(last.at, 12) + hex(last.count, 4) + randomBytes(8).toString('hex');
}
