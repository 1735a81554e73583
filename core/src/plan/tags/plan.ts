/**
 * A plan of a rewritable tag: what it sends, by which password it can be written, and what of it is locked for good. It sends
 * the 64 bits of an identification tag, made from five bytes of fields, or carries the Wiegand string of the card.
 */
import { z } from 'zod';
import { fail } from '../../failure/index.ts';
import { carrierContents, configurationOf, identificationContents, type TagContents } from '../../lf/index.ts';
import { bytesOfFields, fieldSchema, type Known, problemsOfFields } from '../fields/index.ts';
import { assertionSchema, type PlanProblem, planKeySchema } from '../schema/index.ts';

const name = z.string().trim().min(1).max(120);

/** Bytes of an identification tag: one of version or customer code, four of number. */
export const TAG_BYTES = 5;
/** The block of the password. */
export const PASSWORD_BLOCK = 7;

export const tagPlanSchema = z.strictObject({
  schema: z.literal('rawbits/plan@1'),
  name: name.default('plan'),
  kind: z.literal('tag'),
  sends: z.discriminatedUnion('is', [
    /** The 64 bits of an identification tag; how many periods of the carrier a bit takes. */
    z.strictObject({
      is: z.literal('identification'),
      rate: z.union([z.literal(32), z.literal(64)]).default(64),
      fields: z.array(fieldSchema).max(TAG_BYTES).default([]),
    }),
    /** The bits of the card’s format, 1 to 37 of them. */
    z.strictObject({ is: z.literal('string') }),
  ]),
  /** The name of the key that is its password; null where everybody may write it. */
  password: name.nullable().default(null),
  /** What is locked for good: nothing, the blocks that it sends, or its configuration and password, too. */
  lock: z.enum(['nothing', 'contents', 'everything']).default('nothing'),
  /** Which of the store its password is; a tag’s is the same on all. */
  keys: z.array(planKeySchema).max(1).default([]),
  assertions: z.array(assertionSchema).max(100).default([]),
});
export type TagPlan = z.output<typeof tagPlanSchema>;

export const keyNamesOfTag = ({ password }: TagPlan): string[] => (password === null ? [] : [password]);

/** How many blocks it sends, from 1 on. */
export const sentBlocks = ({ sends }: TagPlan): number => (sends.is === 'string' ? 3 : 2);

/** The blocks that a plan locks for good, in the order in which they are locked: the configuration last. */
export function lockedBlocks(plan: TagPlan): number[] {
  const contents = Array.from({ length: sentBlocks(plan) }, (_, i) => i + 1);
  return { nothing: [], contents, everything: [...contents, PASSWORD_BLOCK, 0] }[plan.lock];
}

/** What its blocks are to hold for a card. Throws what its fields throw, `unknown` where its bits are not known, `carrier-length`. */
export function contentsOf({ sends }: TagPlan, known: Known): TagContents {
  if (sends.is === 'identification') {
    const bytes = bytesOfFields(sends.fields, TAG_BYTES, known);
    return identificationContents(
      bytes.reduce((all, byte) => (all << 8n) | BigInt(byte), 0n),
      sends.rate,
    );
  }
  const { bits } = known;
  if (!bits) return fail('unknown', 'The tag carries the card’s bits, which are not known.', { field: 'card' });
  return carrierContents(bits.toBinary());
}

/** The configuration word that goes with what it sends. */
export const configurationWord = ({ configuration }: TagContents, hasPassword: boolean): number =>
  configurationOf({ ...configuration, hasPassword });

export function problemsOfTag(plan: TagPlan): PlanProblem[] {
  const found: PlanProblem[] = [];
  const advise = (code: string, where: string, message: string) =>
    void found.push({ weight: 'advice', code, where, message });
  const { sends, password, lock, keys } = plan;
  if (sends.is === 'identification') {
    for (const { code, message, field } of problemsOfFields(sends.fields, TAG_BYTES))
      found.push({ weight: 'error', code, message, where: `sends.fields.${field}` });
    if (sends.rate === 32)
      advise('slow', 'sends.rate', 'Most readers listen at RF/64: one that does hears nothing of a tag at RF/32.');
  }
  for (const [i, key] of keys.entries())
    if (key.name !== password || key.each === 'card')
      found.push({
        weight: 'error',
        code: 'tag-key',
        where: `keys.${i}`,
        message:
          key.each === 'card'
            ? 'A password of 32 bits is the same on all tags: none can be made from another for each.'
            : `No password of this plan is called "${key.name}".`,
      });
  advise('copied', 'sends', 'Whoever comes near enough reads what the tag sends, and can make another that sends it.');
  if (password === null && lock !== 'everything')
    advise(
      'open',
      'password',
      'Everybody can write over what is not locked, or set a password that nobody else knows.',
    );
  if (password !== null && lock !== 'everything')
    advise('in-the-clear', 'password', 'The password goes to the tag in the clear: whoever listens to one run has it.');
  if (lock !== 'nothing')
    advise('for-good', 'lock', 'What is locked can never be written again: the tag is not freed.');
  return found;
}
