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

const hex = (bytes: number | readonly number[]) => {
  const lengths = typeof bytes === 'number' ? [bytes] : bytes;
  return z
    .string()
    .transform((text) => text.replace(/\s+/g, '').toUpperCase())
    .pipe(z.string().regex(/^[0-9A-F]*$/, 'Write hex digits.'))
    .refine((text) => lengths.some((length) => text.length === 2 * length), `Give ${lengths.join(' or ')} bytes.`);
};

/** The chip or tag inside a credential, as it is put together: blank, but for what a tag sends. */
export const chipInsideSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('files'),
    generation: z.union([z.literal(1), z.literal(2), z.literal(3)]).default(2),
    masterKey: z.enum(['aes128', 'tdes2', 'tdes3']).default('aes128'),
    uid: hex(7),
  }),
  z.strictObject({ kind: z.literal('sectors'), size: z.enum(['1K', '4K']).default('1K'), uid: hex([4, 7]) }),
  /** An identification tag: forty bits, and how many periods of the carrier it sends a bit in. */
  z.strictObject({
    kind: z.literal('tag'),
    data: hex(5),
    rate: z.union([z.literal(32), z.literal(64)]).default(64),
  }),
  /** A tag that carries a Wiegand string. */
  z.strictObject({ kind: z.literal('carrier'), bits: z.string().regex(/^[01]{1,37}$/) }),
  /** A rewritable tag with nothing on it, and where it comes from. */
  z.strictObject({ kind: z.literal('blank tag'), trace: hex(8) }),
]);
export type ChipInside = z.output<typeof chipInsideSchema>;

/** How a device is called at its host. */
export const deviceIdSchema = z.string().regex(/^[a-z0-9-]{1,40}$/);

/** What the rig is made of: the cards of its tray, its readers and controllers. */
export const rigSetupSchema = z.strictObject({
  cards: z
    .array(
      trayCardSchema
        .extend({
          id: deviceIdSchema,
          /** The bits that it delivers, whatever is inside. */
          bits: z
            .string()
            .regex(/^[01]{1,512}$/)
            .optional(),
          /** Or what is inside, which then delivers what a reader makes of it. */
          chip: chipInsideSchema.optional(),
        })
        .refine(({ bits, chip }) => (bits === undefined) !== (chip === undefined), 'Give either bits or a chip.'),
    )
    .max(200),
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
