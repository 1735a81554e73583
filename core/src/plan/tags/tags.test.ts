/**
 * Plans of rewritable tags on the simulated one: what a reader hears of a finished tag, torn away before, in or after every frame,
 * and reach, exhaustively. Configuration words and the identification tag as the trade remembers them [mem, CHIPS].
 */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { catalogued } from '../../catalogue/index.ts';
import { copied, torn } from '../../chip/index.ts';
import { encode } from '../../codec/index.ts';
import { TagHost } from '../../host/index.ts';
import { blankTag, hears, sendingOf, stringHeard, type TagMemory, tagHeard } from '../../lf/index.ts';
import type { Known } from '../fields/index.ts';
import {
  bringTag,
  compareTag,
  freeTag,
  keyNamesOfTag,
  lockedBlocks,
  problemsOfTag,
  reachesOfTag,
  reachOfTag,
  standInPassword,
  standInTag,
  type TagBringing,
  type TagPlan,
  TagPlayer,
  type TagStep,
  tagNotBlank,
  tagPlanSchema,
  tagTransport,
} from './index.ts';

const planOf = (more: object): TagPlan =>
  tagPlanSchema.parse({ schema: 'rawbits/plan@1', kind: 'tag', sends: { is: 'string' }, ...more });
const IDENTIFICATION = {
  is: 'identification',
  fields: [
    { name: 'code', length: 1, content: { is: 'number', of: 'facility' } },
    { name: 'number', length: 4, content: { is: 'number', of: 'number' } },
  ],
} as const;
const KNOWN: Known = {
  values: { facility: '6', number: String(0x001259e3) },
  bits: encode(catalogued('26-8-16')!, { facility: '118', number: '1603' }),
};
const OLD = Uint8Array.of(0x0b, 0xad, 0x5e, 0xa1);
const ring: TagBringing['ring'] = (name) => ({ now: standInPassword(name), before: [OLD] });
const hostOf = (memory: TagMemory) => new TagHost(tagTransport(memory));
const about = (plan: TagPlan, more: Partial<TagBringing> = {}): TagBringing => ({ plan, ring, known: KNOWN, ...more });
const hex = (word: number) => word.toString(16).toUpperCase().padStart(8, '0');

async function broughtTo(plan: TagPlan, more: Partial<TagBringing> = {}, memory = blankTag([0xe0150001, 7])) {
  await bringTag(hostOf(memory), about(plan, more));
  return memory;
}

