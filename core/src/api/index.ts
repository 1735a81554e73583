/**
 * API: one schema for each thing that crosses between server, web, demo and files. The OpenAPI document is made from
 * these. Instants are ISO 8601 in UTC; numbers that can pass 2^53 are decimal strings; bits are binary digits.
 */
import { z } from 'zod';
import { cardStateSchema, STEPS } from '../access/index.ts';
import { bitsSchema, decimal, idSchema, instant, name, notes } from './parts.ts';

export { bitsSchema, idSchema } from './parts.ts';

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

// Operators and sessions

export const ROLES = ['viewer', 'technician', 'key custodian', 'administrator'] as const;
export const roleSchema = z.enum(ROLES);
/** Each role may do all that the ones before it may. */
export type Role = z.infer<typeof roleSchema>;
export const roleAtLeast = (role: Role, least: Role): boolean => ROLES.indexOf(role) >= ROLES.indexOf(least);

export const loginSchema = z
  .string()
  .trim()
  .toLowerCase()
  .regex(/^[a-z0-9][a-z0-9._-]{1,39}$/, 'A sign-in name has 2 to 40 letters, digits, dots or hyphens.');
export const passwordSchema = z.string().min(10, 'A password has at least 10 characters.').max(200);

export const siteSchema = z.object({ id: idSchema, name, shortName: z.string(), hasRig: z.boolean() });
export type Site = z.infer<typeof siteSchema>;

export const signInSchema = z.strictObject({ login: z.string().max(80), password: z.string().max(200) });
export const sessionSchema = z.object({
  operator: z.object({ id: idSchema, login: z.string(), name, mustChangePassword: z.boolean() }),
  sites: z.array(siteSchema.extend({ role: roleSchema })),
});
export type Session = z.infer<typeof sessionSchema>;
export const changePasswordSchema = z.strictObject({ current: z.string().max(200), next: passwordSchema });

export const operatorSchema = z.object({
  id: idSchema,
  login: z.string(),
  name,
  role: roleSchema,
  /** The names of the sites that the asking administrator may also see. */
  sites: z.array(z.object({ id: idSchema, name, role: roleSchema })),
  mustChangePassword: z.boolean(),
  closedAt: instant.nullable(),
});
export type Operator = z.infer<typeof operatorSchema>;
export const newOperatorSchema = z.strictObject({
  login: loginSchema,
  name,
  role: roleSchema,
  password: passwordSchema,
});
export const operatorSitesSchema = z.strictObject({
  /** A role at each site to be held; null takes the site away. Sites not named stay as they are. */
  roles: z.record(idSchema, roleSchema.nullable()),
});
export const resetPasswordSchema = z.strictObject({ password: passwordSchema });
export const setupSchema = z.strictObject({
  token: z.string(),
  login: loginSchema,
  name,
  password: passwordSchema,
  site: z.strictObject({ name, shortName: name.max(24), hasRig: z.boolean().default(false) }),
});
export const newSiteSchema = z.strictObject({ name, shortName: name.max(24) });

export * from './cases.ts';
export * from './dryRuns.ts';
export * from './formats.ts';

// Reads

export const readSchema = z.object({
  id: idSchema,
  at: instant,
  bits: bitsSchema,
  source: z.enum(['reader', 'paste']),
  notation: z.string().nullable(),
  reader: z.object({ id: idSchema, name }).nullable(),
});
export type Read = z.infer<typeof readSchema>;
export const newReadSchema = z.strictObject({ bits: bitsSchema, notation: z.string().max(60) });
export const readQuerySchema = z.object({
  /** Part of the binary digits, the right-justified hex, the length, or the reader's name. */
  search: z.string().max(600).optional(),
  limit: z.coerce.number().int().min(1).max(500).default(50),
  before: instant.optional(),
});

// Cardholders and cards

export const cardholderSchema = z.object({ id: idSchema, name, department: z.string(), cards: z.number().int() });
export type Cardholder = z.infer<typeof cardholderSchema>;
export const newCardholderSchema = z.strictObject({ name, department: z.string().trim().max(120).default('') });

