/**
 * Making a card that a reader takes for one of the plan's, with what they like in it. A reader authenticates by one key and
 * reads one file. Whoever knows that key, as it stands in the key store, puts it into an application of the same identifier on a
 * blank; where everybody may read the file, no key is asked for at all; and whoever can alter the file on a card of the plan
 * needs no blank. Without any of these no card answers the reader: a blank does not know the key, and what stands on the
 * plan's cards was written by others.
 */
import { placed } from '../fields/index.ts';
import type { Plan, PlanApplication, PlanFile } from '../schema/index.ts';
import type { Step } from './model.ts';

export const forgeText = ({ id }: PlanApplication, { number }: PlanFile): string =>
  `make a card that reads like file ${number} of ${id}`;

/** The files that a reader could be set up for, with their applications: those with a credential in them. */
export function readFiles({ applications }: Plan): { application: PlanApplication; file: PlanFile }[] {
  return applications.flatMap((application) =>
    application.files.flatMap((file) =>
      'fields' in file && placed(file.fields).length > 0 ? [{ application, file }] : [],
    ),
  );
}

/** The slots by which a reader may read a file, or `free`. */
export function readingSlots({ rights: { read, both } }: PlanFile): number[] | 'free' {
  if (read === 'free' || both === 'free') return 'free';
  return [...new Set([read, both])].filter((who) => typeof who === 'number');
}

/** The ways of those who make a card anew; `knows` says whether a key of the plan is known as it stands in the store. */
export function forged(plan: Plan, knows: (name: string) => boolean): { can: string; by: Step[] }[] {
  return readFiles(plan).flatMap(({ application, file }) => {
    const slots = readingSlots(file);
    const known = slots === 'free' ? undefined : slots.find((slot) => isKnown(application.keys[slot] ?? null, knows));
    if (slots !== 'free' && known === undefined) return [];
    const name = known === undefined ? null : (application.keys[known] ?? null);
    const by: Step[] = [
      { do: 'take a blank' },
      { do: 'create application', application: application.id },
      { do: 'create file', file: file.number },
      { do: 'write', file: file.number },
      ...(known !== undefined && name !== null ? [{ do: 'put a key in' as const, slot: known, key: name }] : []),
    ];
    return [{ can: forgeText(application, file), by }];
  });
}

const isKnown = (name: string | null, knows: (name: string) => boolean): boolean => name === null || knows(name);

export interface Forged {
  /** What goes onto the blank: one application with one file, its other keys the factory’s. */
  plan: Plan;
  application: PlanApplication;
  file: PlanFile;
  /** The key by which a reader reads it; undefined where it asks for none. */
  slot: number | undefined;
}

/** What the steps put on a blank. */
export function forgedBy(plan: Plan, steps: readonly Step[]): Forged {
  let [id, number] = ['', 0];
  let put: { slot: number; key: string } | undefined;
  for (const step of steps)
    if (step.do === 'create application') id = step.application;
    else if (step.do === 'create file') number = step.file;
    else if (step.do === 'put a key in') put = step;
  const whole = plan.applications.find((one) => one.id === id)!;
  const planned = whole.files.find((one) => one.number === number)!;
  const slots = readingSlots(planned);
  const file = { ...planned, rights: { ...planned.rights, change: 0, write: 0 } as const };
  const application: PlanApplication = {
    ...whole,
    keys: whole.keys.map((_, slot) => (slot === put?.slot ? put.key : null)),
    settings: { ...whole.settings, changeKeys: 0, changeable: true, masterChangeable: true },
    files: [file],
  };
  return {
    plan: {
      ...plan,
      randomUid: false,
      noFormat: false,
      card: { ...plan.card, key: null },
      applications: [application],
      assertions: [],
    },
    application,
    file,
    slot: slots === 'free' ? undefined : (put?.slot ?? slots.find((slot) => whole.keys[slot] === null)),
  };
}
