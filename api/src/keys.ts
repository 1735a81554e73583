/** Keys of a site: sets, keys, versions and their components; never a key itself. And who holds what of them. */
import { CHECK_VALUES, KEY_KINDS } from '@rawbits/core/key';
import { z } from 'zod';
import { givenPassphrase, keyFileReportSchema, keyVersionNumber } from './keyStore.ts';
import { decimal, idSchema, instant, name, notes, secret } from './parts.ts';
import { route } from './route.ts';

export const keyKindSchema = z.enum(KEY_KINDS);
export const KEY_PURPOSES = [
  'card master',
  'application master',
  'read',
  'write',
  'diversify',
  'sector',
  'reader',
  'secure channel',
  'wrap',
  'other',
] as const;
export const keyPurposeSchema = z.enum(KEY_PURPOSES);

/** How a version comes to be: from the server's random source, typed, or put together from components. */
const hexKey = secret(z.string().trim().min(1, 'Give the key in hex digits.').max(120));
const checkValueSchema = z
  .string()
  .trim()
  .toUpperCase()
  .regex(/^([0-9A-F]{2}){1,3}$/, 'A check value has six hex digits, of a tag’s password two.');
export const comesSchema = z.discriminatedUnion('how', [
  z.strictObject({ how: z.literal('made') }),
  z.strictObject({
    how: z.literal('typed'),
    hex: hexKey,
    /** What its check value has to be, where that is known. */
    check: checkValueSchema.nullable().default(null),
    /** Kept although it is a weak key: the factory's of a blank, for one. */
    evenWeak: z.boolean().default(false),
  }),
  z.strictObject({
    how: z.literal('components'),
    parts: z.number().int().min(2, 'A key has at least 2 components.').max(5, 'At most 5 components.'),
    check: checkValueSchema.nullable().default(null),
  }),
]);
export const ORIGINS = ['made', 'typed', 'components', 'imported', 'restored'] as const;

const validity = { validFrom: instant.nullable().default(null), validTo: instant.nullable().default(null) };

export const componentSchema = z.object({
  part: z.number().int(),
  of: z.number().int(),
  custodian: name,
  checkValue: z.string(),
  givenAt: instant,
  /** Whether whoever reads this gave it. */
  mine: z.boolean(),
});

export const keyVersionSchema = z.object({
  version: z.number().int(),
  /** `waiting` for components. */
  state: z.enum(['waiting', 'ready', 'destroyed']),
  checkValue: z.string().nullable(),
  checkOf: z.enum(CHECK_VALUES).nullable(),
  origin: z.enum(ORIGINS),
  /** What speaks against it; empty where nothing does. */
  warning: z.string(),
  validFrom: instant.nullable(),
  validTo: instant.nullable(),
  madeBy: name,
  madeAt: instant,
  /** Where it comes of components: how many there are, and those that were given. */
  parts: z.number().int(),
  components: z.array(componentSchema),
  /** Cards on file that carry it. */
  cards: z.number().int(),
});
export type KeyVersion = z.infer<typeof keyVersionSchema>;

export const keySchema = z.object({
  id: idSchema,
  setId: idSchema,
  name,
  kind: keyKindSchema,
  purpose: keyPurposeSchema,
  notes: z.string(),
  /** The version in use; null until one is ready. */
  current: z.number().int().nullable(),
  retiredAt: instant.nullable(),
  versions: z.array(keyVersionSchema),
});
export type Key = z.infer<typeof keySchema>;
export const keySetSchema = z.object({ id: idSchema, name, notes: z.string(), keys: z.array(keySchema) });
export type KeySet = z.infer<typeof keySetSchema>;