describe('a tag brought to a plan', () => {
  it('06 and 001259E3 as an identification tag: blocks 00148040 FF818000 CAA974C8, and a reader hears 06001259E3', async () => {
    const memory = await broughtTo(planOf({ sends: IDENTIFICATION }));
    expect(memory.blocks.slice(0, 4).map(hex)).toEqual(['00148040', 'FF818000', 'CAA974C8', '00000000']);
    expect(tagHeard(sendingOf(memory)!)).toBe(0x06001259e3n);
  });

  it('118/1603 as a string: configuration 00107060, and a reader hears its 26 bits', async () => {
    const memory = await broughtTo(planOf({}));
    expect(hex(memory.blocks[0]!)).toBe('00107060');
    expect(stringHeard(sendingOf(memory)!)).toBe(KNOWN.bits!.toBinary());
  });

  it('with a password: 00148050, and nobody without it reads or writes a block', async () => {
    const memory = await broughtTo(planOf({ sends: IDENTIFICATION, password: 'Tags' }));
    expect(hex(memory.blocks[0]!)).toBe('00148050');
    const host = hostOf(memory);
    expect(await host.read(1)).toBeUndefined();
    await host.write(1, 0);
    expect(hex(memory.blocks[1]!)).toBe('FF818000');
    expect(await tagNotBlank(host)).toContain('password');
  });

  it('is brought along by what differs alone, and differs in nothing then', async () => {
    const plain = planOf({});
    const plan = planOf({ password: 'Tags' });
    const memory = await broughtTo(plain);
    const steps = await bringTag(hostOf(memory), about(plan, { was: plain }));
    expect(steps.map(({ do: what, block }) => `${what} ${block ?? ''}`.trim())).toEqual([
      'change key',
      'set the configuration',
    ]);
    expect(await compareTag(hostOf(memory), about(plan))).toEqual([]);
    const other = { ...KNOWN, bits: encode(catalogued('26-8-16')!, { facility: '118', number: '1604' }) };
    expect(await compareTag(hostOf(memory), about(plan, { known: other }))).toEqual([
      { do: 'write block', application: 'the tag', block: 3 },
    ]);
  });

  it('a password that rolls over is turned off before it is changed', async () => {
    const plan = planOf({ password: 'Tags' });
    const memory = await broughtTo(plan, { ring: () => ({ now: OLD, before: [] }) });
    const steps = await bringTag(hostOf(memory), about(plan));
    expect(steps.map(({ do: what }) => what)).toEqual(['set the configuration', 'change key', 'set the configuration']);
    await expect(bringTag(hostOf(memory), about(plan, { ring: () => ({ now: OLD, before: [] }) }))).rejects.toThrow(
      'none of those at hand',
    );
  });

  it('locked it stays what it is, and says so', async () => {
    const plan = planOf({ lock: 'everything' });
    const memory = await broughtTo(plan);
    expect(memory.locked).toEqual([true, true, true, true, false, false, false, true]);
    expect(await freeTag(hostOf(memory), { plan, ring })).toEqual([
      'Blocks 0, 1, 2, 3, 7 of the tag are locked for good.',
    ]);
    await expect(bringTag(hostOf(memory), about(planOf({ sends: IDENTIFICATION })))).rejects.toThrow('it is locked');
    // Once more as it is: nothing to write, and the locks hold.
    expect((await bringTag(hostOf(memory), about(plan))).every(({ do: what }) => what === 'lock block')).toBe(true);
  });

  it('taken back it is a blank', async () => {
    const plan = planOf({ sends: IDENTIFICATION, password: 'Tags' });
    const memory = await broughtTo(plan);
    expect(await freeTag(hostOf(memory), { plan, ring })).toEqual([]);
    expect(memory.blocks).toEqual([0, 0, 0, 0, 0, 0, 0, 0]);
    expect(await tagNotBlank(hostOf(memory))).toBeUndefined();
  });
});

describe('torn away', () => {
  const identification = planOf({ sends: IDENTIFICATION, password: 'Tags' });
  const rolled = { ring: () => ({ now: OLD, before: [] }) };
  const draws = (seed: number) => {
    let state = seed;
    return (count: number) =>
      Uint8Array.from({ length: count }, () => {
        state = (state * 1103515245 + 12345) % 2 ** 31;
        return state >> 16;
      });
  };
  const WORKS: [string, () => Promise<TagMemory>, (host: TagHost) => Promise<unknown>][] = [
    ['encoding', async () => blankTag(), (host) => bringTag(host, about(identification))],
    [
      'a password rolled over',
      () => broughtTo(identification, rolled),
      (host) => bringTag(host, about(identification)),
    ],
    [
      'another plan',
      () => broughtTo(identification),
      (host) => bringTag(host, about(planOf({ lock: 'contents' }), { was: identification })),
    ],
    ['taking back', () => broughtTo(identification), (host) => freeTag(host, { plan: identification, ring })],
  ];

  it.each(WORKS)('%s: before, in or after every frame, it ends as a tag never torn', async (_, begin, work) => {
    const whole = await begin();
    let frames = 0;
    const counting = async (frame: string) => {
      frames++;
      return hears(whole, frame);
    };
    await work(new TagHost({ transmitTag: counting }));
    expect(frames).toBeGreaterThan(10);
    for (const when of ['before', 'during', 'after'] as const)
      for (let at = 0; at < frames; at++)
        for (const seed of when === 'during' ? [1, 2, 3, 4, 5] : [1]) {
          let memory = await begin();
          let count = 0;
          const tearing = {
            transmitTag: async (frame: string) => {
              if (count++ !== at) return hears(memory, frame);
              const before = copied(memory);
              if (when !== 'before') hears(memory, frame);
              if (when === 'during') memory = torn(before, memory, draws(seed));
              throw new Error('gone');
            },
          };
          await expect(work(new TagHost(tearing))).rejects.toThrow('gone');
          await work(hostOf(memory));
          expect([when, at, memory]).toEqual([when, at, whole]);
        }
  });
});

