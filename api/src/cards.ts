/** Cards on file. */
import { cardStateSchema } from '@rawbits/core/access';
import { z } from 'zod';
import { bitsSchema, decimal, idSchema, instant, name, notes } from './parts.ts';
import { route } from './route.ts';
import { trailEntrySchema } from './trail.ts';

export const cardSchema = z.object({
  id: idSchema,
  formatId: idSchema,
  facility: z.string().nullable(),
  number: z.string(),
  printed: z.string(),
  state: cardStateSchema,
  holder: z.object({ id: idSchema, name }).nullable(),
  /** The box that it came in. */
  box: z.object({ id: idSchema, name }).nullable(),
  validFrom: instant.nullable(),
  validTo: instant.nullable(),
  notes: z.string(),
  revision: z.number().int(),
  /** The bits that the card delivers, worked out from its format; null where more values than these are in it. */
  bits: bitsSchema.nullable(),
  /** Access groups of the card itself, beside its holder’s. */
  groups: z.array(idSchema),
  /** How many of the site's controllers hold it exactly as it is here, of how many. */
  loaded: z.object({ in: z.number().int(), of: z.number().int() }),
  /** Which doors it opens, at some hour, by what their controllers hold: not by what is on file here. */
  opens: z.object({
    doors: z.array(z.object({ id: idSchema, name })),
    /** Doors that would open for its bits without it, as another card that is loaded there. */
    asOther: z.array(z.object({ door: name, card: z.string(), holder: name.nullable(), format: idSchema })),
    /** Controllers that hold something of the card which nobody here knows. */
    unknownAt: z.array(name),
  }),
});

export type Card = z.infer<typeof cardSchema>;

const cardFields = {
  formatId: idSchema,
  facility: decimal(40).nullable(),
  number: decimal(160),
  printed: z.string().trim().max(80),
  state: cardStateSchema,
  holderId: idSchema.nullable(),
  validFrom: instant.nullable(),
  validTo: instant.nullable(),
  notes,
};

const reason = z.string().trim().max(400);

export const newCardSchema = z.strictObject({
  ...cardFields,
  printed: cardFields.printed.default(''),
  state: cardStateSchema.default('in stock'),
  holderId: idSchema.nullable().default(null),
  validFrom: instant.nullable().default(null),
  validTo: instant.nullable().default(null),
  notes: notes.default(''),
});

export type NewCard = z.input<typeof newCardSchema>;

/**
 * A change names the revision that it was made from, so that two changes cannot pass unseen. Format, facility code and
 * number correct what was entered wrongly: the card in the hand is another one than was thought.
 */
export const cardChangeSchema = z.strictObject({
  revision: z.number().int(),
  formatId: cardFields.formatId.optional(),
  facility: cardFields.facility.optional(),
  number: cardFields.number.optional(),
  printed: cardFields.printed.optional(),
  state: cardFields.state.optional(),
  holderId: cardFields.holderId.optional(),
  validFrom: cardFields.validFrom.optional(),
  validTo: cardFields.validTo.optional(),
  notes: cardFields.notes.optional(),
  /** Why, for the trail. */
  reason: reason.optional(),
});

/** How a card ends that another takes the place of. */
export const ENDED_STATES = ['lost', 'suspended', 'withdrawn'] as const;

export const replacementSchema = z.strictObject({
  revision: z.number().int(),
  state: z.enum(ENDED_STATES),
  reason,
  /** A card in stock, as it was looked at. */
  by: z.strictObject({ id: idSchema, revision: z.number().int() }),
});

/** Reports on cards, each with what it is about. */
export const REPORTS = {
  ending: 'issued or active, and ending within 30 days',
  'never used': 'active, and never presented at a door',
  'still loaded': 'not active any more, and at a controller still as it was',
} as const satisfies Record<string, string>;
export type Report = keyof typeof REPORTS;
export const REPORT_NAMES = Object.keys(REPORTS) as [Report, ...Report[]];

/** What cards are looked for by: all of it at once. */
export const cardFilterSchema = z.object({
  /**
   * The beginning of a number or of a print, a range of numbers (`118400-118599`), code and number (`58/1023`), raw bits
   * in any notation, or the beginning of a holder's name or of a word of it.
   */
  search: z.string().max(600).optional(),
  state: cardStateSchema.optional(),
  /** Only those that a report is about (`REPORTS`). */
  report: z.enum(REPORT_NAMES).optional(),
  /** Only those of this box; they stand by number. */
  box: idSchema.optional(),
  formatId: idSchema.optional(),
  /** Only those with this facility code. */
  facility: decimal(40).optional(),
  /** Only those that are in this access group, by their holder or by themselves. */
  group: idSchema.optional(),
  /** Only those that were at a door of the site since then. */
  seenSince: instant.optional(),
  /** Only those that were not. */
  notSeenSince: instant.optional(),
});
export type CardFilter = z.infer<typeof cardFilterSchema>;

