/** Cardholders: the people who hold cards. */

import { accessGroupSchema } from '@rawbits/core/access/rights';
import { z } from 'zod';
import { cardSchema } from './cards.ts';
import { idSchema, instant, name, notes, secret } from './parts.ts';
import { route } from './route.ts';
import { trailEntrySchema } from './trail.ts';

const text = (most: number) => z.string().trim().max(most);

/** What is kept of a cardholder in words. */
export const cardholderFields = {
  name,
  department: text(120),
  organisation: text(120),
  /** Staff, visitor, contractor, or what the site calls it. */
  kind: text(40),
  /** Where they can be reached: telephone, address, place. */
  contact: text(200),
  notes,
};

/** As cardholders stand in lists. */
export const cardholderSchema = z.object({
  id: idSchema,
  name,
  department: z.string(),
  organisation: z.string(),
  kind: z.string(),
  cards: z.number().int(),
});
export type Cardholder = z.infer<typeof cardholderSchema>;

export const oneCardholderSchema = cardholderSchema.extend({
  contact: z.string(),
  notes: z.string(),
  groups: z.array(idSchema),
  /** How many days a card lives by what their organisation or kind brings; null for no end. */
  cardDays: z.number().int().nullable(),
  hasPin: z.boolean(),
  hasPhotograph: z.boolean(),
  revision: z.number().int(),
});
export type OneCardholder = z.infer<typeof oneCardholderSchema>;

export const newCardholderSchema = z.strictObject({
  name,
  department: cardholderFields.department.default(''),
  organisation: cardholderFields.organisation.default(''),
  kind: cardholderFields.kind.default(''),
  contact: cardholderFields.contact.default(''),
  notes: notes.default(''),
});

export const changedCardholderSchema = z.strictObject({
  revision: z.number().int(),
  name: name.optional(),
  department: cardholderFields.department.optional(),
  organisation: cardholderFields.organisation.optional(),
  kind: cardholderFields.kind.optional(),
  contact: cardholderFields.contact.optional(),
  notes: notes.optional(),
});

export const cardholdersQuerySchema = z.object({
  /** The beginning of a name, or of a word of it. */
  search: z.string().max(120).optional(),
  /** Only those who hold no card. */
  without: z.literal('cards').optional(),
  kind: z.string().max(40).optional(),
  organisation: z.string().max(120).optional(),
  /** Only those who are in this access group. */
  group: idSchema.optional(),
  /** Where the page before ended: its `next`. */
  after: z.string().max(300).optional(),
  limit: z.coerce.number().int().min(1).max(1000).default(200),
});

/** What an organisation or a kind of cardholder brings to those who are of it; both where both are named. */
const bringsSchema = z.strictObject({
  organisation: cardholderFields.organisation,
  kind: cardholderFields.kind,
  groups: accessGroupSchema.shape.rights.element.shape.schedule.array().max(60),
  /** How many days a card of theirs lives; null for no end. */
  days: z.number().int().min(1).max(36_500).nullable(),
});
export const cardholderRulesSchema = z.object({
  pinDigits: z.number().int().min(4).max(12).default(4),
  /** Whether no two may have the same PIN. */
  pinsDiffer: z.boolean().default(true),
  brings: z.array(bringsSchema).max(200).default([]),
  revision: z.number().int().default(0),
});
export type CardholderRules = z.infer<typeof cardholderRulesSchema>;

/** Kept small: what is larger was not cropped. */
export const MOST_PHOTOGRAPH = 120_000;
export const photographSchema = z.strictObject({
  type: z.enum(['image/jpeg', 'image/png']),
  /** Base64 (RFC 4648 §4). */
  data: z.base64().max(MOST_PHOTOGRAPH, 'The picture is too large: crop it, or take a smaller one.'),
});

export const cardholderApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/cardholders',
    summary: 'Cardholders of a site by name, page by page, with how many cards each holds',
    needs: 'see the site',
    query: cardholdersQuerySchema,
    answers: z.object({ cardholders: z.array(cardholderSchema), next: z.string().nullable() }),
  }),
  one: route({
    method: 'get',
    path: '/sites/{site}/cardholders/{id}',
    summary: 'One cardholder, with the access groups that they are in',
    needs: 'see the site',
    answers: oneCardholderSchema,
  }),
  add: route({
    method: 'post',
    path: '/sites/{site}/cardholders',
    summary: 'A new cardholder, in the groups that their organisation or kind brings',
    needs: 'keep cards',
    body: newCardholderSchema,
    answers: cardholderSchema,
  }),
  update: route({
    method: 'patch',
    path: '/sites/{site}/cardholders/{id}',
    summary: 'Change what is kept of a cardholder',
    needs: 'keep cards',
    body: changedCardholderSchema,
    answers: oneCardholderSchema,
  }),
  setPin: route({
    method: 'put',
    path: '/sites/{site}/cardholders/{id}/pin',
    summary: 'Set the PIN of a cardholder, or take it away; nothing gives it back',
    needs: 'keep cards',
    body: z.strictObject({
      pin: secret(z.string().regex(/^\d{4,12}$/, 'A PIN has 4 to 12 digits.')).nullable(),
    }),
    answers: z.object({}),
  }),
  photograph: route({
    method: 'get',
    path: '/sites/{site}/cardholders/{id}/photograph',
    summary: 'The photograph of a cardholder',
    needs: 'see photographs',
    answers: photographSchema,
  }),
  setPhotograph: route({
    method: 'put',
    path: '/sites/{site}/cardholders/{id}/photograph',
    summary: 'Keep a photograph of a cardholder, or with null none any more',
    needs: 'see photographs',
    body: z.strictObject({ photograph: photographSchema.nullable() }),
    answers: z.object({}),
  }),
  export: route({
    method: 'get',
    path: '/sites/{site}/cardholders/{id}/export',
    summary: 'All that is kept of a cardholder: for whoever asks what is known of them',
    needs: 'see photographs',
    answers: z.object({
      cardholder: oneCardholderSchema,
      cards: z.array(cardSchema.omit({ loaded: true, opens: true, holder: true, box: true, groups: true })),
      photograph: photographSchema.nullable(),
      /** At doors, the last thousand. */
      events: z.array(
        z.object({ at: instant, reader: z.string().nullable(), outcome: z.string().nullable(), reason: z.string() }),
      ),
      record: z.array(trailEntrySchema),
    }),
  }),
  erase: route({
    method: 'delete',
    path: '/sites/{site}/cardholders/{id}',
    summary:
      'Erase a cardholder: row, photograph, PIN, and their name in what happened at doors; the record keeps what it must',
    needs: 'keep cards',
    query: z.object({ revision: z.coerce.number().int() }),
    answers: z.object({}),
  }),
  rules: route({
    method: 'get',
    path: '/sites/{site}/cardholder-rules',
    summary: 'How a site keeps its cardholders: PINs, and what organisations and kinds bring',
    needs: 'see the site',
    answers: cardholderRulesSchema,
  }),
  setRules: route({
    method: 'put',
    path: '/sites/{site}/cardholder-rules',
    summary: 'Change how a site keeps its cardholders',
    needs: 'set up doors',
    body: cardholderRulesSchema.strict(),
    answers: cardholderRulesSchema,
  }),
};
