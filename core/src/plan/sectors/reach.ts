/**
 * Reach on a sector card. Sectors do not touch one another but by what is learnt: where key A reads key B, whoever has A
 * has what B is called elsewhere, too. So sectors are gone through, nearest state first, with what is known, until nothing more
 * is learnt. Of all that a trailer can be written to, the freest is a step.
 */
import { type DataAccess, dataAccess, type KeyName, trailerAccess } from '../../chip/index.ts';
import type { Reaches } from '../reach/index.ts';
import { forgeText, forging, readSectors } from './forge.ts';
import { blocksIn, conditionOf, everySector, keyNamesOfSectors, type PlanSector, type SectorPlan } from './plan.ts';

/** What stands as a key: one of the plan, the factory's (null), or one that whoever does it put there. */
type Slot = { plan: string } | 'factory' | 'theirs';
const slotOf = (name: string | null): Slot => (name === null ? 'factory' : { plan: name });

export type SectorStep =
  | { do: 'authenticate'; sector: number; key: KeyName; with: Slot }
  | { do: 'read' | 'write' | 'increment' | 'decrement'; block: number }
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
  step: SectorStep;
  after: State;
  /** What it does, in words. */
  told: string[];
  /** The name of a key that it shows. */
  learnt?: string;
}

/** The freest trailer that one of the keys can write and go on with: by A all is A's, by B all is B's. */
const FREEST: Record<KeyName, number> = { A: 1, B: 3 };
const USES: [keyof DataAccess, SectorAbility['can']][] = [
  ['read', 'read'],
  ['write', 'write'],
  ['increment', 'increment'],
  ['decrement', 'decrement'],
];

function movesFrom(state: State, sector: PlanSector, knows: (slot: Slot) => boolean): Move[] {
  const moves: Move[] = [];
  const { number } = sector;
  const trailer = trailerAccess(state.trailer);
  const authenticate = (key: KeyName, slot: Slot) =>
    void moves.push({
      step: { do: 'authenticate', sector: number, key, with: slot },
      after: { ...state, session: key },
      told: [],
    });
  if (knows(state.keyA)) authenticate('A', state.keyA);
  // A key B that can be read authenticates nobody.
  if (trailer.keyBRead === '' && knows(state.keyB)) authenticate('B', state.keyB);
  const { session } = state;
  if (session === undefined) return moves;
  const may = (by: string) => by.includes(session);
  for (const block of blocksIn(number).slice(0, -1)) {
    const access = dataAccess(state.opened ? 0 : conditionOf(sector, block));
    // Block 0 is the maker's: it is read, and never written.
    for (const [use, word] of USES)
      if (may(access[use]) && (block !== 0 || use === 'read'))
        moves.push({ step: { do: use, block }, after: state, told: [`${word} block ${block}`] });
  }
  if (may(trailer.keyBRead)) {
    const learnt = typeof state.keyB === 'string' ? undefined : state.keyB.plan;
    moves.push({
      step: { do: 'read key B', sector: number },
      after: state,
      told: [`read key B of sector ${number}`],
      learnt,
    });
  }
  if (may(trailer.keyAWrite))
    moves.push({
      step: { do: 'change key A', sector: number },
      after: { ...state, keyA: 'theirs' },
      told: [`change key A of sector ${number}`],
    });
  if (may(trailer.keyBWrite))
    moves.push({
      step: { do: 'change key B', sector: number },
      after: { ...state, keyB: 'theirs' },
      told: [`change key B of sector ${number}`],
    });
  if (may(trailer.bitsWrite))
    moves.push({
      step: { do: 'open the access bits', sector: number },
      after: { ...state, opened: true, trailer: FREEST[session] },
      told: [`change the access bits of sector ${number}`, `lock sector ${number} for good`],
    });
  return moves;
}

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
      for (const { step, after, told, learnt: name } of movesFrom(state, sector, knows)) {
        const way = [...by, step];
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
        .flatMap((block) => USES.map(([, word]) => `${word} block ${block}`)),
    ]),
  ],
});