describe('reach on a tag', () => {
  const goes = async (memory: TagMemory, steps: readonly TagStep[]) => {
    try {
      await new TagPlayer(hostOf(copied(memory))).take(steps);
      return true;
    } catch (error) {
      if ((error as { code?: string }).code === 'tag-refuses') return false;
      throw error;
    }
  };
  const PLANS = [{ is: 'string' }, IDENTIFICATION].flatMap((sends) =>
    [null, 'Tags'].flatMap((password) =>
      ['nothing', 'contents', 'everything'].map((lock) => planOf({ sends, password, lock })),
    ),
  );

  it.each(
    PLANS.map((plan) => [`${plan.sends.is}, password ${plan.password}, locked ${plan.lock}`, plan] as const),
  )('%s: what it tells goes, and nothing else', async (_, plan) => {
    const memory = await standInTag(plan);
    for (const keys of [[], ['Tags']]) {
      const abilities = reachOfTag(plan, new Set(keys));
      for (const { can, by } of abilities) expect([keys, can, await goes(memory, by)]).toEqual([keys, can, true]);
      const told = new Set(abilities.map(({ can }) => can));
      for (let block = 0; block < 8; block++)
        for (const what of ['read block', 'write block', 'lock block'] as const) {
          const can = `${what} ${block}${what === 'lock block' ? ' for good' : ''}`;
          const step: TagStep = { do: what, block, with: keys[0] === plan.password ? plan.password : null };
          expect([keys, can, await goes(memory, [step])]).toEqual([keys, can, told.has(can)]);
        }
      for (const can of told) expect(reachesOfTag(plan).sayable).toContain(can);
    }
  });

  it('whatever is done about it, what it sends is copied by anybody', () => {
    for (const plan of PLANS)
      expect(reachOfTag(plan, new Set()).map(({ can }) => can)).toContain('copy what it sends onto another tag');
  });
});

describe('what is wrong with a plan of a tag', () => {
  const codes = (plan: TagPlan) => problemsOfTag(plan).map(({ weight, code }) => `${weight} ${code}`);
  it('is told, and what is to be known of it', () => {
    expect(codes(planOf({}))).toEqual(['advice copied', 'advice open']);
    expect(codes(planOf({ password: 'Tags', lock: 'everything' }))).toEqual(['advice copied', 'advice for-good']);
    expect(codes(planOf({ sends: { ...IDENTIFICATION, rate: 32 }, password: 'Tags' }))).toEqual([
      'advice slow',
      'advice copied',
      'advice in-the-clear',
    ]);
    expect(codes(planOf({ password: 'Tags', keys: [{ name: 'Tags', each: 'card' }] }))).toContain('error tag-key');
    const long = { is: 'identification', fields: [{ name: 'a', length: 6, content: { is: 'fixed', hex: '00' } }] };
    expect(codes(planOf({ sends: long }))[0]).toMatch(/^error/);
    expect(keyNamesOfTag(planOf({ password: 'Tags' }))).toEqual(['Tags']);
    expect(lockedBlocks(planOf({ sends: IDENTIFICATION, lock: 'contents' }))).toEqual([1, 2]);
  });

  it('a number that five bytes do not hold, or bits that no tag carries, are refused before anything is sent', async () => {
    const memory = blankTag();
    const values = { facility: '300', number: '1' };
    await expect(broughtTo(planOf({ sends: IDENTIFICATION }), { known: { values } }, memory)).rejects.toThrow('code');
    await expect(broughtTo(planOf({}), { known: { values } }, memory)).rejects.toThrow('not known');
    expect(memory).toEqual(blankTag());
  });

  it('any text for a plan is a plan or refused', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        const read = tagPlanSchema.safeParse(value);
        if (read.success) problemsOfTag(read.data);
      }),
    );
  });
});
