/**
 * Reach: all that whoever holds some keys can do to a card by any sequence of commands, found by going through every state of
 * the card that their commands lead to, nearest first. What is not among it cannot be done, as long as the card keeps to
 * the rules of the model (`model.ts`); what is comes with the shortest sequence of commands that does it.
 *
 * Applications do not touch one another, nor do the files and slots of one: each is looked at with the card's own level and
 * its application beside it, so the states of one add up and do not multiply.
 */
import { keyOfPlan, type Plan, type PlanApplication, type PlanFile } from '../schema/index.ts';
import { forged, forgeText, readFiles } from './forge.ts';
import { ALL_FREE, type CardState, type Focus, FREEST, planned, type Step, usesOf } from './model.ts';
import { type Knows, knowsOf, movesFrom } from './moves.ts';

/** What can be done, in words, and the commands that do it. */
export interface Ability {
  can: string;
  by: Step[];
}

/** What is done when a step is taken in a state: the words of an ability, or none where it only leads on. */
type Told = (step: Step, before: CardState) => string[];

/** What tells states apart: settings and rights are the planned ones or the freest, so which of them is enough. */
const keyOfState = ({ level, session, card, application, file }: CardState): string =>
  [
    level,
    session,
    card.settings === FREEST,
    card.key === 'theirs',
    application.standing,
    application.settings === FREEST,
    application.keys.map((key) => (typeof key === 'string' ? key : '')).join(),
    file.standing,
    file.rights === ALL_FREE,
  ].join(' ');

/** Goes through every state, nearest first, and keeps the first way to each ability. */
function explore(focus: Focus, knows: Knows, told: Told): Ability[] {
  const found = new Map<string, Step[]>();
  const first = planned(focus);
  const seen = new Set([keyOfState(first)]);
  let front: { state: CardState; by: Step[] }[] = [{ state: first, by: [] }];
  while (front.length > 0) {
    const next: typeof front = [];
    for (const { state, by } of front)
      for (const { step, after } of movesFrom(state, focus, knows)) {
        const way = [...by, step];
        for (const can of told(step, state)) if (!found.has(can)) found.set(can, way);
        const key = keyOfState(after);
        if (seen.has(key)) continue;
        seen.add(key);
        next.push({ state: after, by: way });
      }
    front = next;
  }
  return [...found].map(([can, by]) => ({ can, by }));
}

/** Of a card that draws its UID anew it is a secret; of any other everybody is told it before the first command. */
const LEARN_UID = 'learn the UID';
const uid = ({ randomUid }: Plan, { do: what }: Step): string[] => (what === LEARN_UID && randomUid ? [LEARN_UID] : []);

const ofCard =
  (plan: Plan): Told =>
  (step) => {
    switch (step.do) {
      case 'list applications':
        return ['list the applications'];
      case 'format':
        return ['format the card'];
      case 'change key':
        return ['change the card master key'];
      case 'open the card’s settings':
        return ['change the settings of the card'];
      case 'set the configuration':
        return ['change the configuration of the card'];
      default:
        return uid(plan, step);
    }
  };

const ofApplication =
  (plan: Plan, { id }: PlanApplication): Told =>
  (step, { application: { standing } }) => {
    if (step.do === 'create application') return [`replace ${id}`];
    if (step.do === LEARN_UID) return uid(plan, step);
    if (standing !== 'planned') return [];
    if (step.do === 'list files') return [`list the files of ${id}`];
    if (step.do === 'open the settings') return [`change the settings of ${id}`];
    return step.do === 'delete application' || step.do === 'format' ? [`delete ${id}`] : [];
  };

const ofSlot =
  ({ id }: PlanApplication, slot: number): Told =>
  (step, { application: { standing } }) =>
    standing === 'planned' && step.do === 'change key' && !step.isCard ? [`change key ${slot} of ${id}`] : [];

