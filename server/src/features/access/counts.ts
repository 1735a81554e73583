/** How many people pass by their groups alone, and who they are first by name: by the sets of groups that they are in. */
import { and, asc, count, eq, gt, inArray, isNull, or, type SQL, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { Queryable } from '../../platform/database/index.ts';
import { chunks } from '../../platform/lists/lists.ts';
import { cardholderTable, cardTable } from '../cards/index.ts';

/** A card that is not active but may become so without being handed to anybody. */
const WAITING_STATES = ['issued', 'suspended'];

type Cards = typeof cardTable;
/** A holder's cards, beside the one that a query is about. */
const theirs = alias(cardTable, 'theirs') as unknown as Cards;

/** A card that a controller lets in on some day to come. */
export const opens = (card: Cards = cardTable): SQL<number> =>
  sql<number>`(${card.state} = 'active' and (${card.validTo} is null or ${gt(card.validTo, new Date())}))`;
export const waits = (card: Cards = cardTable): SQL => inArray(card.state, WAITING_STATES);

export const isTrue = (flag: unknown): boolean => Number(flag) === 1;
export type When = 'now' | 'later';

/** Whether the holder whom the query around it is about has such a card. */
const has = (which: SQL): SQL =>
  sql`exists (select 1 from ${cardTable} ${sql.identifier('theirs')} where ${theirs.holderId} = ${cardholderTable.id} and ${which})`;

/** When somebody passes by their groups alone: now with a card that opens; later, too, where no card of theirs opens. */
export const plainWhen = (): SQL<When | ''> => sql<When | ''>`case
  when ${has(sql`${isNull(theirs.groupSetId)} and ${opens(theirs)}`)} then 'now'
  when ${has(sql`${isNull(theirs.groupSetId)} and ${waits(theirs)}`)} or not ${has(opens(theirs))} then 'later'
  else '' end`;

/** So many sets are counted in one statement. */
const SETS_TOGETHER = 1000;

/** How many of a set pass by their groups alone, and who they are: each set is counted once. */
export class PlainCounts {
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
