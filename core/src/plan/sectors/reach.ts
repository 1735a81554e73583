/**
 * Reach on a sector card. Sectors do not touch one another but by what is learnt: where key A reads key B, whoever has A
 * has what B is called elsewhere, too. So sectors are gone through, nearest state first, with what is known, until nothing more
 * is learnt. Of all that a trailer can be written to, the freest is a step. A number in the card's buffer is gone with the next
 * authentication [mem], so none is copied from one sector to another.
 */
import { type DataAccess, dataAccess, type KeyName, type SectorCommand, trailerAccess } from '../../chip/index.ts';
import type { Reaches } from '../reach/index.ts';
import { forgeText, forging, readSectors } from './forge.ts';
import { blocksIn, conditionOf, everySector, keyNamesOfSectors, type PlanSector, type SectorPlan } from './plan.ts';

/** What stands as a key: one of the plan, the factory's (null), or one that whoever does it put there. */
type Slot = { plan: string } | 'factory' | 'theirs';
const slotOf = (name: string | null): Slot => (name === null ? 'factory' : { plan: name });

export type SectorStep =
  | { do: 'authenticate'; sector: number; key: KeyName; with: Slot }
  | { do: 'read' | 'write'; block: number }
  /** Takes a number into the card's buffer: one more, one less, or as it is. */
  | { do: 'increment' | 'decrement' | 'restore'; block: number }
  /** Writes what is in the buffer, taken from `from`, to a block. */
  | { do: 'transfer'; block: number; from: number }
  | { do: 'read key B'; sector: number }
  | { do: 'open the access bits' | 'change key A' | 'change key B'; sector: number }
  /** What follows is done to another card, as it is delivered. */
  | { do: 'take a blank' }
  | { do: 'put a key in'; sector: number; slot: KeyName; key: string };

export interface SectorAbility {
  can: string;
  by: SectorStep[];
}

interface State {
  session: KeyName | undefined;
  keyA: Slot;
  keyB: Slot;
  /** The trailer's condition; the data blocks are as planned, or all free once it was opened. */
  trailer: number;
  opened: boolean;
}

interface Move {
  steps: SectorStep[];
  after: State;
  /** What it does, in words. */
  told: string[];
  /** The name of a key that it shows. */
  learnt?: string;
}

/** The freest trailer that one of the keys can write and go on with: by A all is A's, by B all is B's. */
const FREEST: Record<KeyName, number> = { A: 1, B: 3 };
/** What can be done to a data block, as it is told. */
const OF_BLOCK = ['read', 'write', 'increment', 'decrement', 'copy a value into'] as const;

/**
 * What each command of the chip does from a state. The table is the chip's own: a command that is not in it does not compile.
 * Where a number is transferred to another block than it came from, the number there may have gone up.
 */
const MOVES: Record<SectorCommand, (at: At) => Move[]> = {
  'authenticate A': ({ state, sector, knows }) => (knows(state.keyA) ? [authenticating(state, sector, 'A')] : []),
  // A key B that can be read authenticates nobody.
  'authenticate B': ({ state, sector, knows }) =>
    trailerAccess(state.trailer).keyBRead === '' && knows(state.keyB) ? [authenticating(state, sector, 'B')] : [],
  read: (at) => [
    ...dataBlocks(at, 'read').map((block) => ofBlock(at, [{ do: 'read', block }], block, 'read')),
    ...readingKeyB(at),
  ],
  write: (at) => [
    ...written(dataBlocks(at, 'write')).map((block) => ofBlock(at, [{ do: 'write', block }], block, 'write')),
    ...writingTrailer(at),
  ],
  increment: (at) => countedIn(at, 'increment'),
  decrement: (at) => countedIn(at, 'decrement'),
  // By itself a number in the card's buffer does nothing: it is taken out of a block only to be transferred to another.
  restore: () => [],
  transfer: (at) => {
    const values = written(dataBlocks(at, 'decrement'));
    return values.flatMap((block) => {
      const from = values.find((other) => other !== block);
      if (from === undefined) return [];
      const steps: SectorStep[] = [
        { do: 'restore', block: from },
        { do: 'transfer', block, from },
      ];
      return [ofBlock(at, steps, block, 'copy a value into', 'increment', 'decrement')];
    });
  },
};

interface At {
  state: State;
  sector: PlanSector;
  knows(slot: Slot): boolean;
}

/** The data blocks with which the authenticated key may do something. */
function dataBlocks({ state: { session, opened }, sector }: At, use: keyof DataAccess): number[] {
  if (session === undefined) return [];
  return blocksIn(sector.number)
    .slice(0, -1)
    .filter((block) => dataAccess(opened ? 0 : conditionOf(sector, block))[use].includes(session));
}

/** Block 0 is the maker's: it is read, and never written. */
const written = (blocks: readonly number[]): number[] => blocks.filter((block) => block !== 0);

const ofBlock = ({ state }: At, steps: SectorStep[], block: number, ...what: (typeof OF_BLOCK)[number][]): Move => ({
  steps,
  after: state,
  told: what.map((one) => `${one} block ${block}`),
});

const authenticating = (state: State, { number }: PlanSector, key: KeyName): Move => ({
  steps: [{ do: 'authenticate', sector: number, key, with: key === 'A' ? state.keyA : state.keyB }],
  after: { ...state, session: key },
  told: [],
});

