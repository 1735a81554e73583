/** The rig as a site sees it. */

import { z } from 'zod';
import { readerSchema } from './doors.ts';
import { idSchema } from './parts.ts';
import { route } from './route.ts';

export const trayCardSchema = z.object({
  id: idSchema,
  /** What the card looks like in the hand. */
  shape: z.enum(['card', 'fob', 'wristband', 'fingerprint card']),
  printed: z.string().max(80),
  /** What else can be seen on it. */
  look: z.string().max(200),
});

export type TrayCard = z.infer<typeof trayCardSchema>;

/** How a device is called at its host. */
export const deviceIdSchema = z.string().regex(/^[a-z0-9-]{1,40}$/);

/** What the rig is made of: the cards of its tray, its readers and controllers. */
export const rigSetupSchema = z.strictObject({
  cards: z.array(trayCardSchema.extend({ id: deviceIdSchema, bits: z.string().regex(/^[01]{1,512}$/) })).max(200),
  readers: z
    .array(
      z.strictObject({
        id: deviceIdSchema,
        /** The controller whose line it is wired to; none for an enrolment reader. */
        controller: deviceIdSchema.nullable(),
        pulseWidthUs: z.number().min(20).max(100).default(50),
        pulseSpacingUs: z.number().min(200).max(20_000).default(1000),
      }),
    )
    .max(100),
  controllers: z.array(z.strictObject({ id: deviceIdSchema })).max(50),
});
export type RigSetup = z.output<typeof rigSetupSchema>;

export const rigStateSchema = z.object({
  answers: z.boolean(),
  cards: z.array(trayCardSchema),
  readers: z.array(readerSchema),
});

export type RigState = z.infer<typeof rigStateSchema>;

export const presentationSchema = z.strictObject({ card: idSchema, reader: idSchema });

export const presentedSchema = z.object({
  readId: idSchema.nullable(),
  eventId: idSchema.nullable(),
  outcome: z.enum(['opened', 'refused', 'read', 'nothing']),
  reason: z.string(),
});

export type Presented = z.infer<typeof presentedSchema>;

export const rigApi = {
  state: route({
    method: 'get',
    path: '/sites/{site}/rig',
    summary: 'The cards of the tray and the readers to hold them to',
    needs: 'see the site',
    answers: rigStateSchema,
  }),
  bringIn: route({
    method: 'post',
    path: '/sites/{site}/rig',
    summary: 'Give the rig to the site: a controller, two readers and a tray of cards that are nobody’s yet',
    needs: 'set up doors',
    answers: rigStateSchema,
  }),
  setUp: route({
    method: 'put',
    path: '/sites/{site}/rig',
    summary: 'Put the rig of the site together anew: its tray with what is on the cards, its readers and controllers',
    needs: 'set up doors',
    body: rigSetupSchema,
    answers: rigStateSchema,
  }),
  present: route({
    method: 'post',
    path: '/sites/{site}/rig/presentations',
    summary: 'Hold a credential of the tray to a reader',
    needs: 'take reads',
    body: presentationSchema,
    answers: presentedSchema,
  }),
};
