/** What the rig is made of: the cards of its tray, its readers and controllers. A file that the demo brings. */
import { trayCardSchema } from '@rawbits/api';
import { z } from 'zod';

const id = z.string().regex(/^[a-z0-9-]{1,40}$/);

export const siteIdSchema = z.string().regex(/^[A-Za-z0-9_-]{1,40}$/);

export const rigSetupSchema = z.strictObject({
  /** The site whose devices these are; null only in what was kept from before rigs belonged to one. */
  site: siteIdSchema.nullable().default(null),
  cards: z.array(trayCardSchema.extend({ id, bits: z.string().regex(/^[01]{1,512}$/) })).max(200),
  readers: z
    .array(
      z.strictObject({
        id,
        /** The controller whose line it is wired to; none for an enrolment reader. */
        controller: id.nullable(),
        pulseWidthUs: z.number().min(20).max(100).default(50),
        pulseSpacingUs: z.number().min(200).max(20_000).default(1000),
      }),
    )
    .max(100),
  controllers: z.array(z.strictObject({ id })).max(50),
});
export type RigSetup = z.output<typeof rigSetupSchema>;
export const EMPTY_SETUP: RigSetup = { site: null, cards: [], readers: [], controllers: [] };