export const cardQuerySchema = cardFilterSchema.extend({
  /** Exactly these bits, under whatever format. */
  bits: bitsSchema.optional(),
  /** Only those of this cardholder. */
  holder: idSchema.optional(),
  /** The order of what is not searched for; what is found stands by number, print or holder. */
  order: z.enum(['newest', 'number']).default('newest'),
  /** Where the page before ended: its `next`. */
  after: z.string().max(400).optional(),
  limit: z.coerce.number().int().min(1).max(1000).default(100),
});

/** How a search meant a card that it found. */
export const FOUND_BY = ['number', 'code and number', 'range', 'number in hex', 'bits', 'print', 'holder'] as const;
export type FoundBy = (typeof FOUND_BY)[number];

export const cardPageSchema = z.object({
  cards: z.array(cardSchema),
  /** For each of them how the search meant it; empty where nothing was searched for. */
  foundBy: z.array(z.enum(FOUND_BY)),
  /** How many there are in all; of a search at most so many as are counted. */
  total: z.number().int(),
  /** Set where a search finds more than `total`. */
  more: z.boolean(),
  /** Where this page ended; null where it is the last. */
  next: z.string().nullable(),
});

export const savedFilterSchema = z.object({
  id: idSchema,
  name,
  filter: cardFilterSchema,
  savedBy: z.string(),
  savedAt: instant,
});
export type SavedFilter = z.infer<typeof savedFilterSchema>;

export const filterApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/card-filters',
    summary: 'Filters of the cards that were given a name, by name',
    needs: 'see the site',
    answers: z.array(savedFilterSchema),
  }),
  save: route({
    method: 'put',
    path: '/sites/{site}/card-filters',
    summary: 'Keep a filter under a name, for everybody at the site; one of that name is replaced',
    needs: 'keep cards',
    body: z.strictObject({ name, filter: cardFilterSchema.strict() }),
    answers: savedFilterSchema,
  }),
  remove: route({
    method: 'delete',
    path: '/sites/{site}/card-filters/{id}',
    summary: 'Keep a filter no more',
    needs: 'keep cards',
    answers: z.object({}),
  }),
};

export const cardApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/cards',
    summary: 'The cards of a site, page by page; search by number, range, print, raw bits or holder',
    needs: 'see the site',
    query: cardQuerySchema,
    answers: cardPageSchema,
  }),
  one: route({
    method: 'get',
    path: '/sites/{site}/cards/{id}',
    summary: 'One card',
    needs: 'see the site',
    answers: cardSchema,
  }),
  add: route({
    method: 'post',
    path: '/sites/{site}/cards',
    summary: 'Enter a card, in stock or issued to a cardholder',
    needs: 'keep cards',
    body: newCardSchema,
    answers: cardSchema,
  }),
  update: route({
    method: 'patch',
    path: '/sites/{site}/cards/{id}',
    summary: 'Change a card: holder, state, dates, print, notes; or correct its format, facility code or number',
    needs: 'keep cards',
    body: cardChangeSchema,
    answers: cardSchema,
  }),
  replace: route({
    method: 'post',
    path: '/sites/{site}/cards/{id}/replacement',
    summary:
      'A card in stock takes the place of one that somebody holds: holder and days pass on, the old one stops, both at once',
    needs: 'keep cards',
    body: replacementSchema,
    /** The card that took the place. */
    answers: cardSchema,
  }),
  takeBack: route({
    method: 'delete',
    path: '/sites/{site}/cards/{id}',
    summary: 'Take back a card that was entered wrongly: it is on file no more, and the trail keeps what it was',
    needs: 'keep cards',
    /** The revision that was looked at: what somebody changed meanwhile is not taken back unseen. */
    query: z.object({ revision: z.coerce.number().int() }),
    answers: z.object({}),
  }),
  history: route({
    method: 'get',
    path: '/sites/{site}/cards/{id}/history',
    summary: 'What was done with a card since it was entered, newest first, under the numbers that it had before, too',
    needs: 'see the site',
    answers: z.array(trailEntrySchema),
  }),
};
