/**
 * Reach against the chip model itself: every way that it tells can be gone, and whatever all sequences of commands up to a
 * depth do is among what it tells. Its claims on plans whose answer follows from the chip's rules.
 */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { blankFiles, copied, FilesCard, type FilesMemory } from '../../chip/index.ts';
import { CardRefusal, FilesHost } from '../../host/index.ts';
import { bringCard, ringOf } from '../bring/index.ts';
import { standInKnown } from '../change/index.ts';
import { type Plan, type PlanInput, planSchema } from '../schema/index.ts';
import { type Ability, checkAssertion, Player, reach } from './index.ts';
import { planned, type Step } from './model.ts';
import { type Knows, knowsOf, movesFrom } from './moves.ts';

const planOf = (input: Omit<PlanInput, 'schema'>): Plan => planSchema.parse({ schema: 'rawbits/plan@1', ...input });
const bytes = (name: string) => Uint8Array.from({ length: 24 }, (_, i) => (name.charCodeAt(0) * 7 + 13 * i) & 0xff);
const keyBytes = (name: string) => bytes(name).subarray(0, 16);
let drawn = 7;
const random = (count: number) => Uint8Array.from({ length: count }, () => (drawn = (drawn * 75 + 74) % 65_537) & 0xff);

const made = new Map<string, FilesMemory>();
/** A card with the plan on it. */
async function cardOf(plan: Plan): Promise<FilesMemory> {
  const text = JSON.stringify(plan);
  let memory = made.get(text);
  if (!memory) {
    const masterKey = plan.card.keyKind === 'aes128' ? 'aes' : plan.card.keyKind === 'tdes3' ? 'tdes3' : 'des';
    const uid = Uint8Array.of(4, 1, 2, 3, 4, 5, 6);
    const card = new FilesCard(blankFiles({ generation: plan.generation, masterKey, uid, capacity: plan.capacity }));
    await bringCard(hostOf(card), { plan, ring: ringOf(plan, keyBytes), known: { values: {} }, selected: uid });
    memory = card.memory;
    made.set(text, memory);
  }
  return copied(memory);
}
const hostOf = (card: FilesCard) => new FilesHost({ transmit: async (apdu) => card.transmit(apdu, random) }, random);

/** A blank of whoever attacks, with another UID, and what stands for what fields take. */
function blankFor(plan: Plan) {
  const masterKey = plan.card.keyKind === 'aes128' ? 'aes' : plan.card.keyKind === 'tdes3' ? 'tdes3' : 'des';
  const uid = Uint8Array.of(4, 9, 9, 9, 9, 9, 9);
  const card = new FilesCard(blankFiles({ generation: plan.generation, masterKey, uid, capacity: plan.capacity }));
  return { host: hostOf(card), uid, known: standInKnown };
}

async function goes(plan: Plan, steps: readonly Step[]): Promise<boolean> {
  try {
    await new Player(hostOf(new FilesCard(await cardOf(plan))), plan, keyBytes, () => blankFor(plan)).take(steps);
    return true;
  } catch (error) {
    // What needs a session cannot even be put into words without one.
    const cannot = ['not-authenticated', 'old-key'].includes((error as { code?: string }).code ?? '');
    if (error instanceof CardRefusal || cannot) return false;
    throw error;
  }
}

const can = (plan: Plan, ...keys: string[]): string[] => reach(plan, new Set(keys)).map((ability) => ability.can);
const wayTo = (abilities: Ability[], what: string) =>
  abilities.find((ability) => ability.can === what)?.by.map((s) => s.do);

const STATION = planOf({
  card: { key: 'card', settings: { freeDirectory: false } },
  applications: [
    {
      id: '3042F5',
      keys: ['dive office', 'access', 'buddy'],
      settings: { changeKeys: 0, freeDirectory: false },
      files: [
        { kind: 'standard', number: 0, rights: { read: 1, write: 0, both: 'never', change: 0 }, size: 32 },
        { kind: 'cyclic', number: 1, rights: { read: 2, write: 2, both: 0, change: 'never' }, size: 16, records: 8 },
      ],
    },
    {
      id: 'CA0001',
      keys: ['canteen'],
      settings: { changeKeys: 'itself' },
      files: [
        { kind: 'value', number: 0, rights: { read: 'free', write: 'never', both: 0, change: 0 }, upper: 10_000 },
      ],
    },
  ],
});

