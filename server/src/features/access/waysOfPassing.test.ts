/**
 * Who gains, who loses, and which assertions break, against a plain model of people with several cards in every state, and
 * against what the controller then holds. The model looks at every card at every half hour of a week.
 */

import {
  type AccessChange,
  type AccessReview,
  accessApi,
  type Body,
  type Card as Card_,
  cardApi,
  cardholderApi,
  doorApi,
  formatApi,
  rigApi,
} from '@rawbits/api';
import { CARD_STATES, type CardState } from '@rawbits/core/access';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { isWhole, seedOr } from '../../../../core/testing/runs.ts';
import { acceptByDryRun, furnish, type House, loadAndWait, openHouse } from '../../testing/harness.ts';

type Way = 'in' | 'out';
type Change = AccessChange;
interface Card {
  id: string;
  formatId: string;
  holder: string | null;
  state: CardState;
  /** Its last day is over. */
  isPast: boolean;
  groups: string[];
}
interface Right {
  doors: { door: string; ways: Way[] }[];
  schedule: string;
}
interface World {
  people: Map<string, { name: string; groups: string[] }>;
  cards: Card[];
  /** Hours of each schedule, on the days given. */
  schedules: Map<string, { name: string; days: number[]; from: number; to: number }>;
  groups: Map<string, { name: string; rights: Right[] }>;
  doors: Map<string, { name: string; byGroups: boolean; ways: Way[] }>;
}

/** Half hours of a week, from Monday's midnight. */
const HALVES = Array.from({ length: 7 * 48 }, (_, i) => i);
const hour = (n: number) => `${String(n).padStart(2, '0')}:00`;

const holds = (world: World, schedule: string, half: number): boolean => {
  if (schedule === 'always') return true;
  const { days, from, to } = world.schedules.get(schedule)!;
  return days.includes(Math.floor(half / 48) + 1) && (half % 48) / 2 >= from && (half % 48) / 2 < to;
};

/** What was worked out of a world, which is never changed but copied. */
const known = new WeakMap<World['doors'], Map<string, number[]>>();

/** The half hours at which some groups pass a door one way. */
function halves(world: World, groups: readonly string[], door: string, way: Way): number[] {
  const mine = known.get(world.doors) ?? new Map<string, number[]>();
  known.set(world.doors, mine);
  const key = [door, way, ...new Set(groups)].join();
  const found = mine.get(key) ?? workedOut(world, groups, door, way);
  mine.set(key, found);
  return found;
}

function workedOut(world: World, groups: readonly string[], door: string, way: Way): number[] {
  const { byGroups, ways } = world.doors.get(door)!;
  if (!ways.includes(way)) return [];
  if (!byGroups) return HALVES;
  return HALVES.filter((half) =>
    groups.some((group) =>
      world.groups
        .get(group)
        ?.rights.some(
          ({ doors, schedule }) =>
            doors.some((right) => right.door === door && right.ways.includes(way)) && holds(world, schedule, half),
        ),
    ),
  );
}

const isOpening = ({ state, isPast }: Card): boolean => state === 'active' && !isPast;

/** Everybody's ways of passing: who by which groups, and whether with a card that opens. */
function waysOf({ people, cards }: World): { who: string; groups: string[]; now: boolean }[] {
  const ways = cards.flatMap((card) => {
    const now = isOpening(card);
    if (card.holder === null || (!now && !['issued', 'suspended'].includes(card.state))) return [];
    return [{ who: card.holder, groups: [...people.get(card.holder)!.groups, ...card.groups], now }];
  });
  // Who has no card that opens may be given one.
  const without = [...people].filter(([id]) => !cards.some((card) => card.holder === id && isOpening(card)));
  return [...ways, ...without.map(([who, { groups }]) => ({ who, groups, now: false }))];
}

/** For a door, way and set of half hours, who gains them: counted now, and later. */
function gained(before: World, after: World, only?: (who: string) => boolean): string[] {
  const [was, is] = [waysOf(before), waysOf(after)];
  const rows = new Map<string, { now: Set<string>; later: Set<string> }>();
  for (const door of after.doors.keys())
    for (const way of ['in', 'out'] as const)
      for (const [i, { who, groups, now }] of is.entries()) {
        if (only && !only(who)) continue;
        const had = new Set(halves(before, was[i]!.groups, door, way));
        const has = halves(after, groups, door, way).filter((half) => !had.has(half));
        if (has.length === 0) continue;
        const key = `${after.doors.get(door)!.name} ${way} ${has.join()}`;
        const row = rows.get(key) ?? { now: new Set(), later: new Set() };
        rows.set(key, row);
        row[now ? 'now' : 'later'].add(who);
      }
  return [...rows]
    .map(([key, { now, later }]) => {
      const [door, way] = key.split(' ');
      return `${door} ${way}: ${now.size} and ${[...later].filter((who) => !now.has(who)).length}`;
    })
    .sort();
}

