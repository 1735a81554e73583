/** Keys as a file: a JWK Set (RFC 7517) of octet sequences (RFC 7518 §6.4), with members of our own for what they are. */
import { z } from 'zod';
import { keyKindSchema, keyPurposeSchema } from './keys.ts';

/** What one file holds at most. A backup that could not be restored is not made. */
export const MOST_KEYS_IN_A_FILE = 5000;
const text = z.string().trim().min(1).max(120);

const jwkSchema = z.looseObject({
  kty: z.literal('oct'),
  /** The key in base64url. */
  k: z
    .string()
    .max(80)
    .regex(/^[\w-]+$/),
  kid: text.optional(),
  rawbits_set: text.optional(),
  /** Called as its `kid` where it has none. */
  rawbits_name: text.optional(),
  rawbits_kind: keyKindSchema,
  rawbits_purpose: keyPurposeSchema.default('other'),
  rawbits_version: z.number().int().min(0).max(255).default(1),
  rawbits_in_use: z.boolean().optional(),
});

export const keyFileSchema = z.looseObject({
  keys: z.array(jwkSchema).min(1).max(MOST_KEYS_IN_A_FILE),
  rawbits_site: text.optional(),
  rawbits_made_at: z.string().max(40).optional(),
});

/** Its published schema. */
export const keyFileJsonSchema = () => ({
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  ...z.toJSONSchema(keyFileSchema, { io: 'input' }),
});
