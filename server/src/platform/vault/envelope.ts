/**
 * Envelopes: AES-256-GCM (NIST SP 800-38D) with 96 random bits as its vector, bound to what it is the envelope of by the
 * additional data. An envelope put in another's place does not open. As text: `1.` and vector, ciphertext and the 16
 * bytes of its tag in base64url.
 */
import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { RawBitsError } from '@rawbits/core/failure';

const CIPHER = 'aes-256-gcm';
const VECTOR = 12;
const TAG = 16;
const MARK = '1.';

/** What an envelope belongs to, part by part; the same parts open it. */
export type Bound = readonly string[];

const additional = (bound: Bound): Buffer => Buffer.from(JSON.stringify(['rawbits envelope', ...bound]));

/** `key` has 32 bytes. */
export function enveloped(key: Uint8Array, plain: Uint8Array, bound: Bound): string {
  const vector = randomBytes(VECTOR);
  const cipher = createCipheriv(CIPHER, key, vector).setAAD(additional(bound));
  const body = Buffer.concat([vector, cipher.update(plain), cipher.final(), cipher.getAuthTag()]);
  return MARK + body.toString('base64url');
}

/** Throws `envelope` where it is another's, of another key, or damaged; of what is in it nothing is told then. */
export function taken(key: Uint8Array, text: string, bound: Bound): Uint8Array {
  const body = Buffer.from(text.startsWith(MARK) ? text.slice(MARK.length) : '', 'base64url');
  try {
    const cipher = createDecipheriv(CIPHER, key, body.subarray(0, VECTOR), { authTagLength: TAG })
      .setAAD(additional(bound))
      .setAuthTag(body.subarray(-TAG));
    return new Uint8Array(Buffer.concat([cipher.update(body.subarray(VECTOR, -TAG)), cipher.final()]));
  } catch {
    throw new RawBitsError({
      code: 'envelope',
      message: 'What is kept does not open: it was changed in the database, or belongs elsewhere.',
      hint: 'Restore it from a backup, and look into who can write to the database.',
    });
  }
}
