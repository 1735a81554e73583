/** People from a sheet, and as one: whom each row means, what would be new or change, and entering it, all or nothing. */

import { createHash } from 'node:crypto';
import { type PeopleReview, peopleSheetApi } from '@rawbits/api';
import { canonicalJson } from '@rawbits/core/access';
import { and, asc, eq, inArray, type SQL, sql } from 'drizzle-orm';
import { newId, type Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { chunks, groupedBy } from '../../platform/lists/lists.ts';
import { conflict } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { type Mover, movesReviewed, reviseCardsOf, saveMoves, stateOf } from '../access/index.ts';
import { afterCursor, cardholderTable, cursorAt } from '../cards/index.ts';
import { groupsIn, sitesRights, takeTurn } from '../rights/index.ts';
import { cardsHeld, recorded } from './list.ts';
import { rulesOf } from './rules.ts';
import {
  FIELDS,
  type Good,
  groupNames,
  isRefusal,
  type Kept,
  keyOf,
  type OnFile,
  type Refusal,
  type Row,
  readRow,
  whom,
} from './sheetRows.ts';

/** MariaDB makes a table of a longer list first (`in_predicate_conversion_threshold`). */
const A_QUERY = 900;
const A_PIECE = 500;
const SHOWN = 100;

interface Reviewed {
  review: PeopleReview;
  good: Good[];
}

/** Who of the site a sheet may mean: whoever has one of its names or identifiers. */
async function meant(db: Queryable, site: string, rows: readonly Row[]): Promise<OnFile[]> {
  const found = new Map<string, typeof cardholderTable.$inferSelect>();
  const ask = async (which: SQL) => {
    for (const one of await db
      .select()
      .from(cardholderTable)
      .where(and(eq(cardholderTable.siteId, site), which)))
      found.set(one.id, one);
  };
  for (const some of chunks([...new Set(rows.map(({ name }) => name.trim()))], A_QUERY))
    await ask(inArray(cardholderTable.name, some));
  for (const some of chunks([...new Set(rows.flatMap(({ id }) => id.trim() || []))], A_QUERY))
    await ask(inArray(cardholderTable.id, some));
  const people = [...found.values()];
  const sets = await groupsIn(
    db,
    people.map(({ groupSetId }) => groupSetId),
  );
  return people.map(({ groupSetId, id, name, department, organisation, kind, contact, notes }) => ({
    ...{ id, name, department, organisation, kind, contact, notes },
    groups: groupSetId === null ? [] : (sets.get(groupSetId) ?? []),
  }));
}

async function reviewed(db: Queryable, site: string, rows: readonly Row[]): Promise<Reviewed> {
  const state = await stateOf(db, site);
  const rules = await rulesOf(db, site);
  const people = await meant(db, site, rows);
  const byId = new Map(people.map((one) => [one.id, one]));
  const byName = groupedBy(people, ({ name }) => keyOf(name));
  const bad: PeopleReview['bad'] = [];
  const good: Good[] = [];
  const seen = new Map<string, number>();
  const groups = groupNames(state.groups);
  for (const [i, row] of rows.entries()) {
    // Others are answered meanwhile.
    if (i % A_PIECE === 0) await new Promise((resolve) => setImmediate(resolve));
    const read = readRow(row, whom(row, byId, byName), groups, rules);
    const person = isRefusal(read)
      ? undefined
      : (read.was?.id ?? `${keyOf(read.is.name)} ${keyOf(read.is.department)}`);
    const before = person === undefined ? undefined : seen.get(person);
    const refusal: Refusal | undefined = isRefusal(read)
      ? read
      : before === undefined
        ? undefined
        : { message: `${read.is.name} stands in row ${before}, too.`, hint: 'Keep one of the two.', field: 'name' };
    if (refusal) {
      const { field, message, hint } = refusal;
      bad.push({ row: row.row, message, hint, where: { field } });
    } else if (!isRefusal(read)) {
      seen.set(person!, row.row);
      good.push(read);
    }
  }
  return { good, review: await told(db, site, state, good, bad) };
}

const changedFields = ({ was, is }: Good) => (was ? FIELDS.filter((field) => was[field] !== is[field]) : []);
const hasMoved = ({ was, groups }: Good): boolean => [...(was?.groups ?? [])].sort().join() !== groups.join();

async function told(
  db: Queryable,
  site: string,
  state: Awaited<ReturnType<typeof stateOf>>,
  good: readonly Good[],
  bad: PeopleReview['bad'],
): Promise<PeopleReview> {
  const fresh = good.filter(({ was }) => was === null);
  const changed = good.filter((one) => one.was && (hasMoved(one) || changedFields(one).length > 0));
  const names = (ids: readonly string[]) =>
    ids.map((id) => state.groups.find((group) => group.id === id)?.name ?? id).join(', ');
  const rows = changed.map((one) => ({
    row: one.row.row,
    name: one.was!.name,
    fields: [
      ...changedFields(one).map((field) => ({ field, was: one.was![field], is: one.is[field] })),
      ...(hasMoved(one) ? [{ field: 'groups', was: names(one.was!.groups), is: names(one.groups) }] : []),
    ],
  }));
  const moves: Mover[] = good
    .filter(hasMoved)
    .map(({ was, is, groups }) => ({ id: was?.id ?? null, name: is.name, was: was?.groups ?? [], is: groups }));
  const rights = await movesReviewed(db, site, state, moves);
  const text = canonicalJson({ fresh: fresh.map(({ is, groups }) => ({ ...is, groups })), rows, rights: rights.seen });
  return {
    fresh: { count: fresh.length, names: fresh.slice(0, SHOWN).map(({ is }) => is.name) },
    changed: { count: rows.length, rows: rows.slice(0, SHOWN) },
    same: good.length - fresh.length - rows.length,
    bad,
    rights,
    seen: createHash('sha256').update(text).digest('hex').slice(0, 40),
  };
}

export const reviewSheet = handle(
  peopleSheetApi.review,
  async ({ app, site, body }) => (await reviewed(app.db, site, body.rows)).review,
);

export const enterSheet = handle(peopleSheetApi.enter, ({ app, operator, site, body }) =>
  change(app, operator, site, async (tx, record) => {
    await takeTurn(tx, site);
    const { good, review } = await reviewed(tx, site, body.rows);
    if (review.seen !== body.seen)
      throw conflict(
        'reviewed-other',
        'What this sheet does is not what was shown: somebody changed people or rights meanwhile.',
        'Review it again.',
      );
    const people = good.map((one) => ({ ...one, id: one.was?.id ?? newId() }));
    const written = people.filter((one) => one.was === null || changedFields(one).length > 0);
    for (const some of chunks(written, A_PIECE))
      await tx
        .insert(cardholderTable)
        .values(some.map(({ id, is }) => ({ id, siteId: site, ...is })))
        .onDuplicateKeyUpdate({
          set: {
            ...Object.fromEntries(FIELDS.map((field) => [field, sql.raw(`values(\`${field}\`)`)])),
            revision: sql`revision + 1`,
          },
        });
    const moves = people.flatMap((one) =>
      hasMoved(one) ? [{ id: one.id, name: one.is.name, was: one.was?.groups ?? [], is: one.groups }] : [],
    );
    const renamed = people.flatMap((one) => (one.was && one.was.name !== one.is.name ? [one.id] : []));
    if (renamed.length > 0) await reviseCardsOf(tx, record, site, renamed);
    await saveMoves(tx, record, site, { moves, review: review.rights, breaking: body.breaking });
    const { fresh, changed } = review;
    for (const one of people) {
      const fields = changedFields(one);
      if (!one.was || (fields.length === 0 && !hasMoved(one))) continue;
      const of = (kept: Kept) => recorded(Object.fromEntries(fields.map((field) => [field, kept[field]])));
      record.trail({
        action: 'cardholder changed',
        subject: `cardholder ${one.is.name}`,
        before: { id: one.id, ...of(one.was), ...(hasMoved(one) && { groups: one.was.groups }) },
        after: { id: one.id, ...of(one.is), ...(hasMoved(one) && { groups: one.groups }) },
      });
    }
    record.trail({
      action: 'sheet entered',
      subject: `sheet ${body.name || `of ${good.length} people`}`,
      after: { newHolders: fresh.count, changed: changed.count, groupsOf: moves.length },
    });
    record.announce('cardholders');
    record.announce('cards');
    return { fresh: fresh.count, changed: changed.count };
  }),
);

export const sheetOut = handle(peopleSheetApi.out, async ({ app: { db }, site, query: { after, limit } }) => {
  const rows = await db
    .select()
    .from(cardholderTable)
    .where(and(eq(cardholderTable.siteId, site), after === undefined ? undefined : afterCursor(after)))
    .orderBy(asc(cardholderTable.name), asc(cardholderTable.id))
    .limit(limit + 1);
  const page = rows.slice(0, limit);
  const { groups } = await sitesRights(db, site);
  const nameOf = new Map(groups.map(({ id, name }) => [id, name]));
  const sets = await groupsIn(
    db,
    page.map(({ groupSetId }) => groupSetId),
  );
  const cards = await cardsHeld(
    db,
    page.map(({ id }) => id),
  );
  const last = page.at(-1);
  return {
    people: page.map(({ id, name, department, organisation, kind, contact, notes, groupSetId }) => ({
      ...{ id, name, department, organisation, kind, contact, notes },
      groups: (groupSetId === null ? [] : (sets.get(groupSetId) ?? [])).flatMap((group) => nameOf.get(group) ?? []),
      cards: cards.get(id) ?? 0,
    })),
    next: rows.length > limit && last ? cursorAt(last) : null,
  };
});
