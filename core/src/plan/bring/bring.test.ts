/**
 * Cards brought to a plan, and torn away at every command: before it, after it was carried out, and while it wrote. Held
 * against the chip model: a card that was torn and brought again is, byte by byte, one that never was.
 */
import { describe, expect, it } from 'vitest';
import { isTried } from '../../../testing/runs.ts';
import { blankFiles, copied, dumpFiles, FilesCard, type FilesMemory, keptText, torn } from '../../chip/index.ts';
import { FilesHost, type HostKey } from '../../host/index.ts';
import { type Plan, type PlanInput, planSchema } from '../schema/index.ts';
import { type Bringing, bringCard, compareCard, freeCard, type Ring, ringOf, standInKeys } from './index.ts';

const UID = Uint8Array.of(4, 1, 2, 3, 4, 5, 6);
const planOf = (input: Omit<PlanInput, 'schema'>): Plan => planSchema.parse({ schema: 'rawbits/plan@1', ...input });
const fields = [
  { name: 'mark', length: 3, content: { is: 'fixed', hex: '5350C1' } },
  { name: 'number', length: 4, content: { is: 'number', of: 'number' } },
  { name: 'loans', length: 2, at: 12, content: { is: 'counter', from: 7 } },
  { name: 'crc', length: 2, content: { is: 'check', over: ['mark', 'number'], poly: '1021', init: 'FFFF' } },
] as const;
const STAFF = {
  card: { key: 'card', settings: { freeDirectory: false } },
  applications: [
    {
      id: '3042F5',
      isoId: '5A01',
      isoName: '5350',
      keys: ['dive office', 'access', 'buddy', null],
      settings: { changeKeys: 'itself', freeDirectory: false, changeable: false },
      files: [
        {
          kind: 'standard',
          number: 0,
          isoId: '0001',
          size: 70,
          rights: { read: 1, write: 'never', both: 'never', change: 0 },
          fields: [...fields],
        },
        {
          kind: 'backup',
          number: 1,
          size: 32,
          mode: 'maced',
          rights: { read: 2, write: 2, both: 'never', change: 'never' },
          fields: [...fields],
        },
        { kind: 'cyclic', number: 2, size: 16, records: 8, rights: { read: 2, write: 2, both: 0, change: 'never' } },
      ],
    },
    {
      id: 'CA0001',
      keyKind: 'tdes2',
      keys: ['canteen', null],
      settings: { changeKeys: 'never', masterChangeable: false },
      files: [
        { kind: 'value', number: 0, rights: { read: 'free', write: 'never', both: 0, change: 0 }, upper: 10_000 },
      ],
    },
  ],
} as const;
const PLAN = planOf(STAFF as never);
const known = { values: { number: '118406' } };

type Tear = 'before' | 'during' | 'after';
class Torn extends Error {}
let drawn = 3;
const draw = (count: number) => Uint8Array.from({ length: count }, () => (drawn = (drawn * 75 + 74) % 65_537) & 0xff);

/** A card at a pad; torn at its command `at`. */
function atPad(memory: FilesMemory, at = Number.POSITIVE_INFINITY, tear: Tear = 'before') {
  const card = new FilesCard(memory);
  const pad = { memory, commands: 0 };
  const transmit = async (apdu: Uint8Array) => {
    const isHere = pad.commands++ === at;
    if (isHere && tear === 'before') throw new Torn();
    const before = copied(pad.memory);
    const answer = card.transmit(apdu, draw);
    if (isHere && tear === 'during') pad.memory = torn(before, memory, draw);
    if (isHere) throw new Torn();
    return answer;
  };
  return { pad, host: new FilesHost({ transmit }, draw) };
}

/** Works on a card, torn once at a command, until it is through. Gives the memory, and how many commands it took untorn. */
async function through(
  memory: FilesMemory,
  work: (host: FilesHost) => Promise<unknown>,
  at?: number,
  tear?: Tear,
): Promise<{ memory: FilesMemory; commands: number }> {
  const first = atPad(memory, at, tear);
  try {
    await work(first.host);
    return { memory: first.pad.memory, commands: first.pad.commands };
  } catch (error) {
    if (!(error instanceof Torn)) throw error;
  }
  const second = atPad(copied(first.pad.memory));
  await work(second.host);
  return { memory: second.pad.memory, commands: first.pad.commands + second.pad.commands };
}

const blank = (masterKey: 'aes' | 'des' = 'des') => blankFiles({ generation: 2, masterKey, uid: UID });
const bringing = (plan: Plan, more: Partial<Bringing> = {}): Bringing => ({
  plan,
  ring: ringOf(plan, standInKeys(plan)),
  known,
  selected: UID,
  ...more,
});

