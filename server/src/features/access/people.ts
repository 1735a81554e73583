/**
 * The ways in which people pass at a site: everybody's own groups with a card that has none, and with each card that has groups of
 * its own, these beside the holder's. People are counted as a set: whoever passes in two of these ways is one.
 */
import { and, asc, count, eq, gt, inArray, isNotNull, isNull, or, type SQL, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { Queryable } from '../../platform/database/index.ts';
import { chunks, groupedBy } from '../../platform/lists/lists.ts';
import { cardholderTable, cardTable } from '../cards/index.ts';
import { groupsIn } from '../rights/index.ts';

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

/** A card that is not active but may become so without being handed to anybody. */
const WAITING_STATES = ['issued', 'suspended'];

type Cards = typeof cardTable;
/** A holder's cards, beside the one that a query is about. */
const theirs = alias(cardTable, 'theirs') as unknown as Cards;

/** A card that a controller lets in on some day to come. */
export const opens = (card: Cards = cardTable): SQL<number> =>
  sql<number>`(${card.state} = 'active' and (${card.validTo} is null or ${gt(card.validTo, new Date())}))`;
const waits = (card: Cards = cardTable): SQL => inArray(card.state, WAITING_STATES);

const isTrue = (flag: unknown): boolean => Number(flag) === 1;
type When = 'now' | 'later';

/** Whether the holder whom the query around it is about has such a card. */
const has = (which: SQL): SQL =>
  sql`exists (select 1 from ${cardTable} ${sql.identifier('theirs')} where ${theirs.holderId} = ${cardholderTable.id} and ${which})`;

/** When somebody passes by their groups alone: now with a card that opens; later, too, where no card of theirs opens. */
const plainWhen = (): SQL<When | ''> => sql<When | ''>`case
  when ${has(sql`${isNull(theirs.groupSetId)} and ${opens(theirs)}`)} then 'now'
  when ${has(sql`${isNull(theirs.groupSetId)} and ${waits(theirs)}`)} or not ${has(opens(theirs))} then 'later'
  else '' end`;

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

/** So many sets are counted in one statement. */
const SETS_TOGETHER = 1000;

/** How many of a set pass by their groups alone, and who they are: each set is counted once. */
class PlainCounts {
  private readonly known = new Map<string | null, { [when in When]: number }>();
  /** Of sets that were counted together, the first people by name. */
  private readonly first = new Map<string | null, { [when in When]: string[] }>();
  private named = 0;

  constructor(private readonly siteId: string) {}

  /** Counts many sets together, and keeps the first `most` people of each; always the same `most`. */
  async count(db: Queryable, sets: readonly (string | null)[], most: number): Promise<void> {
    this.named = most;
    const missing = [...new Set(sets)].filter((id) => !this.first.has(id));
    for (const some of chunks(missing, SETS_TOGETHER)) {
      for (const id of some) {
        this.known.set(id, { now: 0, later: 0 });
        this.first.set(id, { now: [], later: [] });
      }
      const who = db
        .select({
          set: cardholderTable.groupSetId,
          when: plainWhen().as('when'),
          name: cardholderTable.name,
          id: cardholderTable.id,
        })
        .from(cardholderTable)
        .where(this.in(some))
        .as('who');
      const part = sql`partition by ${who.set}, ${who.when}`;
      const ranked = db
        .select({
          set: who.set,
          when: sql<When | ''>`${who.when}`.as('passes'),
          name: who.name,
          people: sql<number>`count(*) over (${part})`.as('people'),
          place: sql<number>`row_number() over (${part} order by ${who.name}, ${who.id})`.as('place'),
        })
        .from(who)
        .as('ranked');
      const rows = await db.select().from(ranked).where(sql`${ranked.place} <= ${most}`).orderBy(asc(ranked.place));
      for (const { set, when, name, people } of rows) {
        if (when === '') continue;
        this.known.get(set)![when] = Number(people);
        this.first.get(set)![when].push(name);
      }
    }
  }

  async of(db: Queryable, sets: readonly (string | null)[]): Promise<{ [when in When]: number }> {
    const missing = sets.filter((id) => !this.known.has(id));
    for (const id of missing) this.known.set(id, { now: 0, later: 0 });
    if (missing.length > 0) {
      const who = db
        .select({ set: cardholderTable.groupSetId, when: plainWhen().as('when') })
        .from(cardholderTable)
        .where(this.in(missing))
        .as('who');
      const rows = await db
        .select({ set: who.set, when: who.when, people: count() })
        .from(who)
        .groupBy(who.set, who.when);
      for (const { set, when, people } of rows) if (when !== '') this.known.get(set)![when] = people;
    }
    const sum = { now: 0, later: 0 };
    for (const id of sets) for (const when of ['now', 'later'] as const) sum[when] += this.known.get(id)![when];
    return sum;
  }

  /** The first by name of the first sets that have any, until there are enough. */
  async names(db: Queryable, sets: readonly (string | null)[], when: When, most: number): Promise<string[]> {
    const names: string[] = [];
    for (const id of sets) {
      if (names.length >= most) break;
      if (this.known.get(id)?.[when] === 0) continue;
      const first = most <= this.named ? this.first.get(id) : undefined;
      if (first) {
        names.push(...first[when].slice(0, most - names.length));
        continue;
      }
      const rows = await db
        .select({ name: cardholderTable.name })
        .from(cardholderTable)
        .where(and(this.in([id]), sql`${plainWhen()} = ${when}`))
        .orderBy(asc(cardholderTable.name), asc(cardholderTable.id))
        .limit(most - names.length);
      names.push(...rows.map(({ name }) => name));
    }
    return names;
  }

  private in(sets: readonly (string | null)[]): SQL {
    const named = sets.flatMap((id) => id ?? []);
    const among = [
      ...(named.length > 0 ? [inArray(cardholderTable.groupSetId, named)] : []),
      ...(named.length < sets.length ? [isNull(cardholderTable.groupSetId)] : []),
    ];
    return and(eq(cardholderTable.siteId, this.siteId), or(...among))!;
  }
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
