/** Chip plans: what goes on cards, in versions, with what must stay true of them; and what a change would do to those that are about. */
import { type AnyPlan, anyPlanSchema, assertionSchema, PLAN_KINDS } from '@rawbits/core/plan';
import { z } from 'zod';
import { idSchema, instant, name, notes } from './parts.ts';
import { route } from './route.ts';

export const chipPlanSchema = anyPlanSchema;
export type ChipPlan = AnyPlan;

export const heldSchema = z.object({
  assertion: assertionSchema,
  holds: z.boolean(),
  /** The keys that whoever breaks it holds. */
  keys: z.array(z.string()),
});

export const planVersionSchema = z.object({
  version: z.number().int(),
  plan: chipPlanSchema,
  notes: z.string(),
  madeBy: name,
  madeAt: instant,
  /** Cards that carry this version. */
  cards: z.number().int(),
  assertions: z.array(heldSchema),
});

export const planOnFileSchema = z.object({
  id: idSchema,
  name,
  kind: z.enum(PLAN_KINDS),
  current: z.number().int(),
  cards: z.number().int(),
  /** Cards that carry an older version, or older keys than are in use. */
  behind: z.number().int(),
  errors: z.number().int(),
  advice: z.number().int(),
  /** The keys that stand in the current version, and which of the store each is where that is said. */
  keys: z.array(z.object({ name: z.string(), from: z.object({ set: z.string(), key: z.string() }).nullable() })),
  /** Of the assertions of the current version, how many hold. */
  held: z.object({ hold: z.number().int(), of: z.number().int() }),
});
export type PlanOnFile = z.infer<typeof planOnFileSchema>;
export const onePlanSchema = planOnFileSchema.extend({
  versions: z.array(planVersionSchema),
  /** Why no key is used by it; null where it is as it was saved. */
  problem: z.string().nullable(),
  /** Its names of the keys that a custodian has not agreed to for the current version. */
  keysWaiting: z.array(z.string()),
});
export type OnePlan = z.infer<typeof onePlanSchema>;

export const cardStepSchema = z.object({
  do: z.string(),
  application: z.string().nullable(),
  file: z.number().int().optional(),
  block: z.number().int().optional(),
  slot: z.number().int().optional(),
  loses: z.string().optional(),
});

export const planChangeSchema = z.object({
  /** For the cards of each version: what each takes, or why it cannot be brought along. */
  cards: z.array(
    z.object({
      version: z.number().int(),
      cards: z.number().int(),
      steps: z.array(cardStepSchema),
      keys: z.array(z.string()),
      refused: z.string().nullable(),
    }),
  ),
  differences: z.array(z.object({ where: z.string(), before: z.string().optional(), after: z.string().optional() })),
  /** Keys of the plan that are not in the key store. */
  missing: z.array(z.string()),
  /** Readers that are set up by this plan: whether they would still read its cards. */
  readers: z.array(z.object({ id: idSchema, name, refuses: z.string().nullable() })),
});
export type PlanChangeShown = z.infer<typeof planChangeSchema>;

const at = '/sites/{site}/plans';
const bodyPlan = {
  plan: chipPlanSchema,
  notes: notes.default(''),
  /** Saved although an assertion does not hold, or it cannot be encoded. */
  evenSo: z.boolean().default(false),
};
/** Plans are trees: a file may have 64 fields, an application 32 files. */
const limits = { bytes: 400_000, entries: 500 };

export const planApi = {
  list: route({
    method: 'get',
    path: at,
    summary: 'The chip plans of a site',
    needs: 'see the site',
    answers: z.array(planOnFileSchema),
  }),
  one: route({
    method: 'get',
    path: `${at}/{id}`,
    summary: 'A plan with its versions and what must stay true of it',
    needs: 'see the site',
    answers: onePlanSchema,
  }),
  add: route({
    method: 'post',
    path: at,
    summary: 'A new plan; refused while an assertion of it does not hold, unless it is to be kept even so',
    needs: 'encode cards',
    body: z.strictObject(bodyPlan),
    limits,
    answers: onePlanSchema,
  }),
  addVersion: route({
    method: 'post',
    path: `${at}/{id}/versions`,
    summary: 'A new version of a plan',
    needs: 'encode cards',
    body: z.strictObject({ ...bodyPlan, basedOn: z.number().int() }),
    limits,
    answers: onePlanSchema,
  }),
  remove: route({
    method: 'delete',
    path: `${at}/{id}`,
    summary: 'Give a plan up that no card carries',
    needs: 'encode cards',
    answers: z.object({}),
  }),
  dryRun: route({
    method: 'post',
    path: `${at}/{id}/dry-runs`,
    summary: 'What a changed plan, or keys that have rolled over, would mean for the cards and readers that are about',
    needs: 'see the site',
    body: z.strictObject({ plan: chipPlanSchema }),
    limits,
    answers: planChangeSchema,
  }),
};
