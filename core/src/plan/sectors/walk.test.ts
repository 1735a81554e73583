/**
 * Random commands of a sector card, in frames, by somebody who has some of the plan's keys and keeps what they learn: whatever
 * changes on the card or is read from it is among what reach says of these keys. Each command of the chip's table has an effect.
 */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { reportEffects } from '../../../testing/effects.ts';
import { runs } from '../../../testing/runs.ts';
import {
  accessBytes,
  SECTOR_COMMANDS,
  type SectorCommand,
  SectorRefused,
  SectorsCard,
  type SectorsMemory,
  sectorFrame,
  valueBlock,
  valueIn,
} from '../../chip/index.ts';
import { joined, littleEndian, sameBytes } from '../../cipher/index.ts';
import {
  FACTORY,
  reachOfSectors,
  type SectorPlan,
  sectorPlanSchema,
  standInSectorKey,
  standInSectors,
} from './index.ts';

const COMMANDS = Object.keys(SECTOR_COMMANDS) as SectorCommand[];
const SECTORS = [1, 2] as const;
/** Half of the data blocks can be counted in. */
const condition = fc.oneof(fc.nat(7), fc.constantFrom(0, 1, 6));
const sector = fc.record({
  keyA: fc.constantFrom('a', 'b', 'c'),
  keyB: fc.constantFrom('a', 'b', 'c'),
  access: fc.record({ data: fc.tuple(condition, condition, condition), trailer: condition }),
});
const plans = fc.tuple(sector, sector).map(
  (two): SectorPlan =>
    sectorPlanSchema.parse({
      schema: 'rawbits/plan@1',
      kind: 'sectors',
      sectors: two.map((one, i) => ({ number: SECTORS[i], ...one })),
    }),
);

/** One command with all that can be chosen of it; `pick` chooses a key, a trailer or an amount. */
const command = fc.record({
  name: fc.constantFrom(...COMMANDS),
  sector: fc.constantFrom(...SECTORS),
  index: fc.nat(3),
  pick: fc.nat(1 << 20),
});
/** Somebody who authenticates, and then does some things in that sector; a number in the buffer is mostly transferred. */
const session = fc
  .tuple(command, fc.constantFrom('A', 'B'), fc.array(fc.tuple(command, fc.boolean()), { minLength: 1, maxLength: 4 }))
  .map(([first, key, rest]) => [
    { ...first, name: `authenticate ${key}` as SectorCommand },
    ...rest.flatMap(([one, isTransferred]) => {
      const here = { ...one, sector: first.sector };
      return isTransferred && ['increment', 'decrement', 'restore'].includes(one.name)
        ? [here, { ...here, name: 'transfer' as const, index: one.pick % 3 }]
        : [here];
    }),
  ]);
type Command = typeof command extends fc.Arbitrary<infer C> ? C : never;

/** Somebody with some keys, at a card. */
class Walk {
  readonly card: SectorsCard;
  readonly known: Uint8Array[];
  readonly effects = new Set<SectorCommand>();

  constructor(memory: SectorsMemory, keys: readonly string[]) {
    this.card = new SectorsCard(memory);
    this.known = [FACTORY, Uint8Array.of(1, 2, 3, 4, 5, 6), ...keys.map(standInSectorKey)];
  }

  /** The blocks of the sectors that it walks in. */
  private blocks(): Map<number, Uint8Array> {
    return new Map(
      SECTORS.flatMap((at) => [0, 1, 2, 3].map((i) => [4 * at + i, this.card.memory.blocks[4 * at + i]!.slice()])),
    );
  }

  private frame({ name, sector, index, pick }: Command): Uint8Array {
    const block = 4 * sector + index;
    const code = SECTOR_COMMANDS[name];
    switch (name) {
      case 'authenticate A':
      case 'authenticate B':
        return joined([code, block], this.keyFor(sector, name), [0, 0, 0, 0]);
      case 'write':
        return joined([code, block], index === 3 ? this.trailer(pick) : valueBlock(pick % 2000, block));
      case 'increment':
      case 'decrement':
        // Also amounts whose highest bit is set, which would be below zero if it were a sign.
        return joined([code, block], littleEndian(pick % 3 === 0 ? 2 ** 32 - 1 - (pick % 50) : pick % 50, 4));
      default:
        return Uint8Array.of(code, block);
    }
  }

  /** Who has several keys tries each: the one that is right, if it is among them. */
  private keyFor(sector: number, name: 'authenticate A' | 'authenticate B'): Uint8Array {
    const trailer = this.card.memory.blocks[4 * sector + 3]!;
    const right = name === 'authenticate A' ? trailer.subarray(0, 6) : trailer.subarray(10);
    return this.known.find((key) => sameBytes(key, right)) ?? FACTORY;
  }

