/** Random identifiers: 80 bits in 16 lower-case characters, made without asking the database. */
import { randomBytes } from 'node:crypto';

const LETTERS = '0123456789abcdefghjkmnpqrstvwxyz';

export function newId(): string {
  return [...randomBytes(16)].map((byte) => LETTERS[byte & 31]).join('');
}
