/** What a plan must keep true of its card, and what breaks it: the shortest sequence of commands that does. */
import { fail } from '../../failure/index.ts';
import { type Assertion, keyNames, type Plan } from '../schema/index.ts';
import type { Step } from './model.ts';
import { reach } from './reach.ts';

export interface Held {
  assertion: Assertion;
  holds: boolean;
  /** The keys that whoever could break it holds. */
  keys: string[];
  /** What can be done against it, and how; null where nothing can. */
  broken: { can: string; by: Step[] } | null;
}

/** Throws `no-such-key` where an assertion names a key that the plan has not, `no-such-thing` where what it is about is not there. */
export function checkAssertion(plan: Plan, assertion: Assertion): Held {
  const all = keyNames(plan);
  for (const key of assertion.keys)
    if (!all.includes(key)) fail('no-such-key', `The plan has no key "${key}".`, { field: 'assertions' });
  const everything = reach(plan, new Set(all));
  const isMeant = (can: string) => can === assertion.can;
  if (!everything.some(({ can }) => isMeant(can)) && !isSayable(plan, assertion.can))
    fail(
      'no-such-thing',
      `Nothing of the plan is called "${assertion.can}".`,
      { field: 'assertions' },
      'Write it as reach tells it: "write file 1 of 3042F5", "delete 3042F5", "format the card".',
    );
  const keys = assertion.claim === 'only' ? all.filter((key) => !assertion.keys.includes(key)) : assertion.keys;
  const broken = reach(plan, new Set(keys)).find(({ can }) => isMeant(can)) ?? null;
  return { assertion, holds: broken === null, keys, broken };
}

/** Whether an ability could be told of a plan, even though nobody has it. */
function isSayable(plan: Plan, can: string): boolean {
  const whole = [
    'list the applications',
    'format the card',
    'change the card master key',
    'change the settings of the card',
  ];
  if (whole.includes(can)) return true;
  return plan.applications.some(({ id, keys, files }) =>
    [
      ...['replace', 'delete', 'list the files of', 'change the settings of'].map((what) => `${what} ${id}`),
      ...keys.map((_, slot) => `change key ${slot} of ${id}`),
      ...files.flatMap(({ number }) =>
        ['read', 'write', 'credit', 'debit', 'clear', 'alter', 'destroy', 'replace', 'change the rights of'].map(
          (what) => `${what} file ${number} of ${id}`,
        ),
      ),
    ].includes(can),
  );
}

export const checkAssertions = (plan: Plan): Held[] =>
  plan.assertions.map((assertion) => checkAssertion(plan, assertion));