describe('reach', () => {
  it('of the reader’s key: it reads its file besides what is free, and nothing else', () => {
    expect(can(STATION, 'access').filter((what) => !can(STATION).includes(what))).toEqual(['read file 0 of 3042F5']);
  });

  it('of nobody’s: what is free', () => {
    expect(can(STATION)).toEqual([
      'list the files of CA0001',
      'read file 0 of CA0001',
      'debit file 0 of CA0001',
      'alter file 0 of CA0001',
    ]);
  });

  it('of the dive office: all in its application, nothing in the canteen’s', () => {
    const abilities = can(STATION, 'dive office');
    for (const what of ['alter file 0 of 3042F5', 'clear file 1 of 3042F5', 'change key 0 of 3042F5', 'delete 3042F5'])
      expect(abilities).toContain(what);
    // Another key than one's own is sent combined with the old one: who does not know that cannot change it.
    expect(abilities).not.toContain('change key 1 of 3042F5');
    expect(can(STATION, 'dive office', 'access')).toContain('change key 1 of 3042F5');
    expect(abilities.filter((what) => what.includes('CA0001') && !/read|list|debit/.test(what))).toEqual(
      can(STATION).filter((what) => what.includes('CA0001') && !/read|list|debit/.test(what)),
    );
  });

  it('a right that can be changed opens the file, and the way is the shortest', () => {
    const plan = planOf({
      card: { key: 'card' },
      applications: [
        {
          id: '000001',
          keys: ['a', 'b'],
          files: [
            {
              kind: 'standard',
              number: 3,
              rights: { read: 'never', write: 'never', both: 'never', change: 1 },
              size: 8,
            },
          ],
        },
      ],
    });
    expect(wayTo(reach(plan, new Set(['b'])), 'write file 3 of 000001')).toEqual([
      'select',
      'authenticate',
      'open the rights',
      'write',
    ]);
    expect(can(plan)).not.toContain('read file 3 of 000001');
  });

  it('a key that stays the factory’s is everybody’s, and so is what it opens', () => {
    const plan = planOf({ applications: [{ id: '000001', keys: ['a'], files: [] }] });
    expect(can(plan)).toEqual(
      expect.arrayContaining(['format the card', 'delete 000001', 'replace 000001', 'change the card master key']),
    );
    expect(can(planOf({ ...STATION, card: { key: 'card' } }))).not.toContain('format the card');
  });

  it.each([
    ['only', ['dive office', 'card'], 'alter file 0 of 3042F5', true],
    ['only', ['access'], 'read file 0 of 3042F5', false],
    ['never', ['canteen'], 'destroy file 0 of 3042F5', true],
    ['never', ['access', 'buddy'], 'write file 1 of 3042F5', false],
    ['never', ['dive office'], 'change key 1 of 3042F5', true],
  ] as const)('%s %j: %s is %s', async (claim, keys, what, holds) => {
    const held = checkAssertion(STATION, { claim, keys: [...keys], can: what });
    expect(held.holds).toBe(holds);
    if (held.broken) expect(await goes(STATION, held.broken.by)).toBe(true);
  });

  it('an assertion about what is not there is refused', () => {
    for (const what of ['write file 9 of 3042F5', 'open the door', ''])
      expect(() => checkAssertion(STATION, { claim: 'never', keys: [], can: what })).toThrow(
        'Nothing of the plan is called',
      );
    expect(() => checkAssertion(STATION, { claim: 'never', keys: ['nobody'], can: 'format the card' })).toThrow(
      'no key "nobody"',
    );
  });
});

const who = (keys: number) =>
  fc.oneof(fc.constantFrom('free' as const, 'never' as const), fc.integer({ min: 0, max: keys - 1 }));
const flags = fc.record({
  masterChangeable: fc.boolean(),
  freeDirectory: fc.boolean(),
  freeCreate: fc.boolean(),
  changeable: fc.boolean(),
});
const KINDS = ['standard', 'backup', 'value', 'linear', 'cyclic'] as const;
/** Small plans: an application of one to three keys with a file or two, settings and rights at random. */
const smallPlan = fc.integer({ min: 1, max: 3 }).chain((keys) =>
  fc
    .record({
      card: fc.record({ key: fc.constantFrom('c', null), settings: flags }),
      noFormat: fc.constant(false),
      names: fc.array(fc.constantFrom('a', 'b', 'd', null), { minLength: keys, maxLength: keys }),
      settings: flags,
      changeKeys: fc.oneof(fc.constantFrom('itself' as const, 'never' as const), fc.integer({ min: 0, max: keys - 1 })),
      files: fc.array(
        fc.record({
          kind: fc.constantFrom(...KINDS),
          mode: fc.constantFrom('plain' as const, 'maced' as const, 'enciphered' as const),
          rights: fc.record({ read: who(keys), write: who(keys), both: who(keys), change: who(keys) }),
        }),
        { minLength: 1, maxLength: 2 },
      ),
    })
    .map(({ names, settings, changeKeys, files, ...rest }) =>
      planOf({
        ...rest,
        applications: [
          {
            id: '0A0B0C',
            keys: names,
            settings: { ...settings, changeKeys },
            files: files.map(({ kind, ...head }, number) => {
              if (kind === 'value') return { kind, number, ...head, upper: 100, value: 50 };
              return kind === 'standard' || kind === 'backup'
                ? { kind, number, ...head, size: 8 }
                : { kind, number, ...head, size: 8, records: 3 };
            }),
          },
        ],
      }),
    ),
);
const someKeys = fc.subarray(['a', 'b', 'c', 'd']);

