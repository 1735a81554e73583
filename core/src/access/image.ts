/**
 * The image of a controller: everything that is loaded into it. What it should have and what it has are two images;
 * their difference is what waits to be loaded.
 */
import { z } from 'zod';
import { formatSchema } from '../format/index.ts';

export const CARD_STATES = ['in stock', 'issued', 'active', 'suspended', 'lost', 'expired', 'withdrawn'] as const;
export const cardStateSchema = z.enum(CARD_STATES);
export type CardState = z.infer<typeof cardStateSchema>;

export const credentialSchema = z.strictObject({
  id: z.string().min(1).max(40),
  /** The id of the format under which number and facility code were cut out. */
  format: z.string().max(40),
  /** Decimal, or null where the format has none. */
  facility: z
    .string()
    .regex(/^\d{1,40}$/)
    .nullable(),
  number: z.string().regex(/^\d{1,160}$/),
  holder: z.string().max(200).nullable(),
  state: cardStateSchema,
  /** ISO 8601 instants, or null for no limit. */
  validFrom: z.string().nullable(),
  validTo: z.string().nullable(),
});
export type Credential = z.infer<typeof credentialSchema>;

export const controllerImageSchema = z.strictObject({
  formats: z.array(formatSchema),
  credentials: z.array(credentialSchema),
  /** Whether the facility code has to agree as well as the number. */
  comparesFacility: z.boolean(),
});
export type ControllerImage = z.infer<typeof controllerImageSchema>;

export const EMPTY_IMAGE: ControllerImage = { formats: [], credentials: [], comparesFacility: true };

/** JSON with sorted keys, so that equal values give equal text. */
export function canonicalJson(value: unknown): string {
  const { toJSON } = (value ?? {}) as { toJSON?: () => unknown };
  if (typeof toJSON === 'function') return canonicalJson(toJSON.call(value));
  if (value === null || typeof value !== 'object') return JSON.stringify(value) ?? 'null';
  if (Array.isArray(value)) return `[${value.map(canonicalJson).join(',')}]`;
  const entries = Object.entries(value).filter(([, v]) => v !== undefined);
  entries.sort(([a], [b]) => (a < b ? -1 : 1));
  return `{${entries.map(([k, v]) => `${JSON.stringify(k)}:${canonicalJson(v)}`).join(',')}}`;
}

/** The items of an image under stable keys, each as canonical JSON. */
export function itemsOf(image: ControllerImage): Map<string, string> {
  const items = new Map<string, string>();
  for (const format of image.formats) items.set(`format ${format.id}`, canonicalJson(format));
  for (const credential of image.credentials) items.set(`card ${credential.id}`, canonicalJson(credential));
  items.set('facility compared', String(image.comparesFacility));
  return items;
}

/** The items of an image as one text, to be hashed: equal images in any order give equal texts. */
export function imageText(image: ControllerImage): string {
  return [...itemsOf(image)]
    .map(([key, value]) => `${key}\t${value}`)
    .sort()
    .join('\n');
}

export interface ImageDifference {
  added: string[];
  changed: string[];
  removed: string[];
}

/** What loading `wanted` over `loaded` would add, change and remove, by item key. */
export function differenceOf(wanted: ControllerImage, loaded: ControllerImage): ImageDifference {
  const [to, from] = [itemsOf(wanted), itemsOf(loaded)];
  const difference: ImageDifference = { added: [], changed: [], removed: [] };
  for (const [key, value] of to) {
    if (!from.has(key)) difference.added.push(key);
    else if (from.get(key) !== value) difference.changed.push(key);
  }
  for (const key of from.keys()) if (!to.has(key)) difference.removed.push(key);
  return difference;
}
