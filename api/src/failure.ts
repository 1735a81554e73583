/** The one shape of every error that is answered. */
import { z } from 'zod';

export const failureSchema = z.object({
  error: z.object({
    code: z.string(),
    message: z.string(),
    where: z
      .object({
        field: z.string().optional(),
        column: z.number().optional(),
        row: z.number().optional(),
        positions: z.array(z.number()).optional(),
      })
      .optional(),
    hint: z.string().optional(),
  }),
});