export const cardSchema = z.object({
  id: idSchema,
  formatId: idSchema,
  facility: z.string().nullable(),
  number: z.string(),
  printed: z.string(),
  state: cardStateSchema,
  holder: z.object({ id: idSchema, name }).nullable(),
  validFrom: instant.nullable(),
  validTo: instant.nullable(),
  notes: z.string(),
  revision: z.number().int(),
  /** The bits that the card delivers, worked out from its format; null where more values than these are in it. */
  bits: bitsSchema.nullable(),
  /** How many of the site's controllers hold it exactly as it is here, of how many. */
  loaded: z.object({ in: z.number().int(), of: z.number().int() }),
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
/** A change names the revision that it was made from, so that two changes cannot pass unseen. */
export const cardChangeSchema = z.strictObject({
  revision: z.number().int(),
  printed: cardFields.printed.optional(),
  state: cardFields.state.optional(),
  holderId: cardFields.holderId.optional(),
  validFrom: cardFields.validFrom.optional(),
  validTo: cardFields.validTo.optional(),
  notes: cardFields.notes.optional(),
});
export const cardQuerySchema = z.object({
  search: z.string().max(200).optional(),
  state: cardStateSchema.optional(),
  limit: z.coerce.number().int().min(1).max(1000).default(200),
});

// Controllers, readers, loads, events

export const loadSchema = z.object({
  id: idSchema,
  state: z.enum(['running', 'done', 'failed']),
  done: z.number().int(),
  total: z.number().int(),
  message: z.string(),
  startedAt: instant,
});
export type Load = z.infer<typeof loadSchema>;

export const LOAD_STATES = ['current', 'changes waiting', 'never loaded', 'differs'] as const;
export const controllerSchema = z.object({
  id: idSchema,
  name,
  device: z.string(),
  comparesFacility: z.boolean(),
  wantedFormats: z.array(idSchema),
  loadedFormats: z.array(idSchema),
  wantedCards: z.number().int(),
  loadedCards: z.number().int(),
  standing: z.enum(LOAD_STATES),
  /** What loading would add, change and remove, one line each, the first of them; `waitingCount` counts all. */
  waiting: z.array(z.object({ change: z.enum(['add', 'change', 'remove']), what: z.string() })),
  waitingCount: z.number().int(),
  loadedAt: instant.nullable(),
  readers: z.array(z.object({ id: idSchema, name })),
  /** The load under way, or the last one. */
  load: loadSchema.nullable(),
  /** Whether the device answers at the moment. */
  answers: z.boolean(),
});
export type Controller = z.infer<typeof controllerSchema>;
export const newControllerSchema = z.strictObject({
  name,
  device: z.string().min(1).max(60),
  comparesFacility: z.boolean().default(true),
});
export const wantedFormatsSchema = z.strictObject({ formats: z.array(idSchema).max(200) });

export const readerSchema = z.object({
  id: idSchema,
  name,
  kind: z.enum(['door', 'enrolment']),
  device: z.string(),
  controllerId: idSchema.nullable(),
});
export type Reader = z.infer<typeof readerSchema>;
export const newReaderSchema = z.strictObject({
  name,
  kind: z.enum(['door', 'enrolment']),
  device: z.string().min(1).max(60),
  controllerId: idSchema.nullable().default(null),
});

export const eventSchema = z.object({
  id: idSchema,
  at: instant,
  kind: z.enum(['presented', 'loaded', 'load failed']),
  controller: z.object({ id: idSchema, name }).nullable(),
  reader: z.object({ id: idSchema, name }).nullable(),
  readId: idSchema.nullable(),
  bits: bitsSchema.nullable(),
  outcome: z.enum(['opened', 'refused']).nullable(),
  stoppedAt: z.enum(STEPS).nullable(),
  reason: z.string(),
  /** What Raw Bits knows beyond what the controller knew, for instance that the card waits to be loaded. */
  advice: z.string().nullable(),
  card: z.object({ id: idSchema, holder: z.string().nullable() }).nullable(),
});
export type AccessEvent = z.infer<typeof eventSchema>;
export const eventQuerySchema = z.object({
  controller: idSchema.optional(),
  limit: z.coerce.number().int().min(1).max(500).default(50),
  before: instant.optional(),
});

// The rig

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

// Trail and live feed

export const trailEntrySchema = z.object({
  seq: z.number().int(),
  at: instant,
  operator: z.string(),
  action: z.string(),
  subject: z.string(),
  before: z.unknown(),
  after: z.unknown(),
});
export type TrailEntry = z.infer<typeof trailEntrySchema>;
export const trailQuerySchema = z.object({
  limit: z.coerce.number().int().min(1).max(500).default(100),
  before: z.coerce.number().int().optional(),
});
export const trailVerificationSchema = z.object({
  intact: z.boolean(),
  entries: z.number().int(),
  /** The first entry at which something is wrong. */
  brokenAt: z.number().int().nullable(),
  message: z.string(),
});
export type TrailVerification = z.infer<typeof trailVerificationSchema>;

export const feedEntrySchema = z.object({
  seq: z.number().int(),
  kind: z.enum(['read', 'event', 'cards', 'formats', 'controllers', 'load', 'operators', 'trail', 'cases']),
  data: z.unknown(),
});
export type FeedEntry = z.infer<typeof feedEntrySchema>;
