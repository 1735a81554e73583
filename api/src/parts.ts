/** What the schemas of the API have in common. */
import { Secret } from '@rawbits/core/secret';
import { z } from 'zod';

export const idSchema = z.string().min(1).max(40);
export const instant = z.iso.datetime();
export const name = z.string().trim().min(1, 'This must not be empty.').max(120, 'At most 120 characters.');
export const notes = z.string().trim().max(2000);
export const decimal = (digits: number) => z.string().regex(new RegExp(`^\\d{1,${digits}}$`), 'Write digits only.');
export const bitsSchema = z.string().regex(/^[01]{1,512}$/, 'Give 1 to 512 binary digits.');
export const whereSchema = z.object({
  field: z.string().optional(),
  column: z.number().optional(),
  row: z.number().optional(),
  positions: z.array(z.number()).optional(),
});

/** A text that is to be shown nowhere: what is received as one is a `Secret` from then on. */
export const secret = <S extends z.ZodType<string>>(schema: S) =>
  schema.transform((text) => new Secret(text as string));
