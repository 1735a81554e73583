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
  present: route({
    method: 'post',
    path: '/sites/{site}/rig/presentations',
    summary: 'Hold a credential of the tray to a reader',
    needs: 'take reads',
    body: presentationSchema,
    answers: presentedSchema,
  }),
};
