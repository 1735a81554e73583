/** Filters of the cards: what each narrows them to, and those that were given a name. */
import { type CardFilter, filterApi } from '@rawbits/api';
import { and, asc, eq, exists, gte, inArray, isNotNull, not, or, type SQL, sql } from 'drizzle-orm';
import { newId, type Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict, invalid, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { boxTable, cardholderTable, cardTable, formatsOnFile } from '../cards/index.ts';
import { eventTable } from '../doors/index.ts';
import { adoptedFormats } from '../library/index.ts';
import { accessGroupTable, setsWith } from '../rights/index.ts';
import { isIn } from './reports.ts';
import { savedFilterTable } from './tables.ts';

/** So many are listed in a query one by one: MariaDB makes a table of a longer list first. */
const FEW = 900;

/** So many filters a site keeps. */
const MOST_FILTERS = 200;

/** What a filter narrows the cards to, its search left out. Costs the sets of groups of the site where it names one, and up to `FEW` people or events. */
export async function narrowing(
  db: Queryable,
  siteId: string,
  { state, report, box, formatId, facility, group, seenSince, notSeenSince }: CardFilter,
): Promise<SQL | undefined> {
  return and(
    state === undefined ? undefined : eq(cardTable.state, state),
    report && isIn(report),
    box === undefined ? undefined : eq(cardTable.boxId, box),
    formatId === undefined ? undefined : eq(cardTable.formatId, formatId),
    facility === undefined ? undefined : eq(cardTable.facility, BigInt(facility).toString()),
    group === undefined ? undefined : await inGroup(db, siteId, group),
    seenSince === undefined ? undefined : await wasSeen(db, siteId, seenSince),
    notSeenSince === undefined ? undefined : not(seenAt(notSeenSince)),
  );
}

/** Whether a card is in a group, by itself or by its holder. */
async function inGroup(db: Queryable, siteId: string, group: string): Promise<SQL | undefined> {
  const ids = ['', ...(await setsWith(db, siteId, group))];
  const members = inArray(cardholderTable.groupSetId, ids);
  const few = await db
    .select({ id: cardholderTable.id })
    .from(cardholderTable)
    .where(and(eq(cardholderTable.siteId, siteId), members))
    .limit(FEW + 1);
  // Along the cards of a few people; of many, along all cards, of which as many are theirs.
  const holds =
    few.length <= FEW
      ? inArray(cardTable.holderId, few.length === 0 ? [''] : few.map(({ id }) => id))
      : exists(
          db
            .select({ id: cardholderTable.id })
            .from(cardholderTable)
            .where(and(eq(cardholderTable.id, cardTable.holderId), members)),
        );
  return and(isNotNull(cardTable.holderId), or(inArray(cardTable.groupSetId, ids), holds));
}

const seenAt = (since: string): SQL =>
  exists(
    sql`(select 1 from ${eventTable} where ${eventTable.cardId} = ${cardTable.id} and ${eventTable.at} >= ${sql.param(new Date(since), eventTable.at)})`,
  );

/** Whether a card was at a door since then: along the events where there are few, else card by card. */
async function wasSeen(db: Queryable, siteId: string, since: string): Promise<SQL> {
  const few = await db
    .selectDistinct({ id: eventTable.cardId })
    .from(eventTable)
    .where(and(eq(eventTable.siteId, siteId), gte(eventTable.at, new Date(since)), isNotNull(eventTable.cardId)))
    .limit(FEW + 1);
  return few.length > FEW ? seenAt(since) : inArray(cardTable.id, ['', ...few.map(({ id }) => id!)]);
}

/** Throws where a filter names something that is not of the site. */
async function checkNamed(tx: Queryable, siteId: string, { group, box, formatId }: CardFilter): Promise<void> {
  const has = async (table: typeof accessGroupTable | typeof boxTable, id: string | undefined, field: string) => {
    if (id === undefined) return;
    if ((await tx.$count(table, and(eq(table.id, id), eq(table.siteId, siteId)))) === 0)
      throw invalid(`filter.${field}`, 'There is no such thing at this site.', 'Choose one of those listed.');
  };
  await has(accessGroupTable, group, 'group');
  await has(boxTable, box, 'box');
  if (formatId === undefined) return;
  const known = [
    ...(await adoptedFormats(tx, siteId)).map(({ format }) => format.id),
    ...(await formatsOnFile(tx, siteId)),
  ];
  if (!known.includes(formatId))
    throw invalid('filter.formatId', 'The site has no cards of this format, and does not use it.');
}

const described = ({ siteId: _, ...row }: typeof savedFilterTable.$inferSelect) => ({
  ...row,
  filter: row.filter as CardFilter,
  savedAt: row.savedAt.toISOString(),
});

const list = handle(filterApi.list, async ({ app: { db }, site }) =>
  (
    await db
      .select()
      .from(savedFilterTable)
      .where(eq(savedFilterTable.siteId, site))
      .orderBy(asc(savedFilterTable.name))
  ).map(described),
);

const save = handle(filterApi.save, ({ app, operator, site, body: { name, filter } }) =>
  change(app, operator, site, async (tx, record) => {
    await checkNamed(tx, site, filter);
    const own = eq(savedFilterTable.siteId, site);
    if ((await tx.$count(savedFilterTable, own)) >= MOST_FILTERS)
      throw conflict('too-many', `${MOST_FILTERS} filters are kept already.`, 'Take one away first.');
    const row = { filter, savedBy: operator.name, savedAt: new Date() };
    await tx
      .insert(savedFilterTable)
      .values({ id: newId(), siteId: site, name, ...row })
      .onDuplicateKeyUpdate({ set: row });
    const [kept] = await tx
      .select()
      .from(savedFilterTable)
      .where(and(own, eq(savedFilterTable.name, name)));
    record.trail({ action: 'filter saved', subject: `filter ${name}`, after: filter });
    record.announce('filters');
    return described(kept!);
  }),
);

const remove = handle(filterApi.remove, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    const own = and(eq(savedFilterTable.id, params.id!), eq(savedFilterTable.siteId, site));
    const [before] = await tx.select().from(savedFilterTable).where(own);
    if (!before) throw notFound('filter');
    await tx.delete(savedFilterTable).where(own);
    record.trail({ action: 'filter removed', subject: `filter ${before.name}`, before: before.filter });
    record.announce('filters');
    return {};
  }),
);

export const filterRoutes = [list, save, remove];
