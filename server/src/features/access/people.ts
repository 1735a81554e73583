/**
 * The ways in which people pass at a site: everybody's own groups with a card that has none, and with each card that has groups of
 * its own, these beside the holder's. People are counted as a set: whoever passes in two of these ways is one.
 */
import { and, asc, eq, inArray, isNotNull, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { chunks, groupedBy } from '../../platform/lists/lists.ts';
import { cardholderTable, cardTable } from '../cards/index.ts';
import { groupsIn } from '../rights/index.ts';
import { isTrue, opens, PlainCounts, plainWhen, type When, waits } from './counts.ts';

/** What passes by some groups before a change, and by which after it. */
export interface Subject {
  was: readonly string[];
  is: readonly string[];
}

/** How many pass in some ways, and the first of them by name: those with a card that opens come first. */
export interface Tally {
  /** People who hold an active card that passes so. */
  people: number;
  /** People who do not, but would with a card that is issued or suspended, or whom a card has yet to be given. */
  later: number;
  names: string[];
}

/** Whom a change is about, as ways of passing, and who they are. */
export interface Passers {
  readonly subjects: readonly Subject[];
  /** Costs counting the people of those subjects. */
  tally(db: Queryable, subjects: readonly number[], names: number): Promise<Tally>;
  /** Counts the people of many subjects together, for tallies of some of them that follow; a few statements for thousands. */
  count?(db: Queryable, subjects: readonly number[], names: number): Promise<void>;
}

/**
 * Everybody of a site. Costs the sets that somebody is in, and the cards that have groups of their own; of the people only those
 * whose sets are counted cost anything, each once.
 */
export async function passersOf(db: Queryable, siteId: string): Promise<Passers> {
  const sets = await db
    .selectDistinct({ id: cardholderTable.groupSetId })
    .from(cardholderTable)
    .where(eq(cardholderTable.siteId, siteId));
  const special = await specialCards(db, siteId);
  const groups = await groupsIn(db, [...sets.map(({ id }) => id), ...special.flatMap((s) => [s.own, s.holders])]);
  const of = (id: string | null): readonly string[] => (id === null ? [] : (groups.get(id) ?? []));
  const bySets = [...groupedBy(special, ({ own, holders }) => `${own} ${holders}`).values()];
  const subjects = [
    ...sets.map(({ id }) => of(id)),
    ...bySets.map(([first]) => [...new Set([...of(first!.own), ...of(first!.holders)])].sort()),
  ].map((all): Subject => ({ was: all, is: all }));
  const counts = new PlainCounts(siteId);
  return {
    subjects,
    count: (tx, indexes, most) =>
      counts.count(
        tx,
        indexes.flatMap((i) => sets[i] ?? []).map(({ id }) => id),
        most,
      ),
    tally: async (tx, indexes, most) => {
      const plain = indexes.flatMap((i) => sets[i] ?? []).map(({ id }) => id);
      const cards = indexes.flatMap((i) => bySets[i - sets.length] ?? []);
      return together(tx, counts, { plain, cards, most });
    },
  };
}

/** A card with groups of its own: when it passes, and when its holder does by their groups alone. */
type SpecialCard = Awaited<ReturnType<typeof specialCards>>[number];

const specialCards = (db: Queryable, siteId: string) =>
  db
    .select({
      own: cardTable.groupSetId,
      holder: cardholderTable.id,
      name: cardholderTable.name,
      holders: cardholderTable.groupSetId,
      isOpen: opens(),
      plain: plainWhen(),
    })
    .from(cardTable)
    .innerJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId))
    .where(and(eq(cardTable.siteId, siteId), isNotNull(cardTable.groupSetId), sql`(${opens()} or ${waits()})`))
    .orderBy(asc(cardholderTable.name), asc(cardholderTable.id));

/** The people of some sets, and the holders of some cards that have groups of their own, each person once. */
async function together(
  db: Queryable,
  counts: PlainCounts,
  { plain, cards, most }: { plain: readonly (string | null)[]; cards: readonly SpecialCard[]; most: number },
): Promise<Tally> {
  const sum = await counts.of(db, plain);
  const names: { [when in When]: string[] } = { now: [], later: [] };
  for (const own of groupedBy(cards, ({ holder }) => holder).values()) {
    const { holders, name, plain: byGroups } = own[0]!;
    const counted = plain.includes(holders) ? byGroups : '';
    const when: When = counted === 'now' || own.some(({ isOpen }) => isTrue(isOpen)) ? 'now' : 'later';
    if (when === counted) continue;
    if (counted !== '') sum[counted]--;
    sum[when]++;
    names[when].push(name);
  }
  for (const when of ['now', 'later'] as const)
    if (names[when].length < Math.min(most, sum[when]))
      names[when].push(...(await counts.names(db, plain, when, most)));
  const first = [...names.now.sort().slice(0, Math.min(most, sum.now)), ...names.later.sort()];
  return { people: sum.now, later: sum.later, names: [...new Set(first)].slice(0, most) };
}

