/** What is wrong with a plan, or ill-advised: each with where it is and what to do. Errors keep it from being encoded. */
import { problemsOfFields } from '../fields/index.ts';
import { keyNames, keyOfPlan, type Plan, type PlanApplication, type PlanFile, type Who } from './plan.ts';

export interface PlanProblem {
  weight: 'error' | 'advice';
  code: string;
  message: string;
  /** The path of the field: `applications.0.files.2.rights`. */
  where: string;
}

const FIRST_GENERATION_APPLICATIONS = 28;
const UNIT = 32;
const units = (bytes: number): number => Math.ceil(bytes / UNIT) * UNIT;
const KEY_BYTES = { aes128: 16, tdes2: 16, tdes3: 24 } as const;

/** What a file takes of the card's memory, in bytes [the unit from memory; the chip's own bookkeeping is not counted]. */
export function bytesOfPlanFile(file: PlanFile): number {
  if (file.kind === 'standard') return units(file.size);
  if (file.kind === 'backup') return 2 * units(file.size);
  if (file.kind === 'value') return UNIT;
  return units(file.size * file.records);
}

export const bytesOfPlanApplication = ({ keys, keyKind, files }: PlanApplication): number =>
  UNIT + units(keys.length * (KEY_BYTES[keyKind] + 1)) + files.reduce((sum, file) => sum + bytesOfPlanFile(file), 0);

export function bytesOfPlan({ applications, capacity }: Plan): { used: number; free: number } {
  const used = applications.reduce((sum, application) => sum + bytesOfPlanApplication(application), 0);
  return { used, free: capacity - used };
}

export function problemsOfPlan(plan: Plan): PlanProblem[] {
  const found: PlanProblem[] = [];
  const add = (weight: PlanProblem['weight'], code: string, where: string, message: string) =>
    void found.push({ weight, code, message, where });
  const { free, used } = bytesOfPlan(plan);
  if (free < 0) add('error', 'memory', 'capacity', `It takes ${used} bytes, and the card has ${plan.capacity}.`);
  if (plan.generation === 1 && plan.applications.length > FIRST_GENERATION_APPLICATIONS)
    add(
      'error',
      'applications',
      'applications',
      `A card of the first generation holds ${FIRST_GENERATION_APPLICATIONS} applications.`,
    );
  const ids = new Set<string>();
  for (const [i, application] of plan.applications.entries()) {
    const at = `applications.${i}`;
    if (ids.has(application.id)) add('error', 'doubled', `${at}.id`, `There are two applications ${application.id}.`);
    ids.add(application.id);
    ofIso(application, at, add);
    ofApplication(application, at, add);
  }
  if (plan.card.key === null && plan.applications.length > 0)
    add('advice', 'factory-key', 'card.key', 'The card master key stays the factory’s, which everybody knows.');
  if (!plan.card.settings.masterChangeable && plan.card.key === null)
    add('advice', 'frozen', 'card.settings', 'The factory’s card master key could never be changed again.');
  else if (!plan.card.settings.masterChangeable)
    add(
      'advice',
      'frozen',
      'card.settings',
      'The card master key could never be changed again, not even once it is known.',
    );
  ofKeys(plan, add);
  return found;
}

/** Keys by which something can be altered on every card, or that are never tried before the card is known. */
function ofKeys(plan: Plan, add: Add): void {
  const named = keyNames(plan);
  const all = named.filter((name) => keyOfPlan(plan, name).each === 'all');
  for (const [i, { files }] of plan.applications.entries())
    for (const [j, file] of files.entries()) ofGrants(plan, file, `applications.${i}.files.${j}`, add);
  for (const [i, { name }] of plan.keys.entries())
    if (!named.includes(name)) add('advice', 'unused', `keys.${i}`, `Nothing on the card has the key "${name}".`);
  for (const name of all)
    if (altersBy(plan, name))
      add('advice', 'one-key', 'keys', `"${name}" is the same on all cards: who finds it on one can alter them all.`);
  if (
    plan.randomUid &&
    named.length > 0 &&
    !plan.applications.some(({ keys }) => keys.some((key) => key !== null && all.includes(key)))
  )
    add(
      'error',
      'uid-hidden',
      'randomUid',
      'Every key is made from the UID, and the UID is drawn anew each time: no application has a key by which a card could be told. Have one that is the same on all cards.',
    );
  if (plan.carried === 'in public' && !plan.randomUid)
    add(
      'advice',
      'uid-shown',
      'randomUid',
      'Anybody near can tell a card again by its UID. Have it drawn anew each time.',
    );
}

function ofGrants(plan: Plan, file: PlanFile, at: string, add: Add): void {
  for (const [k, { content, name }] of ('fields' in file ? file.fields : []).entries()) {
    if (content.is !== 'wrapped') continue;
    const where = `${at}.fields.${k}`;
    if (content.key !== plan.card.key)
      add('error', 'grant-key', where, `"${name}" hands out "${content.key}", which is not the card’s own key.`);
    else if (keyOfPlan(plan, content.key).each === 'all')
      add(
        'error',
        'grant-all',
        where,
        `"${name}" hands out the key of every card with that of one. Have the card master key made for each card.`,
      );
  }
}

