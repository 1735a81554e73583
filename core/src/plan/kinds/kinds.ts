/** A plan of any kind of chip: what is asked of all of them alike. */
import { z } from 'zod';
import type { Field } from '../fields/index.ts';
import { type Reaches, reachesOf } from '../reach/index.ts';
import { keyNames, type PlanKey, type PlanProblem, planSchema, problemsOfPlan } from '../schema/index.ts';
import {
  blocksIn,
  keyNamesOfSectors,
  problemsOfSectors,
  reachesOfSectors,
  sectorPlanSchema,
} from '../sectors/index.ts';
import { keyNamesOfTag, problemsOfTag, reachesOfTag, TAG_BYTES, tagPlanSchema } from '../tags/index.ts';

export const anyPlanSchema = z.discriminatedUnion('kind', [
  planSchema.extend({ kind: z.literal('files') }),
  sectorPlanSchema,
  tagPlanSchema,
]);
export type AnyPlan = z.output<typeof anyPlanSchema>;
export const PLAN_KINDS = ['files', 'sectors', 'tag'] as const satisfies readonly AnyPlan['kind'][];

/** What a plan of a kind is for, in the plural. */
export const CHIPS: Record<AnyPlan['kind'], string> = {
  files: 'file-system cards',
  sectors: 'sector cards',
  tag: 'rewritable tags',
};

/** The published schema of a plan’s file. */
export const planJsonSchema = () => ({
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  ...z.toJSONSchema(anyPlanSchema, { io: 'input' }),
});

/** The names of the keys of a plan, each once, in the order in which they stand. */
export function keyNamesOf(plan: AnyPlan): string[] {
  if (plan.kind === 'files') return keyNames(plan);
  return plan.kind === 'sectors' ? keyNamesOfSectors(plan) : keyNamesOfTag(plan);
}

/** How a plan says which key of the store is meant by a name; undefined where it is looked for by that name. */
export const keyOriginOf = (plan: AnyPlan, name: string): PlanKey['from'] =>
  plan.kind === 'sectors' ? undefined : plan.keys.find((key) => key.name === name)?.from;

export function problemsOf(plan: AnyPlan): PlanProblem[] {
  if (plan.kind === 'files') return problemsOfPlan(plan);
  return plan.kind === 'sectors' ? problemsOfSectors(plan) : problemsOfTag(plan);
}

/** What can be done with some keys, and what can be said of it; the steps are those of its kind. */
export function reachesOfAny(plan: AnyPlan): Reaches<{ do: string }> {
  if (plan.kind === 'files') return reachesOf(plan);
  return plan.kind === 'sectors' ? reachesOfSectors(plan) : reachesOfTag(plan);
}

/** Everything of a plan that is filled from a card: its fields, and how many bytes they have. */
export function filledBy(plan: AnyPlan): { fields: readonly Field[]; size: number }[] {
  if (plan.kind === 'files')
    return plan.applications.flatMap(({ files }) => files.flatMap((file) => ('fields' in file ? [file] : [])));
  if (plan.kind === 'sectors')
    return plan.sectors.map(({ fields, number }) => ({ fields, size: 16 * (blocksIn(number).length - 1) }));
  return plan.sends.is === 'identification' ? [{ fields: plan.sends.fields, size: TAG_BYTES }] : [];
}

/** Whether the bits of the card’s format go onto it. */
export const takesBits = (plan: AnyPlan): boolean =>
  (plan.kind === 'tag' && plan.sends.is === 'string') ||
  filledBy(plan).some(({ fields }) => fields.some(({ content }) => content.is === 'bits'));
