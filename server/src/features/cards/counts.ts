/** How many cards a site has, kept as they come and go: nobody counts them. */
import { and, eq, inArray, ne, sql, sum } from 'drizzle-orm';
import { type Database, inTransaction, type Queryable } from '../../platform/database/index.ts';
import { installationTable } from '../../platform/database/tables.ts';
import { boxCountTable, cardCountTable, cardTable } from './tables.ts';

const SLOTS = 8;
const DONE = 'counts of cards';

/** Counts `by` cards more, or fewer; where they are of a box, in that, too. */
export async function countCards(
  tx: Queryable,
  { siteId, formatId, state, boxId }: { siteId: string; formatId: string; state: string; boxId?: string | null },
  by: number,
): Promise<void> {
  await count(tx, { siteId, formatId, state }, by, 1);
  if (boxId == null) return;
  await tx
    .insert(boxCountTable)
    .values({ boxId, siteId, state, slot: anySlot(), cards: by })
    .onDuplicateKeyUpdate({ set: { cards: sql`${boxCountTable.cards} + ${by}` } });
}

const anySlot = (): number => Math.floor(Math.random() * SLOTS);

/** How many cards each of some boxes has in each state that some are in. */
export async function countsOfBoxes(
  db: Queryable,
  ids: readonly string[],
): Promise<Map<string, Record<string, number>>> {
  const counts = new Map<string, Record<string, number>>(ids.map((id) => [id, {}]));
  if (ids.length === 0) return counts;
  const rows = await db
    .select({ boxId: boxCountTable.boxId, state: boxCountTable.state, cards: sum(boxCountTable.cards) })
    .from(boxCountTable)
    .where(inArray(boxCountTable.boxId, [...ids]))
    .groupBy(boxCountTable.boxId, boxCountTable.state);
  for (const { boxId, state, cards } of rows) if (Number(cards) !== 0) counts.get(boxId)![state] = Number(cards);
  return counts;
}

/** Notes that cards of a site were changed which stay what they are counted as. */
export const noteChanges = (tx: Queryable, siteId: string, changes = 1): Promise<void> =>
  count(tx, { siteId, formatId: '', state: '' }, 0, changes);

async function count(
  tx: Queryable,
  { siteId, formatId, state }: { siteId: string; formatId: string; state: string },
  by: number,
  changes: number,
): Promise<void> {
  await tx
    .insert(cardCountTable)
    .values({ siteId, formatId, state, slot: anySlot(), cards: by, changes })
    .onDuplicateKeyUpdate({
      set: { cards: sql`${cardCountTable.cards} + ${by}`, changes: sql`${cardCountTable.changes} + ${changes}` },
    });
}

/** How often cards of a site were put on file or changed: what was worked out on them stands while this does. */
export async function changesOfCards(db: Queryable, siteId: string): Promise<string> {
  const [row] = await db
    .select({ changes: sum(cardCountTable.changes) })
    .from(cardCountTable)
    .where(eq(cardCountTable.siteId, siteId));
  return row?.changes ?? '0';
}

/** How many cards of a format a site has. */
export async function cardsOfFormat(db: Queryable, siteId: string, formatId: string): Promise<number> {
  const [row] = await db
    .select({ cards: sum(cardCountTable.cards) })
    .from(cardCountTable)
    .where(and(eq(cardCountTable.siteId, siteId), eq(cardCountTable.formatId, formatId)));
  return Number(row?.cards ?? 0);
}

/** The formats of which a site has cards. */
export async function formatsOnFile(db: Queryable, siteId: string): Promise<string[]> {
  const rows = await db
    .select({ formatId: cardCountTable.formatId })
    .from(cardCountTable)
    .where(eq(cardCountTable.siteId, siteId))
    .groupBy(cardCountTable.formatId)
    .having(sql`sum(${cardCountTable.cards}) > 0`);
  return rows.map(({ formatId }) => formatId).sort();
}

/** How many cards a site has, all or in one state. */
export async function cardsOnFile(db: Queryable, siteId: string, state?: string): Promise<number> {
  const own = eq(cardCountTable.siteId, siteId);
  const [row] = await db
    .select({ cards: sum(cardCountTable.cards) })
    .from(cardCountTable)
    .where(state === undefined ? own : and(own, eq(cardCountTable.state, state)));
  return Number(row?.cards ?? 0);
}

/** How many cards of a site belong into controllers, by format: all but those in stock. */
export async function cardsForDoors(
  db: Queryable,
  siteId: string,
  formats?: readonly string[],
): Promise<Map<string, number>> {
  const rows = await db
    .select({ formatId: cardCountTable.formatId, cards: sum(cardCountTable.cards) })
    .from(cardCountTable)
    .where(
      and(
        eq(cardCountTable.siteId, siteId),
        ne(cardCountTable.state, 'in stock'),
        formats && inArray(cardCountTable.formatId, [...formats, '']),
      ),
    )
    .groupBy(cardCountTable.formatId);
  return new Map(rows.map(({ formatId, cards }) => [formatId, Number(cards ?? 0)]));
}

/** Counts, once, the cards from before they were counted. */
export async function fillCounts(db: Database): Promise<void> {
  await inTransaction(db, async (tx) => {
    const [made] = await tx.insert(installationTable).ignore().values({ name: DONE, value: '' });
    if (made.affectedRows === 0) return;
    await tx.execute(sql`insert into ${cardCountTable} (site_id, format_id, state, slot, cards, changes)
      select site_id, format_id, state, 0, count(*), count(*) from ${cardTable} group by site_id, format_id, state`);
  });
}
