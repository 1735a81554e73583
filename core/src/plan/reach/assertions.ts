/** What a plan must keep true of its card, and what breaks it: the shortest sequence of commands that does. */
import { fail } from '../../failure/index.ts';
import { type Assertion, keyNames, type Plan } from '../schema/index.ts';
import { forgeText, readFiles } from './forge.ts';
import type { Step } from './model.ts';
import { reach } from './reach.ts';

export interface Held<S = Step> {
  assertion: Assertion;
  holds: boolean;
  /** The keys that whoever could break it holds. */
  keys: string[];
  /** What can be done against it, and how; null where nothing can. */
  broken: { can: string; by: S[] } | null;
}

/** What is asked of a plan of any kind of card. */
export interface Reaches<S> {
  keys: string[];
  reach(keys: ReadonlySet<string>): { can: string; by: S[] }[];
  /** Every ability that could be told of the plan, though nobody may have it. */
  sayable: readonly string[];
}

/** Throws `no-such-key` where an assertion names a key that the plan has not, `no-such-thing` where what it is about is not there. */
export function checkAgainst<S>({ keys: all, reach, sayable }: Reaches<S>, assertion: Assertion): Held<S> {
  for (const key of assertion.keys)
    if (!all.includes(key)) fail('no-such-key', `The plan has no key "${key}".`, { field: 'assertions' });
  if (!sayable.includes(assertion.can))
    fail(
      'no-such-thing',
      `Nothing of the plan is called "${assertion.can}".`,
      { field: 'assertions' },
      'Write it as reach tells it: "write file 1 of 3042F5", "delete 3042F5", "format the card", "write block 8".',
    );
  const keys = assertion.claim === 'only' ? all.filter((key) => !assertion.keys.includes(key)) : assertion.keys;
  const broken = reach(new Set(keys)).find(({ can }) => can === assertion.can) ?? null;
  return { assertion, holds: broken === null, keys, broken };
}

/** What is asked of a plan of a file-system card. */
export const reachesOf = (plan: Plan): Reaches<Step> => ({
  keys: keyNames(plan),
  reach: (keys) => reach(plan, keys),
  sayable: sayableOf(plan),
});

function sayableOf(plan: Plan): string[] {
  const { applications } = plan;
  const ofFile = [
    'read',
    'write',
    'credit',
    'limited credit',
    'debit',
    'clear',
    'alter',
    'destroy',
    'replace',
    'change the rights of',
  ];
  return [
    'list the applications',
    'format the card',
    'change the card master key',
    'change the settings of the card',
    'change the configuration of the card',
    ...(plan.randomUid ? ['learn the UID'] : []),
    ...readFiles(plan).map(({ application, file }) => forgeText(application, file)),
    ...applications.flatMap(({ id, keys, files }) => [
      ...['replace', 'delete', 'list the files of', 'change the settings of'].map((what) => `${what} ${id}`),
      ...keys.map((_, slot) => `change key ${slot} of ${id}`),
      ...files.flatMap(({ number }) => ofFile.map((what) => `${what} file ${number} of ${id}`)),
    ]),
  ];
}

export const checkAssertion = (plan: Plan, assertion: Assertion): Held => checkAgainst(reachesOf(plan), assertion);

export const checkAssertions = (plan: Plan): Held[] =>
  plan.assertions.map((assertion) => checkAssertion(plan, assertion));
