/** Whether a plan may have its keys at a destination: what custodians agreed to, and what no agreement allows. */
import type { HostRow } from '../../devices/tables.ts';
import { conflict, type HttpProblem } from '../../platform/problem/problem.ts';
import { exposureOf, type KeyInPlan, type PlanAt } from './planKeys.ts';
import { type KeyFacts, type KeyUse, markProblem } from './use.ts';

/** Where the keys go. */
export type Destination =
  | { to: 'card on a pad'; host: HostRow }
  | { to: 'simulated card' }
  | { to: 'reader'; host: HostRow; reader: { id: string; device: string }; names: readonly string[] };

/** What of the use of a key is not agreed to yet, for a plan at a destination. */
export interface Lacking {
  plan: boolean;
  host: boolean;
  reader: boolean;
}

export function lackingOf(use: KeyUse, { planId, definition }: PlanAt, to: Destination): Lacking {
  const exposure = exposureOf(definition);
  return {
    plan: !use.plans.some((one) => one.planId === planId && one.exposure === exposure),
    host: to.to === 'card on a pad' && !use.hosts.some(({ hostId }) => hostId === to.host.id),
    reader:
      to.to === 'reader' &&
      !use.readers.some(
        ({ readerId, device, hostId }) =>
          readerId === to.reader.id && device === to.reader.device && hostId === to.host.id,
      ),
  };
}

const quoted = (names: readonly string[]): string => names.map((name) => `"${name}"`).join(', ');

/** What a key may never be used for, however often it is agreed to; undefined where nothing is in the way. */
export function neverFor(
  { name, facts, places }: KeyInPlan,
  use: KeyUse,
  to: Destination['to'],
): HttpProblem | undefined {
  const plain = places.find(({ asItIs }) => asItIs);
  if (plain && !use.asItIs)
    return conflict(
      'key-as-it-is',
      `Each card must have its own key made from "${name}", and the plan puts "${name}" itself on every card: ${plain.place}.`,
      'Change the plan to a different key for each card. Or two custodians allow the same key on every card, on the screen Keys.',
    );
  if (to !== 'reader') return undefined;
  const isMaster =
    facts.key.purpose === 'card master' ||
    places.some(({ isCardMaster }) => isCardMaster) ||
    use.plans.some(({ isCardMaster }) => isCardMaster);
  if (isMaster)
    return conflict(
      'key-card-master',
      `"${name}" is a card master key. Card master keys are never given to readers.`,
      'Let another key read this field in the plan.',
    );
  if (!use.toReaders)
    return conflict(
      'key-not-to-readers',
      `Readers may not have the key "${name}".`,
      'Two custodians allow it on the screen Keys.',
    );
  return undefined;
}

/** Where a new use waits for a custodian. Nobody has asked for it by this alone (`materialFor` does). */
const useWaits = (names: readonly string[], forWhat: string): HttpProblem =>
  conflict(
    'key-use-waits',
    `A key custodian must agree first: ${quoted(names)} ${names.length === 1 ? 'is' : 'are'} not agreed for ${forWhat}.`,
    'Start the run again, or set the reader up again, to ask for it.',
  );

const whither = (at: PlanAt, to: Destination, lacking: readonly Lacking[]): string => {
  if (lacking.some(({ reader }) => reader)) return 'this reader';
  if (lacking.some(({ plan }) => plan)) return `plan "${at.name}", version ${at.version}`;
  return to.to === 'simulated card' ? 'this' : `the pads of ${to.host.name}`;
};

/** What to say of a plan whose version, or whose row, does not agree with its mark; undefined where both may be as they were saved. */
export function planChanged({ name }: Pick<PlanAt, 'name'>, version: string, head: string): HttpProblem | undefined {
  if (version !== 'differs' && head !== 'differs' && !(version === 'holds' && head === 'none')) return undefined;
  return conflict(
    'plan-changed',
    `The plan "${name}" is not as it was saved: it was changed in the database, or restored from an older copy.`,
    'Check who can write to the database. Two key custodians accept it as it is now, on the screen Encode.',
  );
}

/** Why a plan gets no keys where they are to go; undefined where it does. `useOf` gives the checked use of a key. */
export function refusalOf(
  at: PlanAt,
  to: Destination,
  keys: readonly KeyInPlan[],
  marks: { version: string; plan: string; host: string },
  useOf: (facts: KeyFacts) => KeyUse,
): HttpProblem | undefined {
  if (keys.length === 0) return undefined;
  const changed = planChanged(at, marks.version, marks.plan);
  if (changed) return changed;
  if (marks.host === 'differs')
    return conflict(
      'host-changed',
      'The device host is not as it was added: it was changed in the database, or restored from an older copy.',
      'Revoke it and add it again.',
    );
  const broken = keys.find(({ facts }) => facts.mark !== 'holds');
  if (broken) return markProblem(broken.facts);
  const uses = keys.map((key) => ({ key, use: useOf(key.facts) }));
  for (const { key, use } of uses) {
    const never = neverFor(key, use, to.to);
    if (never) return never;
  }
  const lacking = uses
    .map(({ key, use }) => ({ name: key.name, ...lackingOf(use, at, to) }))
    .filter(({ plan, host, reader }) => plan || host || reader);
  if (lacking.length > 0 || marks.version === 'none' || marks.host === 'none')
    return useWaits(
      (lacking.length > 0 ? lacking : keys).map(({ name }) => name),
      whither(at, to, lacking),
    );
  return undefined;
}