const altersBy = ({ card, applications }: Plan, name: string): boolean =>
  card.key === name ||
  applications.some(({ keys, files }) =>
    keys.some(
      (key, slot) =>
        key === name &&
        (slot === 0 || files.some(({ rights: { write, both, change } }) => [write, both, change].includes(slot))),
    ),
  );

/** Identifiers and names of ISO/IEC 7816-4: an application’s name stands after its identifier, a file’s in an application. */
function ofIso({ isoId, isoName, files }: PlanApplication, at: string, add: Add): void {
  if (isoName !== undefined && isoId === undefined)
    add('error', 'iso-name', `${at}.isoName`, 'A name stands only beside an identifier of ISO/IEC 7816-4.');
  const seen = new Set<string>();
  for (const [j, file] of files.entries()) {
    const own = 'isoId' in file ? file.isoId : undefined;
    if (own === undefined) continue;
    if (seen.has(own)) add('error', 'doubled', `${at}.files.${j}.isoId`, `There are two files ${own}.`);
    seen.add(own);
  }
  // A value file can have none; of the others real chips want all or none [mem].
  const without = files.findIndex((file) => file.kind !== 'value' && file.isoId === undefined);
  if (without >= 0 && seen.size > 0)
    add(
      'advice',
      'iso-some',
      `${at}.files.${without}.isoId`,
      'Some files have an identifier of ISO/IEC 7816-4 and this one has none: real cards refuse such a file. Give all files one, or none.',
    );
  if (isoId !== undefined && without >= 0 && seen.size === 0)
    add(
      'advice',
      'iso-files',
      `${at}.files.${without}.isoId`,
      'The application has an identifier of ISO/IEC 7816-4 and its files have none: a reader that selects by it can select no file.',
    );
}

type Add = (weight: PlanProblem['weight'], code: string, where: string, message: string) => void;

function ofApplication(application: PlanApplication, at: string, add: Add): void {
  const { keys, files, settings } = application;
  for (const [i, key] of keys.entries())
    if (key === null)
      add('advice', 'factory-key', `${at}.keys.${i}`, `Key ${i} stays the factory’s, which everybody knows.`);
  if (typeof settings.changeKeys === 'number' && settings.changeKeys >= keys.length)
    add('error', 'no-such-key', `${at}.settings.changeKeys`, `There is no key ${settings.changeKeys}.`);
  if (settings.freeCreate)
    add(
      'advice',
      'free-create',
      `${at}.settings.freeCreate`,
      'Everybody could delete its files and put others in their place.',
    );
  const numbers = new Set<number>();
  for (const [j, file] of files.entries()) {
    const place = `${at}.files.${j}`;
    if (numbers.has(file.number)) add('error', 'doubled', `${place}.number`, `There are two files ${file.number}.`);
    numbers.add(file.number);
    ofFile(file, keys.length, place, add);
  }
}

/** What of a file says who somebody is. */
const PERSONAL = /^(holder|name|first name|last name|department|birth|photograph|contact|e-?mail)/i;
const personalIn = (file: PlanFile): string[] =>
  'fields' in file
    ? file.fields.flatMap(({ content }) => ('of' in content && PERSONAL.test(content.of) ? [content.of] : []))
    : [];

function ofFile(file: PlanFile, keys: number, at: string, add: Add): void {
  for (const [right, who] of Object.entries(file.rights) as [string, Who][])
    if (typeof who === 'number' && who >= keys)
      add('error', 'no-such-key', `${at}.rights.${right}`, `There is no key ${who}.`);
  if (file.kind === 'value' && (file.lower > file.upper || file.value < file.lower || file.value > file.upper))
    add('error', 'value', `${at}.value`, 'The value has to lie between its limits.');
  if ('fields' in file)
    for (const { code, message, field } of problemsOfFields(file.fields, file.size))
      add('error', code, `${at}.fields.${field}`, message);
  const { read, write, both, change } = file.rights;
  if ([write, both].includes('free')) add('advice', 'free-write', `${at}.rights`, 'Everybody could write it.');
  if (change === 'free') add('advice', 'free-change', `${at}.rights.change`, 'Everybody could change its rights.');
  const personal = personalIn(file);
  if (personal.length > 0 && ([read, both].includes('free') || file.mode !== 'enciphered'))
    add(
      'advice',
      'personal',
      `${at}.rights.read`,
      `${personal.map((of) => `"${of}"`).join(', ')} can be read by anybody near.`,
    );
  if (![read, both].includes('free') && file.mode !== 'enciphered')
    add('advice', 'plain', `${at}.mode`, 'What is read with a key can be listened to: encipher it.');
}