export const newKeySetSchema = z.strictObject({ name, notes: notes.default('') });
export const newKeySchema = z.strictObject({
  setId: idSchema,
  name,
  kind: keyKindSchema,
  purpose: keyPurposeSchema,
  notes: notes.default(''),
  /** What it may be used for at all; widening it later takes two custodians. */
  allows: z
    .strictObject({
      /** Put on cards as it is, the same on all; without it only kinds that can be used in no other way are. */
      asItIs: z.boolean().optional(),
      /** Given to readers. */
      toReaders: z.boolean().optional(),
    })
    .default({}),
  version: keyVersionNumber.default(1),
  ...validity,
  comes: comesSchema,
});
export type NewKey = z.input<typeof newKeySchema>;
export const newKeyVersionSchema = z.strictObject({ version: keyVersionNumber, ...validity, comes: comesSchema });

export const givenComponentSchema = z.discriminatedUnion('how', [
  z.strictObject({ how: z.literal('made') }),
  z.strictObject({ how: z.literal('typed'), hex: hexKey, check: checkValueSchema.nullable().default(null) }),
]);

/** A component in the clear, for the custodian who gave it, to print. */
export const componentSheetSchema = z.object({
  site: z.string(),
  set: z.string(),
  key: z.string(),
  kind: keyKindSchema,
  version: z.number().int(),
  part: z.number().int(),
  of: z.number().int(),
  custodian: z.string(),
  hex: z.string(),
  checkValue: z.string(),
  checkOf: z.enum(CHECK_VALUES),
});
export type ComponentSheet = z.infer<typeof componentSheetSchema>;

const atKeys = '/sites/{site}/keys';
const atVersion = `${atKeys}/{id}/versions/{version}` as const;

export const keyApi = {
  list: route({
    method: 'get',
    path: atKeys,
    summary: 'Key sets with their keys and versions, by check values',
    needs: 'see the site',
    answers: z.array(keySetSchema),
  }),
  addSet: route({
    method: 'post',
    path: '/sites/{site}/key-sets',
    summary: 'Add a key set',
    needs: 'hold keys',
    body: newKeySetSchema,
    answers: keySetSchema,
  }),
  add: route({
    method: 'post',
    path: atKeys,
    summary: 'Add a key: made, typed, or to be put together from components',
    needs: 'hold keys',
    body: newKeySchema,
    answers: keySchema,
  }),
  addVersion: route({
    method: 'post',
    path: `${atKeys}/{id}/versions`,
    summary: 'A new version of a key, to roll it over',
    needs: 'hold keys',
    body: newKeyVersionSchema,
    answers: keySchema,
  }),
  use: route({
    method: 'post',
    path: `${atVersion}/use`,
    summary: 'Use this version of a key from now on',
    needs: 'hold keys',
    answers: keySchema,
  }),
  retire: route({
    method: 'post',
    path: `${atKeys}/{id}/retire`,
    summary: 'Use a key for nothing new',
    needs: 'hold keys',
    answers: keySchema,
  }),
  give: route({
    method: 'post',
    path: `${atVersion}/components`,
    summary: 'Give a component, made here or typed; with the last one the key is there',
    needs: 'hold keys',
    body: givenComponentSchema,
    secret: true,
    answers: z.object({ key: keySchema, sheet: componentSheetSchema.nullable() }),
  }),
  sheet: route({
    method: 'post',
    path: `${atVersion}/sheet`,
    summary: 'One’s own component again, while the key still waits for others',
    needs: 'hold keys',
    secret: true,
    answers: componentSheetSchema,
  }),
  giveUp: route({
    method: 'post',
    path: `${atVersion}/give-up`,
    summary: 'Give a version up that waits for components',
    needs: 'hold keys',
    answers: keySchema,
  }),
  import: route({
    method: 'post',
    path: `${atKeys}/import`,
    summary: 'Take keys in from a JWK Set (RFC 7517); all or nothing',
    needs: 'hold keys',
    body: z.strictObject({ text: secret(z.string().min(2, 'Give the file.').max(2_000_000)) }),
    limits: { bytes: 2_100_000 },
    answers: keyFileReportSchema,
  }),
  openSealed: route({
    method: 'post',
    path: `${atKeys}/sealed`,
    summary:
      'Take in what was sealed under a passphrase: its keys go into a set, all or nothing, and its plan is answered',
    needs: 'hold keys',
    body: z.strictObject({
      jwe: z.string().trim().min(1, 'Give the sealed file.').max(2_000_000),
      passphrase: givenPassphrase,
      /** The set that the keys go into. */
      set: name,
    }),
    limits: { bytes: 2_100_000 },
    answers: z.object({ plan: z.unknown(), keys: keyFileReportSchema }),
  }),
  carriers: route({
    method: 'post',
    path: `${atVersion}/cards`,
    summary: 'Note that cards of a range carry a version: they came keyed',
    needs: 'hold keys',
    body: z.strictObject({ formatId: idSchema, facility: decimal(40).nullable(), from: decimal(40), to: decimal(40) }),
    answers: z.object({ cards: z.number().int() }),
  }),
};

