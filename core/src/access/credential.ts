/** A card as a controller knows it. */
import { z } from 'zod';

export const CARD_STATES = ['in stock', 'issued', 'active', 'suspended', 'lost', 'expired', 'withdrawn'] as const;
export const cardStateSchema = z.enum(CARD_STATES);
export type CardState = z.infer<typeof cardStateSchema>;

export const credentialSchema = z.strictObject({
  id: z.string().min(1).max(40),
  /** The id of the format under which number and facility code were cut out. */
  format: z.string().max(40),
  /** Decimal, or null where the format has none. */
  facility: z
    .string()
    .regex(/^\d{1,40}$/)
    .nullable(),
  number: z.string().regex(/^\d{1,160}$/),
  holder: z.string().max(200).nullable(),
  state: cardStateSchema,
  /** ISO 8601 instants, or null for no limit. */
  validFrom: z.string().nullable(),
  validTo: z.string().nullable(),
  /** The access groups that it passes by, its holder's and its own; absent where there are none. */
  groups: z.array(z.string().max(40)).min(1).max(200).optional(),
});
export type Credential = z.infer<typeof credentialSchema>;
