/**
 * What a plan exposes keys to: in which places of a card each stands, and in which form. Nothing is put on a card here; it is
 * what somebody has to know who decides whether a key may be used by a plan.
 */
import type { PlanFile } from '../schema/index.ts';
import { keyOfPlan } from '../schema/index.ts';
import type { AnyPlan } from './kinds.ts';

/** One place of a card that a key of a plan is put in. */
export interface KeyPlace {
  /** The plan's name of the key. */
  name: string;
  /** In words: `key 1 of 5A0001`, `key A of sector 3`, `the card master key`. */
  place: string;
  /** Whether the key of the store itself is put there, the same on every card; else one that is made from it for the card. */
  asItIs: boolean;
  /** Whether whoever has it rules the whole card. */
  isCardMaster: boolean;
}

/** Every place of a card that a plan puts a key in, in the order in which they stand; a key that only opens a grant, too. */
export function keyPlacesOf(plan: AnyPlan): KeyPlace[] {
  const found: KeyPlace[] = [];
  const add = (name: string | null, place: string, asItIs: boolean, isCardMaster = false) => {
    if (name !== null) found.push({ name, place, asItIs, isCardMaster });
  };
  if (plan.kind === 'sectors')
    for (const { number, keyA, keyB } of plan.sectors) {
      add(keyA, `key A of sector ${number}`, true);
      add(keyB, `key B of sector ${number}`, true);
    }
  else if (plan.kind === 'tag') add(plan.password, 'the password of the tag', true);
  else {
    const isSame = (name: string | null) => name !== null && keyOfPlan(plan, name).each === 'all';
    const { card, applications } = plan;
    add(card.key, 'the card master key', isSame(card.key), true);
    for (const { id, keys, files } of applications) {
      for (const [slot, name] of keys.entries()) add(name, `key ${slot} of ${id}`, isSame(name));
      for (const file of files)
        for (const { key, under } of grantsIn(file)) {
          add(key, `wrapped under "${under}" in file ${file.number} of ${id}`, isSame(key), key === card.key);
          add(under, `opens the grant in file ${file.number} of ${id}`, isSame(under));
        }
    }
  }
  return found;
}

const grantsIn = (file: PlanFile): { key: string; under: string }[] =>
  'fields' in file ? file.fields.flatMap(({ content }) => (content.is === 'wrapped' ? [content] : [])) : [];

type Tree = { [name: string]: unknown };
const without = (tree: Tree, ...names: string[]): Tree =>
  Object.fromEntries(Object.entries(tree).filter(([name]) => !names.includes(name)));
const listOf = (value: unknown): Tree[] => (Array.isArray(value) ? (value as Tree[]) : []);
const grantsAlone = (fields: unknown): Tree[] =>
  listOf(fields).filter(({ content }) => (content as { is?: unknown } | undefined)?.is === 'wrapped');

/**
 * The part of a plan as it was saved that decides what its keys are exposed to: all of it but names, what stands in fields
 * that are no grants, and assertions. Two plans with the same part expose their keys alike.
 */
export function exposingPart(definition: unknown): unknown {
  const plan = without(definition as Tree, 'name', 'assertions', 'sends');
  return {
    ...plan,
    ...('applications' in plan && {
      applications: listOf(plan.applications).map((application) => ({
        ...without(application, 'name'),
        files: listOf(application.files).map((file) => ({
          ...without(file, 'name', 'fields', 'value'),
          grants: grantsAlone(file.fields),
        })),
      })),
    }),
    ...('sectors' in plan && {
      sectors: listOf(plan.sectors).map((sector) => without(sector, 'fields', 'application')),
    }),
  };
}