/** Who holds what: keys × people, readers, partners and plans. */
export const HOLDER_KINDS = ['person', 'reader', 'partner', 'plan'] as const;
export const keyHoldingSchema = z.object({
  id: idSchema,
  keyId: idSchema,
  version: z.number().int(),
  kind: z.enum(HOLDER_KINDS),
  /** Of the operator or reader; empty for a partner. */
  holderId: z.string(),
  holder: name,
  /** `whole` knows the key; `part` holds a component of it, and with all others the key. */
  what: z.enum(['whole', 'part']),
  how: z.string(),
  since: instant,
  until: instant.nullable(),
});
export type KeyHolding = z.infer<typeof keyHoldingSchema>;

export const newHoldingSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('reader'), keyId: idSchema, version: keyVersionNumber, reader: idSchema }),
  z.strictObject({ kind: z.literal('partner'), keyId: idSchema, version: keyVersionNumber, partner: name }),
]);

const atHoldings = '/sites/{site}/key-holdings';
export const keyHoldingApi = {
  list: route({
    method: 'get',
    path: atHoldings,
    summary: 'Who holds which version of which key, now and before',
    needs: 'see the site',
    answers: z.array(keyHoldingSchema),
  }),
  add: route({
    method: 'post',
    path: atHoldings,
    summary: 'Note that a reader carries a key, or that a partner was given it',
    needs: 'hold keys',
    body: newHoldingSchema,
    answers: keyHoldingSchema,
  }),
  end: route({
    method: 'post',
    path: `${atHoldings}/{id}/end`,
    summary: 'Note that it is held no more',
    needs: 'hold keys',
    answers: keyHoldingSchema,
  }),
};

/** System identifiers: what of a site goes into its diversified keys. */
export const systemIdentifierSchema = z.object({ id: idSchema, name, bytes: z.string(), notes: z.string() });
export type SystemIdentifier = z.infer<typeof systemIdentifierSchema>;
export const newSystemIdentifierSchema = z.strictObject({
  name,
  bytes: z
    .string()
    .transform((text) => text.replace(/\s+/g, '').toUpperCase())
    .pipe(z.string().regex(/^([0-9A-F]{2}){1,24}$/, 'Give 1 to 24 bytes as hex digits.')),
  notes: notes.default(''),
});

const atIdentifiers = '/sites/{site}/system-identifiers';
export const systemIdentifierApi = {
  list: route({
    method: 'get',
    path: atIdentifiers,
    summary: 'The system identifiers of a site',
    needs: 'see the site',
    answers: z.array(systemIdentifierSchema),
  }),
  add: route({
    method: 'post',
    path: atIdentifiers,
    summary: 'Add a system identifier',
    needs: 'hold keys',
    body: newSystemIdentifierSchema,
    answers: systemIdentifierSchema,
  }),
  remove: route({
    method: 'delete',
    path: `${atIdentifiers}/{id}`,
    summary: 'Give a system identifier up',
    needs: 'hold keys',
    answers: z.object({}),
  }),
};
