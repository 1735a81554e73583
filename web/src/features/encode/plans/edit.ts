/** Changing a plan: each change gives a new plan, and leaves what it does not concern as it is. */
import { type ChipPlan, chipPlanSchema } from '@rawbits/api';
import {
  type Content,
  type Field,
  keyNames,
  type Plan,
  type PlanApplication,
  type PlanFile,
  type PlanKey,
} from '@rawbits/core/plan';
import { createNextState } from '@reduxjs/toolkit';

export type FilesPlan = Extract<ChipPlan, { kind: 'files' }>;
export type Edit = (change: (plan: FilesPlan) => void) => void;

export const changed = (plan: FilesPlan, change: (plan: FilesPlan) => void): FilesPlan =>
  createNextState(plan, (draft) => void change(draft as FilesPlan));

const parsed = (plan: object): FilesPlan =>
  chipPlanSchema.parse({ schema: 'rawbits/plan@1', kind: 'files', ...plan }) as FilesPlan;

/** A plan to begin with: a card whose own key is another on each card, and one application with the credential in it. */
export const newPlan = (name: string): FilesPlan =>
  parsed({
    name,
    card: { key: 'Card master' },
    keys: [
      { name: 'Card master', each: 'card' },
      { name: 'Door number', each: 'card' },
    ],
    applications: [
      {
        id: '5A0001',
        name: 'Access',
        keys: ['Card master', 'Door number'],
        files: [
          {
            kind: 'standard',
            number: 1,
            name: 'credential',
            size: 32,
            rights: { read: 1, write: 'never', both: 'never', change: 0 },
            fields: [{ name: 'string', length: 8, content: { is: 'bits' } }],
          },
        ],
      },
    ],
  });

/** Customer code and number of an identification tag, as desk readers show them. */
export const identificationFields = (): Field[] => [
  { name: 'code', length: 1, content: { is: 'number', of: 'facility', as: 'binary', order: 'big' } },
  { name: 'number', length: 4, content: { is: 'number', of: 'number', as: 'binary', order: 'big' } },
];

/** A plan of a kind of chip to begin with. */
export function newPlanOf(kind: ChipPlan['kind'], name: string): ChipPlan {
  if (kind === 'files') return newPlan(name);
  const head = { schema: 'rawbits/plan@1', kind, name };
  return chipPlanSchema.parse(
    kind === 'tag'
      ? { ...head, sends: { is: 'string' } }
      : {
          ...head,
          directory: true,
          sectors: [
            {
              number: 1,
              keyA: 'Door sector',
              keyB: 'Office sector',
              application: '4801',
              access: { data: [4, 4, 4], trailer: 3 },
              fields: [{ name: 'string', length: 8, content: { is: 'bits' } }],
            },
          ],
        },
  );
}

/** An identifier or number that is not taken yet. */
export const freeId = ({ applications }: FilesPlan): string => {
  let id = 0x5a0001;
  const text = () => id.toString(16).toUpperCase().padStart(6, '0');
  while (applications.some((one) => one.id === text())) id++;
  return text();
};
export const freeNumber = ({ files }: PlanApplication): number => {
  let number = 0;
  while (files.some((file) => file.number === number)) number++;
  return number;
};

export const newApplication = (plan: FilesPlan): PlanApplication =>
  parsed({ applications: [{ id: freeId(plan), keys: [null] }] }).applications[0]!;

const RIGHTS: PlanFile['rights'] = { read: 0, write: 0, both: 'never', change: 0 };

/** A file of a kind, as small as it can be; of another file what both have stays. */
export function fileOfKind(kind: PlanFile['kind'], number: number, before?: PlanFile): PlanFile {
  const head = {
    number,
    rights: before?.rights ?? RIGHTS,
    mode: before?.mode ?? 'enciphered',
    ...(before?.name !== undefined && { name: before.name }),
  } as const;
  const size = before && 'size' in before ? before.size : 32;
  if (kind === 'value') return { kind, ...head, lower: 0, upper: 1000, value: 0, limitedCredit: false };
  if (kind === 'linear' || kind === 'cyclic') return { kind, ...head, size: Math.min(size, 32), records: 8 };
  return { kind, ...head, size, fields: before && 'fields' in before ? before.fields : [] };
}