/** Counts in a block: the number goes into the card's buffer and back, for which transfer has to be allowed, too. */
function countedIn(at: At, how: 'increment' | 'decrement'): Move[] {
  const transferred = dataBlocks(at, 'decrement');
  return written(dataBlocks(at, how))
    .filter((block) => transferred.includes(block))
    .map((block) =>
      ofBlock(
        at,
        [
          { do: how, block },
          { do: 'transfer', block, from: block },
        ],
        block,
        how,
      ),
    );
}

function readingKeyB({ state, sector: { number } }: At): Move[] {
  if (state.session === undefined || !trailerAccess(state.trailer).keyBRead.includes(state.session)) return [];
  const learnt = typeof state.keyB === 'string' ? undefined : state.keyB.plan;
  return [
    { steps: [{ do: 'read key B', sector: number }], after: state, told: [`read key B of sector ${number}`], learnt },
  ];
}

function writingTrailer({ state, sector: { number } }: At): Move[] {
  const { session } = state;
  if (session === undefined) return [];
  const { keyAWrite, keyBWrite, bitsWrite } = trailerAccess(state.trailer);
  const moves: Move[] = [];
  if (keyAWrite.includes(session))
    moves.push({
      steps: [{ do: 'change key A', sector: number }],
      after: { ...state, keyA: 'theirs' },
      told: [`change key A of sector ${number}`],
    });
  if (keyBWrite.includes(session))
    moves.push({
      steps: [{ do: 'change key B', sector: number }],
      after: { ...state, keyB: 'theirs' },
      told: [`change key B of sector ${number}`],
    });
  if (bitsWrite.includes(session))
    moves.push({
      steps: [{ do: 'open the access bits', sector: number }],
      after: { ...state, opened: true, trailer: FREEST[session] },
      told: [`change the access bits of sector ${number}`, `lock sector ${number} for good`],
    });
  return moves;
}

const movesFrom = (at: At): Move[] => Object.values(MOVES).flatMap((moves) => moves(at));

/** Everything that can be done in a sector, nearest first, and the keys that it shows, each with its way. */
function explore(sector: PlanSector, knows: (slot: Slot) => boolean) {
  const found = new Map<string, SectorStep[]>();
  const learnt = new Map<string, SectorStep[]>();
  const first: State = {
    session: undefined,
    keyA: slotOf(sector.keyA),
    keyB: slotOf(sector.keyB),
    trailer: sector.access.trailer,
    opened: false,
  };
  const seen = new Set([JSON.stringify(first)]);
  let front: { state: State; by: SectorStep[] }[] = [{ state: first, by: [] }];
  while (front.length > 0) {
    const next: typeof front = [];
    for (const { state, by } of front)
      for (const { steps, after, told, learnt: name } of movesFrom({ state, sector, knows })) {
        const way = [...by, ...steps];
        for (const can of told) if (!found.has(can)) found.set(can, way);
        if (name !== undefined && !learnt.has(name)) learnt.set(name, way);
        const key = JSON.stringify(after);
        if (seen.has(key)) continue;
        seen.add(key);
        next.push({ state: after, by: way });
      }
    front = next;
  }
  return { found, learnt };
}

/** All that can be done with some of the plan's keys; the factory's everybody has. */
export function reachOfSectors(plan: SectorPlan, keys: ReadonlySet<string>): SectorAbility[] {
  const sectors = everySector(plan);
  /** What is known, and the steps by which it was learnt. */
  const known = new Map<string, SectorStep[]>([...keys].map((key) => [key, []]));
  const knows = (slot: Slot) => typeof slot === 'string' || known.has(slot.plan);
  for (;;) {
    const results = sectors.map((sector) => explore(sector, knows));
    const news = results.flatMap(({ learnt }) => [...learnt]).filter(([name]) => !known.has(name));
    if (news.length === 0) {
      const told = results.flatMap(({ found }) =>
        [...found].map(([can, by]) => ({ can, by: [...before(by, known), ...by] })),
      );
      const isKnown = (name: string | null) => name === null || known.has(name);
      const made = readSectors(plan).flatMap((sector) => forging(sector, isKnown, told));
      return [...told, ...made.map(({ can, by }) => ({ can, by: [...learntFor(by, known), ...by] }))];
    }
    for (const [name, by] of news) if (!known.has(name)) known.set(name, [...before(by, known), ...by]);
  }
}

/** The steps by which the keys were learnt that others take. */
function before(by: readonly SectorStep[], known: ReadonlyMap<string, SectorStep[]>): SectorStep[] {
  const names = new Set(
    by.flatMap((step) => (step.do === 'authenticate' && typeof step.with !== 'string' ? [step.with.plan] : [])),
  );
  return [...names].flatMap((name) => known.get(name) ?? []);
}

/** The steps by which a key was learnt that is put on another card. */
const learntFor = (by: readonly SectorStep[], known: ReadonlyMap<string, SectorStep[]>): SectorStep[] =>
  by.flatMap((step) => (step.do === 'put a key in' ? (known.get(step.key) ?? []) : []));

/** What is asked of a plan of a sector card. */
export const reachesOfSectors = (plan: SectorPlan): Reaches<SectorStep> => ({
  keys: keyNamesOfSectors(plan),
  reach: (keys) => reachOfSectors(plan, keys),
  sayable: [
    ...readSectors(plan).map(forgeText),
    ...everySector(plan).flatMap(({ number }) => [
      ...['read key B of', 'change key A of', 'change key B of', 'change the access bits of'].map(
        (what) => `${what} sector ${number}`,
      ),
      `lock sector ${number} for good`,
      ...blocksIn(number)
        .slice(0, -1)
        .flatMap((block) => OF_BLOCK.map((what) => `${what} block ${block}`)),
    ]),
  ],
});
