/**
 * A chip plan: what goes on a file-system card. Data alone; keys stand in it by their names, never by their bytes. Numbers
 * that chips and people write in hex (identifiers) are hex texts, all others are numbers.
 */
import { z } from 'zod';
import { fieldSchema } from '../fields/index.ts';

const name = z.string().trim().min(1).max(120);
/** `free` for everybody, `never`, or the number of a key of the application. */
export const whoSchema = z.union([z.literal('free'), z.literal('never'), z.number().int().min(0).max(13)]);
export type Who = z.output<typeof whoSchema>;

const settings = {
  /** Whether key 0 can be changed. */
  masterChangeable: z.boolean().default(true),
  /** Whether everybody may list what there is. */
  freeDirectory: z.boolean().default(true),
  /** Whether everybody may create (and within an application delete) what is below. */
  freeCreate: z.boolean().default(false),
  /** Whether these settings can be changed, by key 0. */
  changeable: z.boolean().default(true),
};

/** A slot of an application: the name of a key of the plan, or null where the factory's stays, which everybody knows. */
const slot = name.nullable();

/** An identifier of ISO/IEC 7816-4 in hex, as people write it. */
const isoId = z
  .string()
  .toUpperCase()
  .regex(/^[0-9A-F]{4}$/, 'An identifier of ISO/IEC 7816-4 has four hex digits.')
  .optional();

const fileHead = {
  number: z.number().int().min(0).max(31),
  name: name.optional(),
  mode: z.enum(['plain', 'maced', 'enciphered']).default('enciphered'),
  rights: z.strictObject({ read: whoSchema, write: whoSchema, both: whoSchema, change: whoSchema }),
};
const size = z.number().int().min(1).max(8192);
const fields = z.array(fieldSchema).max(64).default([]);
const int32 = z
  .number()
  .int()
  .min(-(2 ** 31))
  .max(2 ** 31 - 1);
export const planFileSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('standard'), ...fileHead, isoId, size, fields }),
  z.strictObject({ kind: z.literal('backup'), ...fileHead, isoId, size, fields }),
  z.strictObject({
    kind: z.literal('value'),
    ...fileHead,
    lower: int32.default(0),
    upper: int32,
    value: int32.default(0),
    limitedCredit: z.boolean().default(false),
  }),
  z.strictObject({
    kind: z.literal('linear'),
    ...fileHead,
    isoId,
    size,
    records: z.number().int().min(1).max(0xffffff),
  }),
  z.strictObject({
    kind: z.literal('cyclic'),
    ...fileHead,
    isoId,
    size,
    records: z.number().int().min(2).max(0xffffff),
  }),
]);
export type PlanFile = z.output<typeof planFileSchema>;

export const CARD_KEY_KINDS = ['aes128', 'tdes2', 'tdes3'] as const;

export const planApplicationSchema = z.strictObject({
  /** Six hex digits, as people write it: the most significant byte first. */
  id: z
    .string()
    .toUpperCase()
    .regex(/^[0-9A-F]{6}$/, 'An application identifier has six hex digits.')
    .refine((id) => id !== '000000', '000000 is the card itself.'),
  name: name.optional(),
  isoId,
  /** Its name of ISO/IEC 7816-4, 1 to 16 bytes in hex; only where it has an `isoId`. */
  isoName: z
    .string()
    .toUpperCase()
    .regex(/^([0-9A-F]{2}){1,16}$/, 'A name has 1 to 16 bytes in hex.')
    .optional(),
  /**
   * What to do where the card has an application of this identifier already: bring it along, renew the contents of its
   * files and nothing else, put a new one in its place, or refuse the card.
   */
  there: z.enum(['bring along', 'renew contents', 'replace', 'refuse']).default('bring along'),
  keyKind: z.enum(CARD_KEY_KINDS).default('aes128'),
  keys: z.array(slot).min(1).max(14),
  settings: z
    .strictObject({
      ...settings,
      /** Who changes keys besides key 0: the number of a key, each key itself, or nobody. */
      changeKeys: z.union([z.literal('itself'), z.literal('never'), z.number().int().min(0).max(13)]).default(0),
    })
    .prefault({}),
  files: z.array(planFileSchema).max(32).default([]),
});
export type PlanApplication = z.output<typeof planApplicationSchema>;

/** How the bytes of a key come about: from the key store, by names; the same on all cards, or made for each from its UID. */
export const planKeySchema = z.strictObject({
  name,
  /** The key of the store, by set and name; without it the name is looked for in every set. */
  from: z.strictObject({ set: name, key: name }).optional(),
  each: z.enum(['card', 'all']).default('all'),
  /** What goes into a card's key after UID and application; in hex. */
  system: z
    .string()
    .toUpperCase()
    .regex(/^([0-9A-F]{2}){0,21}$/, 'A system identifier has up to 21 bytes in hex.')
    .default(''),
});
export type PlanKey = z.output<typeof planKeySchema>;

/** What must stay true of the card: `can` is a text of `abilityText`, or its beginning. */
export const assertionSchema = z.discriminatedUnion('claim', [
  /** Whoever holds any of the plan's keys but these can never do it. */
  z.strictObject({ claim: z.literal('only'), keys: z.array(name).max(40), can: name }),
  /** Whoever holds these keys, and no others, can never do it. */
  z.strictObject({ claim: z.literal('never'), keys: z.array(name).max(40), can: name }),
]);
export type Assertion = z.output<typeof assertionSchema>;

export const planSchema = z.strictObject({
  schema: z.literal('rawbits/plan@1'),
  name: name.default('plan'),
  kind: z.literal('files').default('files'),
  generation: z.union([z.literal(1), z.literal(2), z.literal(3)]).default(2),
  /** What the card holds, in bytes. */
  capacity: z.union([z.literal(2048), z.literal(4096), z.literal(8192)]).default(4096),
  randomUid: z.boolean().default(false),
  /** Where its holders carry it: in public anybody near can tell a card again by its UID. */
  carried: z.enum(['inside', 'in public']).default('inside'),
  /** Whether formatting is given up for good. */
  noFormat: z.boolean().default(false),
  card: z
    .strictObject({
      key: slot.default(null),
      keyKind: z.enum(CARD_KEY_KINDS).default('aes128'),
      settings: z.strictObject(settings).prefault({}),
    })
    .prefault({}),
  applications: z.array(planApplicationSchema).max(64).default([]),
  /** How its keys come about; one that is not named here is the same on all cards. */
  keys: z.array(planKeySchema).max(64).default([]),
  assertions: z.array(assertionSchema).max(100).default([]),
});
export type Plan = z.output<typeof planSchema>;
export type PlanInput = z.input<typeof planSchema>;

/** The names of the keys of a plan, each once, in the order in which they stand; those that open a grant last. */
export const keyNames = ({ card, applications }: Plan): string[] => [
  ...new Set(
    [
      card.key,
      ...applications.flatMap(({ keys }) => keys),
      ...applications.flatMap(({ files }) => files.flatMap(openersIn)),
    ].filter((key) => key !== null),
  ),
];
const openersIn = (file: PlanFile): string[] =>
  'fields' in file ? file.fields.flatMap(({ content }) => (content.is === 'wrapped' ? [content.under] : [])) : [];

/** How a key of the plan comes about. */
export const keyOfPlan = ({ keys }: Pick<Plan, 'keys'>, name: string): PlanKey =>
  keys.find((key) => key.name === name) ?? { name, each: 'all', system: '' };
