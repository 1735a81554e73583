/**
 * A part of a plan for a third party: some of its applications with the keys that stand in them, and nothing of the rest of the
 * card. What comes back is merged: only in those applications may it differ.
 */
import { fail } from '../../failure/index.ts';
import { keyNames, type Plan } from '../schema/index.ts';

/** The plan with these applications alone; of the card itself nothing but what kind it is. */
export function partOf(plan: Plan, ids: readonly string[]): Plan {
  const applications = plan.applications.filter(({ id }) => ids.includes(id));
  const bare: Plan = {
    ...plan,
    card: {
      key: null,
      keyKind: plan.card.keyKind,
      settings: { masterChangeable: true, freeDirectory: true, freeCreate: false, changeable: true },
    },
    applications,
    keys: [],
    assertions: [],
  };
  const own = new Set(keyNames(bare));
  return {
    ...bare,
    keys: plan.keys.filter(({ name }) => own.has(name)).map(({ from: _from, ...key }) => key),
    assertions: plan.assertions.filter(
      ({ keys, can }) => keys.every((key) => own.has(key)) && ids.some((id) => can.endsWith(` ${id}`)),
    ),
  };
}

/**
 * The whole plan with a part put in its place: applications that are in both are taken from the part, new keys in them are told.
 * Throws `part` where it has an application that is not in the whole, or is of another kind of card.
 */
export function merged(whole: Plan, part: Plan): Plan {
  const stranger = part.applications.find(({ id }) => !whole.applications.some((one) => one.id === id));
  if (stranger)
    fail(
      'part',
      `The part has an application ${stranger.id}, and the plan has none.`,
      { field: 'applications' },
      'Put it into the plan first, or take it in as a plan of its own.',
    );
  if (part.generation !== whole.generation || part.capacity !== whole.capacity)
    fail('part', 'The part is for another card than the plan.', { field: 'generation' });
  const applications = whole.applications.map((one) => part.applications.find(({ id }) => id === one.id) ?? one);
  const next: Plan = { ...whole, applications };
  const needed = new Set(keyNames(next));
  const told = [...whole.keys, ...part.keys.filter(({ name }) => !whole.keys.some((key) => key.name === name))];
  return { ...next, keys: told.filter(({ name }) => needed.has(name)) };
}
