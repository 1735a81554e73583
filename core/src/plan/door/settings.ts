/**
 * What whoever sets up a reader at a door has to know: where on a card of a plan the credential stands, and by which key it
 * is read. Data alone; the key stands in it by its name.
 */
import { z } from 'zod';
import { fail } from '../../failure/index.ts';
import { placed } from '../fields/index.ts';
import { CARD_KEY_KINDS, keyOfPlan, type Plan, type PlanApplication } from '../schema/index.ts';
import { cutOf, cutShape } from './cut.ts';

const name = z.string().trim().min(1).max(120);
const hexId = z
  .string()
  .toUpperCase()
  .regex(/^[0-9A-F]{6}$/, 'An application identifier has six hex digits.');

export const doorKeySchema = z.strictObject({
  /** The plan's name of it; null for the factory's. */
  name: name.nullable(),
  slot: z.number().int().min(0).max(13),
  each: z.enum(['card', 'all']),
  system: z.string().regex(/^([0-9A-F]{2}){0,21}$/),
});

export const fileReaderSchema = z.strictObject({
  reads: z.literal('file'),
  application: hexId,
  keyKind: z.enum(CARD_KEY_KINDS),
  /** The key that reads; undefined where everybody may. */
  key: doorKeySchema.optional(),
  /** The key by which a card tells its UID that it hides; only where that goes into the key that reads. */
  tells: doorKeySchema.optional(),
  file: z.number().int().min(0).max(31),
  mode: z.enum(['plain', 'maced', 'enciphered']),
  ...cutShape,
});
export type FileReader = z.output<typeof fileReaderSchema>;

/**
 * The settings for one field. `bits` is how many the format of the cards has; without it the whole field is taken. `slot` is
 * the key that reads, where more than one does. Throws `door-field` where no key reads it, or there is none.
 */
export function readerFor(
  plan: Plan,
  { application: id, file: number, field: called }: { application: string; file: number; field: string },
  { bits, slot }: { bits?: number; slot?: number } = {},
): FileReader {
  const application = plan.applications.find((one) => one.id === id);
  const file = application?.files.find((one) => one.number === number);
  const place = file && 'fields' in file ? placed(file.fields).find(({ field }) => field.name === called) : undefined;
  if (!application || !file || !place)
    return fail('door-field', `The plan has no field "${called}" in file ${number} of ${id}.`, { field: 'field' });
  const { read, both } = file.rights;
  const isFree = [read, both].includes('free');
  const slots = [read, both].filter((who) => typeof who === 'number');
  if (!isFree && slots.length === 0)
    fail(
      'door-field',
      `Nobody can read file ${number} of ${id}.`,
      { field: 'field' },
      'Give a key the right to read it.',
    );
  if (slot !== undefined && !isFree && !slots.includes(slot))
    fail('door-field', `Key ${slot} does not read file ${number} of ${id}.`, { field: 'slot' });
  const key = isFree ? undefined : keyAt(plan, application, slot ?? slots[0]!);
  return {
    reads: 'file',
    application: id,
    keyKind: application.keyKind,
    ...(key && { key }),
    ...(plan.randomUid && key?.each === 'card' && { tells: tellingKey(plan, application) }),
    file: number,
    mode: isFree ? 'plain' : file.mode,
    ...cutOf(place, bits),
  };
}

const keyAt = (plan: Plan, { keys }: PlanApplication, slot: number): FileReader['key'] => {
  const name = keys[slot] ?? null;
  if (name === null) return { name, slot, each: 'all', system: '' };
  const { each, system } = keyOfPlan(plan, name);
  return { name, slot, each, system };
};

/** A key of the application that is the same on all cards: by it a card with a UID drawn anew tells its own. */
function tellingKey(plan: Plan, application: PlanApplication): FileReader['key'] {
  const slot = application.keys.findIndex((name) => name === null || keyOfPlan(plan, name).each === 'all');
  if (slot < 0)
    fail(
      'door-uid',
      `The cards hide their UID, and ${application.id} has no key by which they tell it before they are known.`,
      { field: 'field' },
      'Have a key in it that is the same on all cards.',
    );
  return keyAt(plan, application, slot);
}
