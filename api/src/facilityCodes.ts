/** Facility codes of a site, by name. */
import { cardStateSchema } from '@rawbits/core/access';
import { z } from 'zod';
import { decimal, idSchema, instant, name, notes } from './parts.ts';
import { route } from './route.ts';

export const reservedSchema = z
  .strictObject({
    from: decimal(40),
    to: decimal(40),
    note: z.string().trim().max(200).default(''),
    /** Its numbers are on no card yet: encoding runs take theirs from here. */
    forEncoding: z.boolean().default(false),
  })
  .refine(({ from, to }) => BigInt(from) <= BigInt(to), 'The range ends before it begins.');
export const facilityCodeSchema = z.object({
  id: idSchema,
  formatId: idSchema.nullable(),
  code: decimal(40),
  name,
  notes: z.string(),
  orderedBy: z.string(),
  orderedFrom: instant.nullable(),
  reserved: z.array(
    z.object({ from: z.string(), to: z.string(), note: z.string(), forEncoding: z.boolean().default(false) }),
  ),
  revision: z.number().int(),
});
export type FacilityCode = z.infer<typeof facilityCodeSchema>;
const codeFields = {
  name,
  notes: notes.default(''),
  orderedBy: z.string().trim().max(120).default(''),
  orderedFrom: instant.nullable().default(null),
  reserved: z.array(reservedSchema).max(50).default([]),
};
export const newFacilityCodeSchema = z.strictObject({
  formatId: idSchema.nullable().default(null),
  code: decimal(40),
  ...codeFields,
});
export type NewFacilityCode = z.input<typeof newFacilityCodeSchema>;
/** All but the code itself, which changes only by way of a dry run. */
export const facilityCodeChangeSchema = z.strictObject({ revision: z.number().int(), ...codeFields });

const collidingCardSchema = z.object({
  id: idSchema,
  formatId: idSchema,
  facility: z.string().nullable(),
  number: z.string(),
  holder: z.string().nullable(),
  state: cardStateSchema,
});
export const collisionsSchema = z.object({
  /** Numbers that more than one card has; at a controller that ignores the code they are one card. */
  numbers: z.array(
    z.object({
      number: z.string(),
      cards: z.array(collidingCardSchema),
      /** The controllers that ignore the code and are to accept more than one of the cards. */
      at: z.array(z.string()),
    }),
  ),
  /** How many such numbers there are; at most 200 are listed. */
  total: z.number().int(),
  /** Controllers that ignore the code and accept several formats, whether cards meet yet or not. */
  possible: z.array(z.object({ controller: z.string(), formats: z.array(idSchema) })),
});
export type Collisions = z.infer<typeof collisionsSchema>;

export const facilityCodeApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/facility-codes',
    summary: 'The facility codes of a site',
    needs: 'see the site',
    answers: z.array(facilityCodeSchema),
  }),
  add: route({
    method: 'post',
    path: '/sites/{site}/facility-codes',
    summary: 'Name a facility code',
    needs: 'use formats',
    body: newFacilityCodeSchema,
    answers: facilityCodeSchema,
  }),
  update: route({
    method: 'patch',
    path: '/sites/{site}/facility-codes/{id}',
    summary: 'Change what is said about a facility code; the code itself changes by way of a dry run',
    needs: 'use formats',
    body: facilityCodeChangeSchema,
    answers: facilityCodeSchema,
  }),
  remove: route({
    method: 'delete',
    path: '/sites/{site}/facility-codes/{id}',
    summary: 'Take the name from a facility code; the cards that have it stay as they are',
    needs: 'use formats',
    answers: z.object({}),
  }),
  collisions: route({
    method: 'get',
    path: '/sites/{site}/collisions',
    summary: 'Numbers that several cards have: one and the same at a controller that ignores the facility code',
    needs: 'see the site',
    answers: collisionsSchema,
  }),
};