/** The keys of a plan in version 2, and in version 1 before. */
const rolledOver = (plan: Plan): Ring => {
  const first = ringOf(plan, standInKeys(plan));
  return (name, application) => {
    const { now } = first(name, application)!;
    const next: HostKey = { ...now, bytes: now.bytes.map((byte) => byte ^ 0x3c), version: 2 };
    return { now: next, before: [now] };
  };
};
const MORE = planOf({
  ...STAFF,
  randomUid: true,
  applications: [
    {
      ...STAFF.applications[0],
      files: [
        { ...STAFF.applications[0].files[0], rights: { read: 1, write: 0, both: 'never', change: 0 } },
        STAFF.applications[0].files[1],
        { kind: 'value', number: 5, rights: { read: 1, write: 'never', both: 0, change: 0 }, upper: 9 },
      ],
    },
    { id: '00F001', keys: ['gear'], files: [] },
  ],
} as never);

const WORKS: [string, () => Promise<FilesMemory>, (host: FilesHost) => Promise<unknown>][] = [
  ['a blank gets a plan', async () => blank(), (host) => bringCard(host, bringing(PLAN))],
  [
    'its keys roll over',
    async () => (await through(blank(), (host) => bringCard(host, bringing(PLAN)))).memory,
    (host) => bringCard(host, bringing(openPlan, { ring: rolledOver(PLAN), was: PLAN })),
  ],
  [
    'another version of the plan and new keys',
    async () => (await through(blank(), (host) => bringCard(host, bringing(openPlan)))).memory,
    (host) =>
      bringCard(host, bringing(MORE, { was: openPlan, ring: rolledOver(MORE), known: { values: { number: '9' } } })),
  ],
  [
    'it is taken back',
    async () => (await through(blank(), (host) => bringCard(host, bringing(PLAN)))).memory,
    (host) => freeCard(host, { plan: PLAN, ring: ringOf(PLAN, standInKeys(PLAN)) }),
  ],
];
/** The canteen's keys stay as they are for good under PLAN; here they can roll over. */
const openPlan = planOf({
  ...STAFF,
  applications: [
    STAFF.applications[0],
    { ...STAFF.applications[1], settings: { changeKeys: 0, masterChangeable: true } },
  ],
} as never);

describe.each(WORKS)('torn at every command: %s', (name, from, work) => {
  it.each([
    ['before', 0],
    ['during', 1],
    ['after', 2],
  ] as const)('%s it', async (tear, first) => {
    const start = name === 'its keys roll over' ? await rollable() : await from();
    const whole = await through(copied(start), work);
    const wanted = keptText(whole.memory);
    for (let at = 0; at < whole.commands; at++) {
      if (!isTried(at, 6, 2 * first)) continue;
      const { memory } = await through(copied(start), work, at, tear);
      expect(keptText(memory), `torn at command ${at}`).toBe(wanted);
    }
    expect(whole.commands).toBeGreaterThan(5);
  });
});

async function rollable(): Promise<FilesMemory> {
  return (await through(blank(), (host) => bringCard(host, bringing(openPlan)))).memory;
}

