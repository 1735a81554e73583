/**
 * The ways in which people pass at a site: everybody's own groups with a card that has none, and with each card that has groups of
 * its own, these beside the holder's. People are counted as a set: whoever passes in two of these ways is one.
 */
import { and, eq, gt, inArray, isNotNull, isNull, type SQL, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { chunks } from '../../platform/lists/lists.ts';
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
}

/** A card that is not active but may become so without being handed to anybody. */
const WAITING_STATES = ['issued', 'suspended'];

/** A card that a controller lets in on some day to come. */
export const opens = (): SQL<number> =>
  sql<number>`(${cardTable.state} = 'active' and (${cardTable.validTo} is null or ${gt(cardTable.validTo, new Date())}))`;
const waits = inArray(cardTable.state, WAITING_STATES);

/** A way of passing that a site has: a set of groups of holders, and the one that hangs on the card. */
interface Way {
  /** Of the holder. */
  holders: string | null;
  /** Of the card; null where it has no groups of its own. */
  own: string | null;
}

const setIs = (column: typeof cardholderTable.groupSetId | typeof cardTable.groupSetId, id: string | null): SQL =>
  id === null ? isNull(column) : eq(column, id);

/** Costs the sets that somebody is in, and the cards that have groups of their own, however many people there are. */
export async function passersOf(db: Queryable, siteId: string): Promise<Passers> {
  const sets = await db
    .selectDistinct({ id: cardholderTable.groupSetId })
    .from(cardholderTable)
    .where(eq(cardholderTable.siteId, siteId));
  const special = await db
    .selectDistinct({
      own: cardTable.groupSetId,
      holders: cardholderTable.groupSetId,
    })
    .from(cardTable)
    .innerJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId))
    .where(and(eq(cardTable.siteId, siteId), isNotNull(cardTable.groupSetId)));
  const groups = await groupsIn(db, [...sets.map(({ id }) => id), ...special.flatMap((s) => [s.own, s.holders])]);
  const ways: Way[] = [...sets.map(({ id }) => ({ holders: id, own: null })), ...special];
  const subjects = ways.map(({ holders, own }): Subject => {
    const all = [...new Set([holders, own].flatMap((id) => (id ? (groups.get(id) ?? []) : [])))].sort();
    return { was: all, is: all };
  });
  const named = (indexes: readonly number[]) => indexes.map((i) => ways[i]!);
  return {
    subjects,
    tally: async (tx, indexes, most) => {
      const [now, later] = [openingBy(siteId, named(indexes)), waitingBy(siteId, named(indexes))];
      const rest = sql`${later} except ${now}`;
      const [people, others] = [await counted(tx, now), await counted(tx, rest)];
      const names = people === 0 ? [] : await firstOf(tx, now, most);
      if (names.length < most && others > 0) names.push(...(await firstOf(tx, rest, most - names.length)));
      return { people, later: others, names };
    },
  };
}

async function counted(db: Queryable, people: SQL): Promise<number> {
  const [rows] = (await db.execute(sql`select count(*) as people from (${people}) as passing`)) as unknown as [
    { people: number }[],
  ];
  return Number(rows[0]!.people);
}

async function firstOf(db: Queryable, people: SQL, most: number): Promise<string[]> {
  const [rows] = (await db.execute(
    sql`select name from (${people}) as passing order by name, id limit ${most}`,
  )) as unknown as [{ name: string }[]];
  return rows.map(({ name }) => name);
}

/** Cards of the holder whom the query around it is about. */
const holdersCard = (which: SQL): SQL =>
  sql`exists (select 1 from ${cardTable} where ${cardTable.holderId} = ${cardholderTable.id} and ${which})`;

/** A query of the people, each once, who pass in one of some ways with a card that opens. */
const openingBy = (siteId: string, ways: readonly Way[]): SQL =>
  people(siteId, ways, opens(), holdersCard(sql`${cardTable.groupSetId} is null and ${opens()}`));

/** A query of those who would with a card that does not open yet, or have no card that opens. */
const waitingBy = (siteId: string, ways: readonly Way[]): SQL =>
  people(
    siteId,
    ways,
    waits,
    sql`(${holdersCard(sql`${cardTable.groupSetId} is null and ${waits}`)} or not ${holdersCard(opens())})`,
  );

/** `card` is asked of cards that pass in one of the ways, `plain` of the holders of a set who pass by it alone. */
function people(siteId: string, ways: readonly Way[], card: SQL, plain: SQL): SQL {
  const sets = ways.flatMap(({ holders, own }) => (own === null ? [holders] : []));
  const special = ways.filter(({ own }) => own !== null);
  const parts: SQL[] = [];
  if (sets.length > 0) {
    const named = sets.flatMap((id) => (id === null ? [] : [id]));
    const among: SQL[] = [
      ...(named.length > 0 ? [inArray(cardholderTable.groupSetId, named)] : []),
      ...(named.length < sets.length ? [isNull(cardholderTable.groupSetId)] : []),
    ];
    parts.push(sql`select ${cardholderTable.id} as id, ${cardholderTable.name} as name from ${cardholderTable}
      where ${cardholderTable.siteId} = ${siteId} and (${sql.join(among, sql` or `)}) and ${plain}`);
  }
  if (special.length > 0) {
    const among = special.map(
      ({ holders, own }) =>
        sql`(${setIs(cardTable.groupSetId, own)} and ${setIs(cardholderTable.groupSetId, holders)})`,
    );
    parts.push(sql`select ${cardholderTable.id} as id, ${cardholderTable.name} as name from ${cardTable}
      join ${cardholderTable} on ${cardholderTable.id} = ${cardTable.holderId}
      where ${cardTable.siteId} = ${siteId} and ${card} and (${sql.join(among, sql` or `)})`);
  }
  return parts.length === 1 ? parts[0]! : sql`(${sql.join(parts, sql` union `)})`;
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
          waits: sql<number>`${waits}`,
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
    .orderBy(sql`${cardholderTable.name}`, sql`${cardholderTable.id}`);
  const groups = await groupsIn(
    db,
    rows.map(({ set }) => set),
  );
  return rows.map(({ id, name, set }) => ({ id, name, set, groups: set === null ? [] : (groups.get(set) ?? []) }));
}