/** A file under the keys that were planned: what stands in it, its rights, and what comes in its place. */
const ofFile =
  ({ id }: PlanApplication, planned: PlanFile): Told =>
  (step, { application, file }) => {
    const { number } = planned;
    const called = `file ${number} of ${id}`;
    if (step.do === 'delete application' || step.do === 'format')
      return file.standing === 'planned' ? [`destroy ${called}`] : [];
    if (application.standing !== 'planned') return [];
    if (step.do === 'create file') return [`replace ${called}`, `alter ${called}`];
    if (file.standing !== 'planned') return [];
    if (step.do === 'delete file') return [`destroy ${called}`];
    if (step.do === 'open the rights') return [`change the rights of ${called}`];
    if (!(usesOf(planned) as string[]).includes(step.do)) return [];
    // What was taken off is put back: the value goes up, though no further than it was.
    if (step.do === 'limited credit') return [`limited credit ${called}`, `credit ${called}`, `alter ${called}`];
    return step.do === 'read' ? [`read ${called}`] : [`${step.do} ${called}`, `alter ${called}`];
  };

/** All that can be done with some of the plan's keys; the factory's everybody has. */
export function reach(plan: Plan, keys: ReadonlySet<string>): Ability[] {
  /** The steps by which a key was learnt that a grant holds. */
  const learnt = new Map<string, Step[]>();
  for (;;) {
    const names = [...learnt.keys()];
    // One that is the same on all cards and for all applications is known wherever it stands.
    const everywhere = names.filter((name) => keyOfPlan(plan, name).each === 'all');
    const abilities = allBy(plan, knowsOf(new Set([...keys, ...everywhere]), new Set(names)));
    const news = grantsOpened(plan, abilities, keys, learnt);
    if (news.size === 0) {
      const told = abilities.map(({ can, by }) => ({ can, by: after(stepsBefore(by, learnt), by) }));
      // Keys that were learnt are one card's own; those that are the same on all are as good as the store's.
      return [...told, ...forging(plan, told, new Set([...keys, ...everywhere]))];
    }
    for (const [key, by] of news) learnt.set(key, by);
  }
}

/** What can be made that a reader takes: anew, or by altering a card of the plan, whichever is shorter. */
function forging(plan: Plan, told: readonly Ability[], keys: ReadonlySet<string>): Ability[] {
  const anew = forged(plan, (name) => keys.has(name));
  return readFiles(plan).flatMap(({ application, file }) => {
    const can = forgeText(application, file);
    const ways = [
      anew.find((one) => one.can === can)?.by,
      told.find((one) => one.can === `alter file ${file.number} of ${application.id}`)?.by,
    ].filter((by) => by !== undefined);
    const [by] = ways.sort((a, b) => a.length - b.length);
    return by ? [{ can, by }] : [];
  });
}

function allBy(plan: Plan, knows: Knows): Ability[] {
  return [
    ...explore({ plan }, knows, ofCard(plan)),
    ...plan.applications.flatMap((application) => [
      ...explore({ plan, application }, knows, ofApplication(plan, application)),
      ...application.keys.flatMap((_, slot) => explore({ plan, application, slot }, knows, ofSlot(application, slot))),
      ...application.files.flatMap((file) => explore({ plan, application, file }, knows, ofFile(application, file))),
    ]),
  ];
}

/** Keys that come out of grants: whoever reads the file and has the key that opens it has the one that is in it. */
function grantsOpened(
  { applications }: Plan,
  abilities: readonly Ability[],
  keys: ReadonlySet<string>,
  learnt: ReadonlyMap<string, Step[]>,
): Map<string, Step[]> {
  const found = new Map<string, Step[]>();
  const knows = (name: string) => keys.has(name) || learnt.has(name);
  for (const { id, files } of applications)
    for (const file of files)
      for (const { content } of 'fields' in file ? file.fields : []) {
        if (content.is !== 'wrapped' || knows(content.key) || !knows(content.under)) continue;
        const read = abilities.find(({ can }) => can === `read file ${file.number} of ${id}`);
        if (read) found.set(content.key, after(stepsBefore(read.by, learnt, [content.under]), read.by));
      }
  return found;
}

/** Steps after others: from the card's own level, where each way begins. */
const after = (before: readonly Step[], by: readonly Step[]): Step[] =>
  before.length === 0 || by[0]?.do === 'select'
    ? [...before, ...by]
    : [...before, { do: 'select', application: null }, ...by];

/** The steps by which the keys were learnt that others take. */
function stepsBefore(by: readonly Step[], learnt: ReadonlyMap<string, Step[]>, also: readonly string[] = []): Step[] {
  const names = by.flatMap((step) =>
    step.do === 'authenticate' && typeof step.key !== 'string' ? [step.key.plan] : [],
  );
  return [...new Set([...names, ...also])].flatMap((name) => learnt.get(name) ?? []);
}