describe('bringing a card along', () => {
  const encoded = async (plan = PLAN, memory = blank()) =>
    (await through(memory, (host) => bringCard(host, bringing(plan)))).memory;

  it('what stands there is what the plan says: its settings, rights and kinds', async () => {
    expect(dumpFiles(await encoded())).toMatchObject({
      card: { settings: '09', keyKind: 'aes' },
      applications: [
        { id: '3042F5', settings: 'E1', isoId: '5A01', name: '5350', keyVersions: [1, 1, 1, 0] },
        { id: 'CA0001', settings: 'FA', keyKind: 'des' },
      ],
    });
  });

  it('a second time nothing is done, and looking finds nothing that differs', async () => {
    const memory = await encoded();
    expect((await bringCard(atPad(memory).host, bringing(PLAN))).steps).toEqual([]);
    const looked = await compareCard(atPad(memory).host, bringing(PLAN));
    expect(looked).toMatchObject({ steps: [], unread: [], others: [] });
    expect(looked.keys.toSorted()).toEqual(['access', 'buddy', 'canteen', 'card', 'dive office']);
  });

  it('looking tells what differs and changes nothing', async () => {
    const memory = await encoded();
    memory.applications[0]!.files[0]!.rights = 0x1f00;
    (memory.applications[0]!.files[0] as { data: Uint8Array }).data[4]! ^= 1;
    memory.applications[1]!.files = [];
    const before = keptText(memory);
    const { steps } = await compareCard(atPad(memory).host, bringing(PLAN));
    expect(steps.map((step) => `${step.do} ${step.file} of ${step.application}`)).toEqual([
      'write file 0 of 3042F5',
      'set the rights of file 0 of 3042F5',
      'create file 0 of CA0001',
    ]);
    expect(keptText(memory)).toBe(before);
  });

  it('a counter that has moved is left alone; what else differs is written, and no byte beside it', async () => {
    const memory = await encoded();
    const { data } = memory.applications[0]!.files[0] as { data: Uint8Array };
    data[13] = 99;
    data[60] = 42;
    await bringCard(atPad(memory).host, bringing(PLAN, { known: { values: { number: '5' } } }));
    const now = (memory.applications[0]!.files[0] as { data: Uint8Array }).data;
    expect([now[6], now[13], now[60]]).toEqual([5, 99, 42]);
  });

  it.each([
    [
      'a key that nobody has',
      { ...STAFF, card: { key: 'other' } },
      'Key 0 of the card is none of those at hand for "other"',
    ],
    [
      'frozen settings',
      { ...STAFF, applications: [{ ...STAFF.applications[0], settings: { changeKeys: 0 } }] },
      'The settings of 3042F5 can never be changed again',
    ],
    [
      'other keys than there are slots for',
      { ...STAFF, applications: [{ ...STAFF.applications[0], keys: ['dive office'], files: [] }] },
      'has 4 keys of aes128; the plan has 1',
    ],
    [
      'an application that must not be there',
      { ...STAFF, applications: [{ ...STAFF.applications[0], there: 'refuse' }] },
      'has an application 3042F5 already',
    ],
    [
      'contents of an application that is not there',
      { ...STAFF, applications: [{ id: '777777', keys: ['x'], there: 'renew contents' }] },
      'has no application 777777',
    ],
  ])('%s is told, and the card stays as it is', async (_, input, told) => {
    const memory = await encoded();
    const before = keptText(memory);
    const plan = planOf(input as never);
    await expect(bringCard(atPad(memory).host, bringing(plan))).rejects.toThrow(told);
    expect(keptText(memory)).toBe(before);
  });

  it('contents alone: nothing else of the application changes, whatever the plan has', async () => {
    const memory = await encoded();
    const plan = planOf({
      ...STAFF,
      applications: [{ ...STAFF.applications[0], settings: { changeKeys: 0 }, there: 'renew contents' }],
    } as never);
    await bringCard(atPad(memory).host, bringing(plan, { known: { values: { number: '77' } } }));
    expect(dumpFiles(memory)).toMatchObject({ applications: [{ settings: 'E1' }, {}] });
    expect((memory.applications[0]!.files[0] as { data: Uint8Array }).data[6]).toBe(77);
  });

  it('in place of what is there: once, and not again after it was torn', async () => {
    const plan = planOf({ ...STAFF, applications: [{ ...STAFF.applications[0], there: 'replace' }] } as never);
    const memory = await encoded();
    memory.applications[0]!.keys[0]!.bytes.fill(9);
    const announced: string[] = [];
    const about = bringing(plan, {
      before: (step) => void announced.push(`${step.do} ${step.application}`),
      begun: (step) => announced.includes(`${step.do} ${step.application}`),
    });
    const torn = await through(memory, (host) => bringCard(host, about), 30, 'after');
    expect(announced.filter((step) => step === 'delete application 3042F5')).toHaveLength(1);
    expect(keptText(torn.memory)).toBe(keptText({ ...(await encoded(plan)), applications: torn.memory.applications }));
  });

  it('a step that cannot be announced is not taken', async () => {
    const memory = blank();
    const refusing = { before: () => Promise.reject(new Error('the journal is full')) };
    await expect(bringCard(atPad(memory).host, bringing(PLAN, refusing))).rejects.toThrow('the journal is full');
    expect(keptText(memory)).toBe(keptText(blank()));
  });

  it('without the key of a partner: its slot stays the factory’s until he sets it, and this is said', async () => {
    const ring: Ring = (name, application) =>
      name === 'buddy' ? undefined : ringOf(PLAN, standInKeys(PLAN))(name, application);
    await expect(bringCard(atPad(blank()).host, bringing(PLAN, { ring }))).rejects.toThrow(
      'The key "buddy" is not at hand, and the card is to have it as key 2 of 3042F5',
    );
  });

  it('taken back it is a blank but for the kind of its key; what stays for good is said', async () => {
    const memory = await encoded(MORE);
    const ring = ringOf(MORE, standInKeys(MORE));
    const { stays } = await freeCard(atPad(memory).host, { plan: MORE, ring });
    expect(stays).toEqual(['The card draws its UID anew for good.']);
    expect(dumpFiles(memory)).toMatchObject({ card: { settings: '0F', keyVersions: [0] }, applications: [] });
    await expect(
      freeCard(atPad(await encoded()).host, { plan: planOf({ card: { key: 'x' } }), ring }),
    ).rejects.toThrow();
  });
});