/** Someone whose groups change; null for an id where they are not on file yet. */
export interface Mover {
  id: string | null;
  name: string;
  was: readonly string[];
  is: readonly string[];
}

const A_PIECE = 500;

/** Some people by name, who move from groups to others; costs them and their cards. */
export async function passersAmong(db: Queryable, siteId: string, movers: readonly Mover[]): Promise<Passers> {
  const ids = movers.flatMap(({ id }) => id ?? []);
  const cards: { holder: string | null; own: string | null; opens: number; waits: number }[] = [];
  for (const some of chunks(ids, A_PIECE))
    cards.push(
      ...(await db
        .select({
          holder: cardTable.holderId,
          own: cardTable.groupSetId,
          opens: opens(),
          waits: sql<number>`${waits()}`,
        })
        .from(cardTable)
        .where(and(eq(cardTable.siteId, siteId), inArray(cardTable.holderId, some)))),
    );
  const sets = await groupsIn(
    db,
    cards.map(({ own }) => own),
  );
  const byHolder = new Map<string, typeof cards>();
  for (const card of cards) byHolder.set(card.holder!, [...(byHolder.get(card.holder!) ?? []), card]);
  const passing: Listed[] = movers.flatMap((mover): Listed[] => {
    const own = (mover.id === null ? undefined : byHolder.get(mover.id)) ?? [];
    const usable = own.filter((card) => Number(card.opens) === 1 || Number(card.waits) === 1);
    const plainLater = usable.every((card) => Number(card.opens) === 0) ? [{ own: null, opens: 0 }] : [];
    return [...usable, ...plainLater].map((card) => {
      const more = card.own === null ? [] : (sets.get(card.own) ?? []);
      return {
        who: mover.id ?? mover,
        name: mover.name,
        opens: Number(card.opens) === 1,
        was: [...new Set([...mover.was, ...more])].sort(),
        is: [...new Set([...mover.is, ...more])].sort(),
      };
    });
  });
  return listed(passing);
}

/** Somebody with one card: `opens` where it is active. */
export interface Listed extends Subject {
  who: unknown;
  name: string;
  opens: boolean;
}

/** Ways of passing that are at hand; those that move alike are one subject. */
export function listed(passing: readonly Listed[]): Passers {
  const alike = new Map<string, Listed[]>();
  for (const one of passing) {
    const key = `${one.was.join()} ${one.is.join()}`;
    const some = alike.get(key);
    if (some) some.push(one);
    else alike.set(key, [one]);
  }
  const subjects = [...alike.values()];
  return {
    subjects: subjects.map(([first]) => ({ was: first!.was, is: first!.is })),
    tally: async (_db, indexes, most) => {
      const all = indexes.flatMap((i) => subjects[i]!);
      const now = new Map(all.flatMap(({ who, name, opens }) => (opens ? [[who, name]] : [])));
      const later = new Map(all.flatMap(({ who, name }) => (now.has(who) ? [] : [[who, name]])));
      return {
        people: now.size,
        later: later.size,
        names: [...now.values(), ...later.values()].slice(0, most),
      };
    },
  };
}

/** Some people by their ids, each with the groups that they are in. Those that are not at the site are left out. */
export async function peopleNamed(db: Queryable, siteId: string, ids: readonly string[]) {
  const rows = await db
    .select({ id: cardholderTable.id, name: cardholderTable.name, set: cardholderTable.groupSetId })
    .from(cardholderTable)
    .where(and(eq(cardholderTable.siteId, siteId), inArray(cardholderTable.id, [...ids])))
    .orderBy(asc(cardholderTable.name), asc(cardholderTable.id));
  const groups = await groupsIn(
    db,
    rows.map(({ set }) => set),
  );
  return rows.map(({ id, name, set }) => ({ id, name, set, groups: set === null ? [] : (groups.get(set) ?? []) }));
}