  private trailer(pick: number): Uint8Array {
    const [a, b] = [this.known[pick % this.known.length]!, this.known[(pick >> 4) % this.known.length]!];
    const groups = [0, 3, 6, 9].map((at) => (pick >> (8 + at)) & 7);
    return joined(a, accessBytes(groups), [0x69], b);
  }

  /** Carries a command out; what it did, as reach would call it. */
  take(command: Command): string[] {
    const before = this.blocks();
    let answer: Uint8Array;
    try {
      answer = sectorFrame(this.card, this.frame(command));
    } catch (error) {
      if (!(error instanceof SectorRefused)) throw error;
      return [];
    }
    const did = [...this.read(command, answer), ...changes(before, this.blocks(), command)];
    const isSession =
      command.name.startsWith('authenticate') || ['increment', 'decrement', 'restore'].includes(command.name);
    if (isSession || did.length > 0) this.effects.add(command.name);
    return did;
  }

  private read({ name, sector, index }: Command, answer: Uint8Array): string[] {
    if (name !== 'read') return [];
    if (index < 3) return [`read block ${4 * sector + index}`];
    const keyB = answer.subarray(10);
    // A key that they know, or put there themselves, is no news.
    if (keyB.every((byte) => byte === 0) || this.known.some((key) => sameBytes(key, keyB))) return [];
    this.known.push(new Uint8Array(keyB));
    return [`read key B of sector ${sector}`];
  }
}

/** What is another than before, as reach calls it. */
function changes(before: Map<number, Uint8Array>, after: Map<number, Uint8Array>, { name }: Command): string[] {
  return [...after].flatMap(([block, bytes]) => {
    const was = before.get(block)!;
    if (bytes.every((byte, i) => byte === was[i])) return [];
    if (block % 4 === 3) return trailerChanges(was, bytes, block >> 2);
    if (name === 'write') return [`write block ${block}`];
    const [old, now] = [valueIn(was), valueIn(bytes)!];
    // What was no value before was put there from another block.
    if (old === undefined) return [`copy a value into block ${block}`];
    if (now.value === old.value) return [`copy a value into block ${block}`];
    return [`${now.value > old.value ? 'increment' : 'decrement'} block ${block}`];
  });
}

function trailerChanges(was: Uint8Array, now: Uint8Array, sector: number): string[] {
  const isOther = (from: number, to: number) => now.subarray(from, to).some((byte, i) => byte !== was[from + i]);
  return [
    ...(isOther(0, 6) ? [`change key A of sector ${sector}`] : []),
    ...(isOther(6, 10) ? [`change the access bits of sector ${sector}`] : []),
    ...(isOther(10, 16) ? [`change key B of sector ${sector}`] : []),
  ];
}

describe('reach of a sector card against random commands', () => {
  it('has all that they do, and each command of the table has an effect', async () => {
    const effects = new Map<SectorCommand, number>(COMMANDS.map((name) => [name, 0]));
    await fc.assert(
      fc.asyncProperty(
        plans,
        fc.subarray(['a', 'b', 'c']),
        fc.array(session, { minLength: 20, maxLength: 60, size: 'max' }),
        async (plan, keys, sessions) => {
          const reach = new Set(reachOfSectors(plan, new Set(keys)).map(({ can }) => can));
          const walk = new Walk((await standInSectors(plan)).memory, keys);
          for (const one of sessions.flat())
            for (const did of walk.take(one))
              expect([plan.sectors, keys, one, did, reach.has(did)]).toEqual([plan.sectors, keys, one, did, true]);
          for (const name of walk.effects) effects.set(name, effects.get(name)! + 1);
        },
      ),
      { numRuns: runs(1000) },
    );
    // In so many of the walks each command did something.
    reportEffects('a sector card', effects);
    expect([...effects].filter(([, walks]) => walks < 5)).toEqual([]);
  });

  it('a block that a key may only decrement goes up all the same where the sector has another', async () => {
    const plan = sectorPlanSchema.parse({
      schema: 'rawbits/plan@1',
      kind: 'sectors',
      sectors: [{ number: 2, keyA: 'gate', keyB: 'office', access: { data: [6, 6, 6], trailer: 3 } }],
    });
    const can = reachOfSectors(plan, new Set(['gate'])).find((one) => one.can === 'increment block 8');
    expect(can?.by.map((step) => step.do)).toEqual(['authenticate', 'restore', 'transfer']);
    // With one value block alone there is nothing to copy from.
    const alone = {
      ...plan,
      sectors: [{ ...plan.sectors[0]!, access: { data: [6, 4, 4] as [number, number, number], trailer: 3 } }],
    };
    expect(reachOfSectors(alone, new Set(['gate'])).map((one) => one.can)).not.toContain('increment block 8');
  });
});
