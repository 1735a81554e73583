/** The people of a site as far as doors tell them apart: how many are in which set of groups, and who is the first of them. */
import { and, asc, count, countDistinct, eq, inArray, isNotNull, isNull, type SQL } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { cardholderTable, cardTable } from '../cards/index.ts';
import { groupsIn } from '../rights/index.ts';

/** All who are in the same groups, by themselves or with a card that has some of its own. */
export interface People {
  groups: string[];
  people: number;
  /** Their names, the first of them. */
  names(db: Queryable, most: number): Promise<string[]>;
}

const sameSet = (id: string | null): SQL =>
  id === null ? isNull(cardholderTable.groupSetId) : eq(cardholderTable.groupSetId, id);

/** Costs counting along an index of the cardholders, and as many sets as there are. */
export async function peopleOf(db: Queryable, siteId: string): Promise<People[]> {
  const own = eq(cardholderTable.siteId, siteId);
  const sets = await db
    .select({ id: cardholderTable.groupSetId, people: count() })
    .from(cardholderTable)
    .where(own)
    .groupBy(cardholderTable.groupSetId);
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
  const fromCards = (theirs: string | null) =>
    special.reduce((sum, s) => (s.theirs === theirs ? sum + s.people : sum), 0);
  return [
    ...sets.flatMap(({ id, people }) => {
      const left = Math.max(0, people - fromCards(id));
      if (left === 0) return [];
      const names = async (tx: Queryable, most: number) =>
        (
          await tx
            .select({ name: cardholderTable.name })
            .from(cardholderTable)
            .where(and(own, sameSet(id)))
            .orderBy(asc(cardholderTable.name), asc(cardholderTable.id))
            .limit(most)
        ).map(({ name }) => name);
      return [{ groups: of(id), people: left, names }];
    }),
    ...special.map(({ own: set, theirs, people }) => ({
      groups: [...new Set([...of(set), ...of(theirs)])].sort(),
      people,
      names: async (tx: Queryable, most: number) =>
        (
          await tx
            .selectDistinct({ name: cardholderTable.name })
            .from(cardTable)
            .innerJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId))
            .where(and(eq(cardTable.siteId, siteId), eq(cardTable.groupSetId, set!), sameSet(theirs)))
            .orderBy(asc(cardholderTable.name))
            .limit(most)
        ).map(({ name }) => name),
    })),
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
