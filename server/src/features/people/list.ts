/** The cardholders of a site by name, and new ones. */

import { cardholderApi } from '@rawbits/api';
import { and, asc, count, eq, inArray, sql } from 'drizzle-orm';
import { newId, type Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { change } from '../../platform/trail/change.ts';
import { saveChange } from '../access/index.ts';
import { afterCursor, cardholderTable, cardTable, cursorAt, holdersNamed } from '../cards/index.ts';
import { setsWith, takeTurn } from '../rights/index.ts';
import { broughtTo, rulesOf } from './rules.ts';

/** How many cards each of some cardholders holds. */
export async function cardsHeld(db: Queryable, ids: readonly string[]): Promise<Map<string, number>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ holderId: cardTable.holderId, cards: count() })
    .from(cardTable)
    .where(inArray(cardTable.holderId, [...ids]))
    .groupBy(cardTable.holderId);
  return new Map(rows.map(({ holderId, cards }) => [holderId!, cards]));
}

export const list = handle(cardholderApi.list, async ({ app, site, query }) => {
  const { search = '', without, kind, organisation, group, after, limit } = query;
  const found = search.trim() === '' ? undefined : await holdersNamed(app.db, site, search.trim());
  if (found?.length === 0) return { cardholders: [], next: null };
  const rows = await app.db
    .select({
      id: cardholderTable.id,
      name: cardholderTable.name,
      department: cardholderTable.department,
      organisation: cardholderTable.organisation,
      kind: cardholderTable.kind,
    })
    .from(cardholderTable)
    .where(
      and(
        eq(cardholderTable.siteId, site),
        found && inArray(cardholderTable.id, found),
        kind === undefined ? undefined : eq(cardholderTable.kind, kind),
        organisation === undefined ? undefined : eq(cardholderTable.organisation, organisation),
        group === undefined
          ? undefined
          : inArray(cardholderTable.groupSetId, ['', ...(await setsWith(app.db, site, group))]),
        without && sql`not exists (select 1 from ${cardTable} where ${cardTable.holderId} = ${cardholderTable.id})`,
        after === undefined ? undefined : afterCursor(after),
      ),
    )
    .orderBy(asc(cardholderTable.name), asc(cardholderTable.id))
    .limit(limit + 1);
  const page = rows.slice(0, limit);
  const cards = await cardsHeld(
    app.db,
    page.map(({ id }) => id),
  );
  const last = page.at(-1);
  return {
    cardholders: page.map((holder) => ({ ...holder, cards: cards.get(holder.id) ?? 0 })),
    next: rows.length > limit && last ? cursorAt(last) : null,
  };
});

/** What the record keeps of a cardholder: not how they are reached, nor what is noted of them. */
export const recorded = <T extends { contact?: string | undefined; notes?: string | undefined }>({
  contact,
  notes,
  ...rest
}: T) => ({ ...rest, ...(contact && { contact: 'given' }), ...(notes && { notes: 'given' }) });

export const add = handle(cardholderApi.add, async ({ app, operator, site, body }) => {
  const { groups } = broughtTo(await rulesOf(app.db, site), body);
  return change(app, operator, site, async (tx, record) => {
    if (groups.length > 0) await takeTurn(tx, site);
    const id = newId();
    await tx.insert(cardholderTable).values({ id, siteId: site, ...body });
    record.trail({ action: 'cardholder added', subject: `cardholder ${body.name}`, after: { id, ...recorded(body) } });
    record.announce('cardholders', { ids: [id], added: true });
    // They are let in as anybody is: not where an assertion would break.
    if (groups.length > 0)
      await saveChange(tx, record, site, {
        change: { kind: 'members', add: groups, remove: [], holders: [id] },
        breaking: false,
      });
    const { name, department, organisation, kind } = body;
    return { id, name, department, organisation, kind, cards: 0 };
  });
});
