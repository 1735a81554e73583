/** Filters of the cards: what each narrows them to, and those that were given a name. */
import { type CardFilter, filterApi } from '@rawbits/api';
import { and, asc, eq, exists, gte, inArray, isNotNull, not, or, type SQL } from 'drizzle-orm';
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

/** So many filters a site keeps. */
const MOST_FILTERS = 200;

/** What a filter narrows the cards to, its search left out. Costs the sets of groups of the site where it names one. */
export async function narrowing(
  db: Queryable,
  siteId: string,
  { state, report, box, formatId, facility, group, seenSince, notSeenSince }: CardFilter,
): Promise<SQL | undefined> {
  const seen = (since: string) =>
    exists(
      db
        .select({ id: eventTable.id })
        .from(eventTable)
        .where(and(eq(eventTable.cardId, cardTable.id), gte(eventTable.at, new Date(since)))),
    );
  return and(
    state === undefined ? undefined : eq(cardTable.state, state),
    report && isIn(report),
    box === undefined ? undefined : eq(cardTable.boxId, box),
    formatId === undefined ? undefined : eq(cardTable.formatId, formatId),
    facility === undefined ? undefined : eq(cardTable.facility, BigInt(facility).toString()),
    group === undefined ? undefined : await inGroup(db, siteId, group),
    seenSince === undefined ? undefined : seen(seenSince),
    notSeenSince === undefined ? undefined : not(seen(notSeenSince)),
  );
}

/** Whether a card is in a group, by itself or by its holder. */
async function inGroup(db: Queryable, siteId: string, group: string): Promise<SQL | undefined> {
  const ids = ['', ...(await setsWith(db, siteId, group))];
  const holders = db
    .select({ id: cardholderTable.id })
    .from(cardholderTable)
    .where(and(eq(cardholderTable.siteId, siteId), inArray(cardholderTable.groupSetId, ids)));
  return and(
    isNotNull(cardTable.holderId),
    or(inArray(cardTable.groupSetId, ids), inArray(cardTable.holderId, holders)),
  );
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