describe('reach against the chip model', () => {
  it('every way that it tells can be gone on the card', async () => {
    await fc.assert(
      fc.asyncProperty(smallPlan, someKeys, async (plan, keys) => {
        for (const { can: what, by } of reach(plan, new Set(keys)))
          expect([what, by, await goes(plan, by)]).toEqual([what, by, true]);
      }),
      { numRuns: 50 },
    );
  });

  it('and no other: whatever step it does not allow, the card refuses', async () => {
    await fc.assert(
      fc.asyncProperty(smallPlan, someKeys, fc.infiniteStream(fc.nat()), async (plan, keys, choices) => {
        const [application] = plan.applications;
        const focus = { plan, application, file: application!.files[0], slot: application!.keys.length - 1 };
        const knows = knowsOf(new Set(keys));
        let state = planned(focus);
        const way: Step[] = [];
        for (let depth = 0; depth < 5; depth++) {
          const allowed = movesFrom(state, focus, knows);
          // Every step that there is, tried from here by somebody who knows what these keys are and no more.
          for (const step of everyStep(plan)) {
            // One command with a name for each level: it is tried as the one of the level that is selected.
            if (levelOf(step) !== undefined && levelOf(step) !== state.level) continue;
            const isAllowed = allowed.some((move) => sameStep(move.step, step));
            if (isAllowed || (step.do === 'authenticate' && !knows(step.key)) || needsUnknown(step, knows)) continue;
            expect([step, await goes(plan, [...way, step])]).toEqual([step, false]);
          }
          const next = allowed[choices.next().value! % allowed.length]!;
          way.push(next.step);
          state = next.after;
        }
      }),
      { numRuns: 50 },
    );
  });
});

const sameStep = (a: Step, b: Step): boolean =>
  a.do === b.do &&
  ('file' in a ? 'file' in b && a.file === b.file : true) &&
  ('slot' in a ? 'slot' in b && a.slot === b.slot : true) &&
  ('isCard' in a ? 'isCard' in b && a.isCard === b.isCard : true) &&
  (a.do === 'select' && b.do === 'select' ? a.application === b.application : true);

/** The level that a step is meant for, where the same command means something else on the other. */
function levelOf(step: Step): 'card' | 'application' | undefined {
  if (step.do === 'open the settings') return 'application';
  if (step.do === 'open the card’s settings') return 'card';
  return step.do === 'change key' ? (step.isCard ? 'card' : 'application') : undefined;
}

/** A step that could be sent by nobody who does not know the key in it. */
const needsUnknown = (step: Step, knows: Knows): boolean => 'old' in step && !knows(step.old);

/** Every step that a plan's card could be asked for, with the keys that were planned. */
function everyStep(plan: Plan): Step[] {
  const [{ id, keys, files }] = plan.applications as [Plan['applications'][number]];
  const file = files[0]!;
  const slot = keys.length - 1;
  const { application, card } = planned({ plan, application: plan.applications[0] });
  return [
    { do: 'list applications' },
    { do: 'list files' },
    { do: 'format' },
    { do: 'open the settings' },
    { do: 'open the card’s settings' },
    { do: 'create application', application: id },
    { do: 'delete application', application: id },
    { do: 'change key', slot, old: application.keys[slot]!, isCard: false },
    { do: 'change key', slot: 0, old: card.key, isCard: true },
    ...(['create file', 'delete file', 'open the rights', 'read', 'write', 'credit', 'debit', 'clear'] as const)
      .filter((what) => {
        if (['credit', 'debit'].includes(what)) return file.kind === 'value';
        if (what === 'clear') return 'records' in file;
        return what !== 'write' || file.kind !== 'value';
      })
      .map((what) => ({ do: what, file: file.number })),
  ];
}