const inReview = (rows: AccessReview['gains']): string[] =>
  rows.map(({ door, way, people, later }) => `${door} ${way}: ${people} and ${later}`).sort();

/** Numbers below one that come again from a seed (a linear congruential generator, for tests alone). */
function randoms(seed: number): () => number {
  let state = (seed * 2654435761) >>> 0;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 32;
  };
}

describe('ways of passing', () => {
  const random = randoms(seedOr(27));
  const below = (n: number) => Math.floor(random() * n);
  const pick = <T>(all: readonly T[]): T => all[below(all.length)]!;
  const some = <T>(all: readonly T[], chance = 0.4): T[] => all.filter(() => random() < chance);
  let house: House;
  let site: string;
  let shed: string;
  let world: World;
  let revisionOfNames = 0;

  const ask = <T extends Change>(change: T) => house.administrator.ask(accessApi.review, { site }, { change });
  const send = async (change: Change, seen: string) => {
    const isAboutMembers = change.kind === 'members' || change.kind === 'card';
    const path = `/sites/${site}/access/${isAboutMembers ? 'memberships' : 'changes'}`;
    const { status, body } = await house.administrator.call('POST', path, { change, seen, breaking: true });
    expect([status, body]).toMatchObject([200, {}]);
    return body.id as string;
  };

  beforeAll(async () => {
    house = await openHouse();
    site = house.site;
    const { administrator } = house;
    shed = (await furnish(house)).controller;
    await administrator.ask(rigApi.setUp, { site }, {
      cards: [],
      readers: ['door', 'inside', 'dock', 'gate'].map((id) => ({ id, controller: 'shed' })),
      controllers: [{ id: 'shed' }],
    } satisfies Body<typeof rigApi.setUp>);
    const first = (await administrator.ask(accessApi.all, { site })).doors[0]!;
    const add = (name: string, device: string, more: object = {}) =>
      administrator.ask(doorApi.addReader, { site }, { name, kind: 'door', device, controllerId: shed, ...more });
    await add('Inside', 'inside', { doorId: first.id, way: 'out' });
    await add('Dock', 'dock');
    await add('Gate', 'gate');
    const { doors } = await administrator.ask(accessApi.all, { site });
    world = {
      people: new Map(),
      cards: [],
      schedules: new Map(),
      groups: new Map(),
      doors: new Map(
        doors.map(({ id, byGroups, readers }, i) => [
          id,
          { name: `D${i}`, byGroups, ways: readers.map(({ way }) => way) },
        ]),
      ),
    };
    for (const [id, { name }] of world.doors) {
      const { readers } = doors.find((door) => door.id === id)!;
      const change = {
        kind: 'door' as const,
        id,
        name,
        byGroups: true,
        readers: readers.map(({ id: reader, way }) => ({ id: reader, way })),
      };
      await send(change, (await ask(change)).seen);
      world.doors.get(id)!.byGroups = true;
    }
    let number = 100;
    for (let i = 0; i < 60; i++) {
      const name = `P${String(i).padStart(2, '0')}`;
      const { id } = await administrator.ask(cardholderApi.add, { site }, { name });
      world.people.set(id, { name, groups: [] });
      // From none to four, in every state.
      for (let k = 0; k < i % 5; k++) {
        const state = CARD_STATES[(i + k) % CARD_STATES.length]!;
        await enter(String(number++), state === 'in stock' ? null : id, state, random() < 0.15);
      }
    }
    // Some cards of a second format have the bits of other people's.
    await administrator.ask(formatApi.adopt, { site, format: '26-0-24' });
    await acceptByDryRun(administrator, site, shed, formats);
    const people = [...world.people.keys()];
    for (let k = 0; k < 24; k++)
      await enter(String(58 * 65536 + 100 + 3 * k), people[(7 * k) % 60]!, 'active', false, '26-0-24');
  });
  afterAll(() => house.close());

  async function enter(
    number: string,
    holder: string | null,
    state: CardState,
    isPast: boolean,
    formatId = '26-8-16',
  ): Promise<void> {
    const validTo = isPast ? '2026-01-01T00:00:00.000Z' : null;
    const { id } = await house.administrator.ask(
      cardApi.add,
      { site },
      { formatId, facility: formatId === '26-8-16' ? '58' : null, number, state, holderId: holder, validTo },
    );
    world.cards.push({ id, formatId, holder, state, isPast, groups: [] });
  }

  const copied = (): World => structuredClone(world);

  /** A random change of rights, with what it makes of the world; nothing where there is nothing to change yet. */
  function proposal():
    | { change: Change; after: World; only?: (who: string) => boolean; made?: (id: string) => void }
    | undefined {
    const after = copied();
    const [groups, schedules] = [[...world.groups.keys()], [...world.schedules.keys()]];
    switch (below(7)) {
      case 0: {
        const id = schedules.length < 3 || random() < 0.1 ? null : pick(schedules);
        if (id === null && schedules.length > 5) return undefined;
        const from = below(22);
        const value = {
          name: id ? world.schedules.get(id)!.name : `S${++revisionOfNames}`,
          days: some([1, 2, 3, 4, 5, 6, 7], 0.6),
          from,
          to: from + 1 + below(23 - from),
        };
        if (value.days.length === 0) value.days.push(3);
        if (id) after.schedules.set(id, value);
        const change: Change = {
          kind: 'schedule',
          id,
          name: value.name,
          periods: [{ days: value.days, from: hour(value.from), to: hour(value.to) }],
          onHolidays: [],
        };
        return { change, after, made: (own) => after.schedules.set(own, value) };
      }
      case 1:
      case 2: {
        const id = groups.length < 3 || random() < 0.05 ? null : pick(groups);
        if (id === null && groups.length > 7) return undefined;
        const doors = some([...world.doors.keys()]).map((door) => ({
          door,
          ways: random() < 0.3 ? (['in', 'out'] as Way[]) : [pick<Way>(['in', 'out'])],
        }));
        const rights: Right[] = doors.length === 0 ? [] : [{ doors, schedule: pick([...schedules, 'always']) }];
        const value = { name: id ? world.groups.get(id)!.name : `G${++revisionOfNames}`, rights };
        if (id) after.groups.set(id, value);
        return { change: { kind: 'group', id, ...value }, after, made: (own) => after.groups.set(own, value) };
      }
      case 3:
      case 4: {
        const holders = some([...world.people.keys()], 0.1);
        if (holders.length === 0 || groups.length === 0) return undefined;
        const add = some(groups, 0.3);
        const remove = some(groups, 0.3).filter((id) => !add.includes(id));
        for (const id of holders) {
          const person = after.people.get(id)!;
          person.groups = [...new Set([...person.groups.filter((group) => !remove.includes(group)), ...add])];
        }
        return { change: { kind: 'members', add, remove, holders }, after };
      }
      case 5: {
        const held = world.cards.filter(({ holder }) => holder !== null);
        const { id } = pick(held);
        const card = after.cards.find((one) => one.id === id)!;
        card.groups = some(groups, 0.3);
        // What does not open may be looked at as if it did later, whatever its state.
        if (!isOpening(card) && !['issued', 'suspended'].includes(card.state)) return undefined;
        return { change: { kind: 'card', id, groups: card.groups }, after, only: (who) => who === card.holder };
      }
      default: {
        const id = pick([...world.doors.keys()]);
        const door = after.doors.get(id)!;
        door.byGroups = random() < 0.8;
        return { change: { kind: 'door', id, name: door.name, byGroups: door.byGroups, readers: [] }, after };
      }
    }
  }

  /** Some card comes into another state, or goes to nobody. */
  async function changeCard(): Promise<void> {
    const card = pick(world.cards);
    const { revision } = await house.administrator.ask(cardApi.one, { site, id: card.id });
    const state = pick(CARD_STATES);
    const isReturned = state === 'in stock' || (random() < 0.05 && card.holder !== null);
    if (isReturned && state !== 'in stock') return;
    const body = isReturned ? { state, holderId: null } : { state };
    const { body: now, status } = await house.administrator.call('PATCH', `/sites/${site}/cards/${card.id}`, {
      revision,
      ...body,
    });
    if (status !== 200) return;
    Object.assign(card, { state, holder: now.holder?.id ?? null, groups: now.groups });
  }

  /** Who could break `nobody but … passes`, by the model: now, or later. */
  function breaking({ but, doors, way }: { but: string[]; doors: string[]; way: Way }): 'now' | 'later' | 'nobody' {
    const found = waysOf(world).filter(
      ({ groups }) =>
        !groups.some((group) => but.includes(group)) &&
        doors.some((door) => halves(world, groups, door, way).some((half) => half % 48 >= 44)),
    );
    return found.some(({ now }) => now) ? 'now' : found.length > 0 ? 'later' : 'nobody';
  }

  // Two thousand rounds take ten minutes.
  const patience = isWhole ? { timeout: 1_800_000 } : {};
  it(
    'a review says of everybody with any card what the model says, and an assertion holds only where nobody breaks it',
    patience,
    async () => {
      const met = {
        opening: 0,
        stillOpening: 0,
        asOther: 0,
        formats: 0,
        gains: 0,
        losses: 0,
        broken: 0,
        later: 0,
        holding: 0,
        loads: 0,
      };
      for (let round = 0; round < (isWhole ? 2000 : 100); round++) {
        if (random() < 0.3) await changeCard();
        const proposed = proposal();
        if (!proposed) continue;
        const { change, after, only, made } = proposed;
        const { doors } = await house.administrator.ask(accessApi.all, { site });
        if (change.kind === 'door')
          change.readers = doors.find(({ id }) => id === change.id)!.readers.map(({ id, way }) => ({ id, way }));
        const review = await ask(change);
        const of = [inReview(review.gains), inReview(review.losses)];
        expect(of, `${round}: ${JSON.stringify(change)}`).toEqual([
          gained(world, after, only),
          gained(after, world, only),
        ]);
        met.gains += review.gains.length;
        met.losses += review.losses.length;
        const id = await send(change, review.seen);
        made?.(id);
        world = after;
        if (round % 20 === 10) await checkAssertion(met);
        if (round % 10 === 3) await checkOpens(met);
        if (round % 40 === 20) {
          await changeFormats();
          met.formats++;
        }
        if (round % 50 === 25) {
          await loadAndWait(house.administrator, `/sites/${site}/controllers/${shed}`);
          checkMemory();
          met.loads++;
        }
      }
      const { opening, stillOpening, asOther } = met;
      expect(Math.min(opening, stillOpening, asOther), JSON.stringify(met)).toBeGreaterThan(0);
      expect(Math.min(met.gains, met.losses, met.broken, met.holding, met.loads), JSON.stringify(met)).toBeGreaterThan(
        0,
      );
    },
  );

  async function checkAssertion(met: { broken: number; later: number; holding: number }): Promise<void> {
    const { administrator } = house;
    const assertion = {
      but: some([...world.groups.keys()], 0.5),
      doors: some([...world.doors.keys()], 0.5),
      way: pick<Way>(['in', 'out']),
    };
    if (assertion.doors.length === 0) return;
    const { id } = await administrator.ask(
      accessApi.assert,
      { site },
      {
        ...{ id: null, name: `A${++revisionOfNames}`, ...assertion },
        during: { periods: [{ days: [1, 2, 3, 4, 5, 6, 7], from: '22:00', to: '24:00' }], onHolidays: 'as other days' },
      },
    );
    const { broken } = (await administrator.ask(accessApi.all, { site })).assertions.find((one) => one.id === id)!;
    const said = broken.some(({ people }) => people > 0) ? 'now' : broken.length > 0 ? 'later' : 'nobody';
    expect(said, JSON.stringify([assertion, broken])).toBe(breaking(assertion));
    met[said === 'now' ? 'broken' : said === 'later' ? 'later' : 'holding']++;
    await administrator.ask(accessApi.withdraw, { site, id });
  }

  /** The controller accepts one format of the two, or both: then what one card says may be another's. */
  let formats = ['26-8-16', '26-0-24'];
  async function changeFormats(): Promise<void> {
    formats = formats.length === 2 ? ['26-8-16'] : ['26-8-16', '26-0-24'];
    await acceptByDryRun(house.administrator, site, shed, formats);
  }

  interface Kept {
    id: string;
    number: string;
    facility: string | null;
    state: string;
    validTo: string | null;
    groups?: string[];
  }
  /** What the controller's memory has, read from its texts apart from all of our code. */
  function memory() {
    const entries = [...house.rig.controller('shed').entries()].map(([key, text]) => [key, JSON.parse(text)] as const);
    const kept = <T>(kind: string) =>
      entries.flatMap(([key, value]) => (key.startsWith(`${kind} `) ? [value as T] : []));
    return {
      cards: kept<Kept>('card'),
      formats: new Set(entries.flatMap(([key]) => (key.startsWith('format ') ? [key.slice(7)] : []))),
      groups: kept<{ id: string; rights: Right[] }>('group'),
      doors: new Set(kept<{ id: string }>('door').map(({ id }) => id)),
    };
  }

  /** The doors that bits open by a memory at any hour; all of these schedules hold at some. */
  function opened(
    bits: string,
    { cards, formats: loaded, groups, doors: guarded }: ReturnType<typeof memory>,
  ): string[] {
    const [facility, number, whole] = [bits.slice(1, 9), bits.slice(9, 25), bits.slice(1, 25)].map((text) =>
      String(Number.parseInt(text, 2)),
    );
    const isMeant = (card: Kept) =>
      (loaded.has('26-8-16') && card.number === number && card.facility === facility) ||
      (loaded.has('26-0-24') && card.number === whole && card.facility === null);
    const isLive = ({ state, validTo }: Kept) => state === 'active' && (!validTo || Date.parse(validTo) > Date.now());
    const live = cards.filter((card) => isMeant(card) && isLive(card));
    const isLet = (card: Kept, door: string, way: Way) =>
      groups.some(
        ({ id, rights }) =>
          card.groups?.includes(id) &&
          rights.some(({ doors }) => doors.some((one) => one.door === door && one.ways.includes(way))),
      );
    return [...world.doors]
      .filter(([door, { ways }]) =>
        live.some((card) => !guarded.has(door) || ways.some((way) => isLet(card, door, way))),
      )
      .map(([, { name }]) => name)
      .sort();
  }

  /** What is said of every card is what the memory says, whatever was only saved since. */
  async function checkOpens(met: { opening: number; stillOpening: number; asOther: number }): Promise<void> {
    const { cards } = await house.administrator.do<{ cards: Card_[] }>('GET', `/sites/${site}/cards?limit=1000`);
    const held = memory();
    for (const card of cards) {
      const said = card.opens.doors.map(({ name }) => name).sort();
      expect(said, `${card.number}, ${card.state}`).toEqual(opened(card.bits!, held));
      const without = { ...held, cards: held.cards.filter(({ id }) => id !== card.id) };
      // As another card only where it opens at all.
      const other = opened(card.bits!, without);
      expect(card.opens.asOther.map(({ door }) => door).sort(), card.number).toEqual(other);
      if (said.length > 0) met[card.state === 'active' ? 'opening' : 'stillOpening']++;
      if (other.length > 0) met.asOther++;
    }
  }

  /** What the controller's memory lets pass is what the model lets pass, card by card: read apart from all of our code. */
  function checkMemory(): void {
    const entries = [...house.rig.controller('shed').entries()].map(([key, text]) => [key, JSON.parse(text)] as const);
    const kept = (kind: string) => entries.flatMap(([key, value]) => (key.startsWith(`${kind} `) ? [value] : []));
    const groups = kept('group') as { id: string; rights: Right[] }[];
    const schedules = kept('schedule') as { id: string; periods: { days: number[]; from: string; to: string }[] }[];
    const doors = kept('door') as { id: string; readers: { way: Way }[] }[];
    const cards = new Map(
      (kept('card') as { id: string; state: string; validTo: string | null; groups?: string[] }[]).map((card) => [
        card.id,
        card,
      ]),
    );
    const opensAt = (
      card: { state: string; validTo: string | null; groups?: string[] } | undefined,
      door: string,
      way: Way,
    ) => {
      if (card?.state !== 'active' || (card.validTo !== null && Date.parse(card.validTo) < Date.now())) return [];
      if (!world.doors.get(door)!.ways.includes(way)) return [];
      if (!doors.some(({ id }) => id === door)) return HALVES;
      return HALVES.filter((half) =>
        groups.some(
          ({ id, rights }) =>
            card.groups?.includes(id) &&
            rights.some(
              (right) =>
                right.doors.some((one) => one.door === door && one.ways.includes(way)) &&
                (right.schedule === 'always' ||
                  schedules
                    .find((one) => one.id === right.schedule)
                    ?.periods.some(
                      ({ days, from, to }) =>
                        days.includes(Math.floor(half / 48) + 1) &&
                        (half % 48) / 2 >= Number(from.slice(0, 2)) &&
                        (half % 48) / 2 < Number(to.slice(0, 2)),
                    )),
            ),
        ),
      );
    };
    for (const card of world.cards)
      for (const door of world.doors.keys())
        for (const way of ['in', 'out'] as const) {
          const theirs = card.holder === null ? [] : world.people.get(card.holder)!.groups;
          const should =
            isOpening(card) && formats.includes(card.formatId)
              ? halves(world, [...theirs, ...card.groups], door, way)
              : [];
          expect(opensAt(cards.get(card.id), door, way), `${card.id} at ${door}, ${way}`).toEqual(should);
        }
  }
});
