/** The people of a site as far as doors tell them apart: how many are in which set of groups, and who is the first of them. */
import { and, asc, countDistinct, eq, inArray, isNotNull, isNull, type SQL } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { cardholderTable, cardTable } from '../cards/index.ts';
import { groupsIn } from '../rights/index.ts';

/** All who are in the same groups, by themselves or with a card that has some of its own. */
export interface People {
  groups: string[];
  /** How many they are; costs counting them. */
  count(db: Queryable): Promise<number>;
  /** Their names, the first of them. */
  names(db: Queryable, most: number): Promise<string[]>;
}

const sameSet = (id: string | null): SQL =>
  id === null ? isNull(cardholderTable.groupSetId) : eq(cardholderTable.groupSetId, id);

/** Costs the sets that somebody is in, and the cards that have groups of their own, however many people there are. */
export async function peopleOf(db: Queryable, siteId: string): Promise<People[]> {
  const own = eq(cardholderTable.siteId, siteId);
  const sets = await db.selectDistinct({ id: cardholderTable.groupSetId }).from(cardholderTable).where(own);
  const special = await db
    .select({
      own: cardTable.groupSetId,
      theirs: cardholderTable.groupSetId,
      people: countDistinct(cardholderTable.id),
    })
    .from(cardTable)
    .innerJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId))
    .where(and(eq(cardTable.siteId, siteId), isNotNull(cardTable.groupSetId)))
    .groupBy(cardTable.groupSetId, cardholderTable.groupSetId);
  const groups = await groupsIn(db, [...sets.map(({ id }) => id), ...special.map((s) => s.own)]);
  const of = (id: string | null): string[] => (id === null ? [] : (groups.get(id) ?? []));
  const apart = (theirs: string | null) =>
    special.reduce((sum, one) => (one.theirs === theirs ? sum + one.people : sum), 0);
  return [
    ...sets.map(({ id }): People => {
      const theirs = and(own, sameSet(id));
      return {
        groups: of(id),
        // Those whose cards have groups of their own are counted with these.
        count: async (tx) => Math.max(0, (await tx.$count(cardholderTable, theirs)) - apart(id)),
        names: async (tx, most) => {
          const rows = await tx
            .select({ name: cardholderTable.name })
            .from(cardholderTable)
            .where(theirs)
            .orderBy(asc(cardholderTable.name), asc(cardholderTable.id))
            .limit(most);
          return rows.map(({ name }) => name);
        },
      };
    }),
    ...special.map(
      ({ own: set, theirs, people }): People => ({
        groups: [...new Set([...of(set), ...of(theirs)])].sort(),
        count: async () => people,
        names: async (tx, most) => {
          const rows = await tx
            .selectDistinct({ name: cardholderTable.name })
            .from(cardTable)
            .innerJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId))
            .where(and(eq(cardTable.siteId, siteId), eq(cardTable.groupSetId, set!), sameSet(theirs)))
            .orderBy(asc(cardholderTable.name))
            .limit(most);
          return rows.map(({ name }) => name);
        },
      }),
    ),
  ];
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