export const CONTENTS: Record<Content['is'], string> = {
  fixed: 'fixed bytes',
  bits: 'the bits of its format',
  number: 'a whole number',
  text: 'a text',
  day: 'a day',
  counter: 'a counter',
  check: 'a check over fields',
  wrapped: 'a hand-back grant',
};

/** What fields take of a card and its holder, by the names that are known. */
export const KNOWN = ['number', 'facility', 'holder', 'department', 'printed', 'valid from', 'valid to', 'uid', 'site'];

/** Fields with one of them called otherwise: checks that are over it are over it still. */
export function renamed(fields: readonly Field[], index: number, name: string): Field[] {
  const before = fields[index]!.name;
  return fields.map((field, i) => {
    if (i === index) return { ...field, name };
    const { content } = field;
    if (content.is !== 'check') return field;
    return { ...field, content: { ...content, over: content.over.map((one) => (one === before ? name : one)) } };
  });
}

const CARD_MASTER = 'Card master';

/** Content of a kind, to begin with, on a card whose own key is called so. */
export function contentOf(is: Content['is'], cardKey: string | null): Content {
  switch (is) {
    case 'fixed':
      return { is, hex: '00' };
    case 'bits':
      return { is, align: 'left' };
    case 'number':
      return { is, of: 'number', as: 'binary', order: 'big' };
    case 'text':
      return { is, of: 'holder', charset: 'utf-8', align: 'left', pad: '00' };
    case 'day':
      return { is, of: 'valid to', as: 'bcd' };
    case 'counter':
      return { is, from: 0, order: 'big' };
    case 'check':
      return { is, over: [], poly: '1021', init: 'FFFF', reflect: false, xorOut: '0000', order: 'big' };
    case 'wrapped':
      return { is, key: cardKey ?? CARD_MASTER, under: 'Partner' };
  }
}

/** Bytes that a content wants, where it wants a number of its own. */
export const lengthFor = (content: Content): number | undefined =>
  content.is === 'wrapped'
    ? 24
    : content.is === 'day'
      ? content.as === 'bcd'
        ? 4
        : 8
      : content.is === 'check'
        ? 2
        : undefined;

/** A hand-back grant for somebody: a file that everybody reads, with the card’s own key under theirs. */
export const grantFile = (plan: FilesPlan, application: PlanApplication, under: string): PlanFile => ({
  kind: 'standard',
  number: freeNumber(application),
  name: `hand-back ${under}`.slice(0, 120),
  mode: 'plain',
  size: 24,
  rights: { read: 'free', write: 'never', both: 'never', change: 0 },
  fields: [{ name: 'grant', length: 24, content: { is: 'wrapped', key: plan.card.key ?? CARD_MASTER, under } }],
});

/** Sees to it that every key that stands on the card is told how it comes about; a new one is made for each card. */
export function withKeysTold(plan: FilesPlan): FilesPlan {
  const names = keyNames(plan as Plan);
  const told = names.map(
    (name): PlanKey => plan.keys.find((key) => key.name === name) ?? { name, each: 'card', system: '' },
  );
  return JSON.stringify(told) === JSON.stringify(plan.keys) ? plan : { ...plan, keys: told };
}

/** Reads a plan from a text; gives what is wrong where it is none. */
export function planFrom(text: string): { plan: ChipPlan } | { problem: string } {
  let tree: unknown;
  try {
    tree = JSON.parse(text);
  } catch (error) {
    return { problem: `This is no JSON: ${(error as Error).message}.` };
  }
  const kind = (tree as { kind?: unknown } | null)?.kind ?? 'files';
  const read = chipPlanSchema.safeParse(typeof tree === 'object' && tree !== null ? { ...tree, kind } : tree);
  if (read.success) return { plan: read.data };
  const { path, message } = read.error.issues[0]!;
  return { problem: `${path.join('.') || 'The plan'}: ${message}.` };
}
