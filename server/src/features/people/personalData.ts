/** What law asks of personal data: all that is kept of somebody in one answer, and its erasure. */
import { cardholderApi, type TrailEntry } from '@rawbits/api';
import { and, desc, eq, inArray, ne, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { entriesOf } from '../../platform/trail/entries.ts';
import { trailTable } from '../../platform/trail/tables.ts';
import { cardholderTable, cardTable, noteChanges } from '../cards/index.ts';
import { eventTable, nameEvenGone, noteCards, readerTable } from '../doors/index.ts';
import { describeHolder, type HolderRow, holderToChange } from './person.ts';
import { photographOf } from './photograph.ts';
import { photographTable, pinTable } from './tables.ts';

const EVENTS = 1000;
const EARLIER_NAMES = 20;
/** What stands in the place of a name that was erased. */
const ERASED = 'somebody who was erased';

const idIn = (value: unknown): string | undefined => (value as { id?: string } | null)?.id;
const nameIn = (value: unknown): string | undefined => (value as { name?: string } | null)?.name;

/** What the record has of somebody, under the names that they had before, too; and those names. */
async function recordOf(db: Queryable, site: string, { id, name }: { id: string; name: string }) {
  const names = new Set<string>();
  const entries: TrailEntry[] = [];
  for (let open = [name]; open.length > 0 && names.size < EARLIER_NAMES; ) {
    for (const one of open) names.add(one);
    const subjects = open.map((one) => `cardholder ${one}`);
    const found = await entriesOf(db, and(eq(trailTable.chain, site), inArray(trailTable.subject, subjects)), EVENTS);
    const own = found.filter(({ before, after }) => (idIn(after) ?? idIn(before) ?? id) === id);
    entries.push(...own);
    open = [...new Set(own.flatMap(({ before }) => nameIn(before) ?? []))].filter((one) => !names.has(one));
  }
  return { names: [...names], entries: entries.sort((a, b) => (a.name < b.name ? 1 : -1)) };
}

export const exported = handle(cardholderApi.export, async ({ app: { db }, site, params }) => {
  const cardholder = await describeHolder(db, site, params.id!);
  const { names, entries } = await recordOf(db, site, cardholder);
  const cards = await db.select().from(cardTable).where(eq(cardTable.holderId, cardholder.id));
  const events = await db
    .select({
      at: eventTable.at,
      reader: nameEvenGone(readerTable.name, eventTable.readerId),
      outcome: eventTable.outcome,
      reason: eventTable.reason,
    })
    .from(eventTable)
    .leftJoin(readerTable, eq(readerTable.id, eventTable.readerId))
    .where(
      and(
        eq(eventTable.siteId, site),
        inArray(eventTable.cardId, ['', ...cards.map(({ id }) => id)]),
        inArray(eventTable.holder, names),
      ),
    )
    .orderBy(desc(eventTable.at))
    .limit(EVENTS);
  return {
    cardholder,
    cards: cards.map(
      ({ id, formatId, facility, number, printed, state, validFrom, validTo, notes, revision, bits }) => ({
        ...{ id, formatId, number, printed, notes, revision, bits },
        facility: facility || null,
        state: state as 'active',
        validFrom: validFrom?.toISOString() ?? null,
        validTo: validTo?.toISOString() ?? null,
      }),
    ),
    photograph: (await photographOf(db, site, cardholder.id)) ?? null,
    events: events.map(({ at, ...event }) => ({ at: at.toISOString(), ...event })),
    record: entries,
  };
});

export const erase = handle(cardholderApi.erase, ({ app, operator, site, params, query }) =>
  change(app, operator, site, async (tx, record) => {
    const holder = await holderToChange(tx, site, params.id!, query.revision);
    const cards = await tx.select().from(cardTable).where(eq(cardTable.holderId, holder.id)).for('update');
    const held = cards.filter(({ state }) => ['issued', 'active', 'suspended'].includes(state));
    if (held.length > 0)
      throw conflict(
        'holds-cards',
        `${holder.name} still holds ${held.length === 1 ? 'a card' : `${held.length} cards`}.`,
        'Take them back, or withdraw them, first.',
      );
    const ids = cards.map(({ id }) => id);
    if (ids.length > 0) {
      const these = inArray(cardTable.id, ids);
      await tx
        .update(cardTable)
        .set({ holderId: null, groupSetId: null, revision: sql`${cardTable.revision} + 1` })
        .where(these);
      await noteChanges(tx, site);
      await noteCards(tx, site, these);
      record.announce('cards', { ids: ids.slice(0, 50) });
    }
    const { names } = await recordOf(tx, site, holder);
    for (const name of names) await eraseFromEvents(tx, { ...holder, name }, cards);
    await tx.delete(pinTable).where(eq(pinTable.holderId, holder.id));
    await tx.delete(photographTable).where(eq(photographTable.holderId, holder.id));
    await tx.delete(cardholderTable).where(eq(cardholderTable.id, holder.id));
    record.trail({
      action: 'cardholder erased',
      subject: `cardholder ${holder.id}`,
      after: { id: holder.id, cards: ids.length },
    });
    record.announce('cardholders', { ids: [holder.id] });
    record.announce('event');
    return {};
  }),
);

/**
 * Takes a name out of what happened at doors, of what it was the holder in, and of advice about a card that was not loaded;
 * where somebody else has the name, only with these cards. Looks through the events of the site.
 */
async function eraseFromEvents(
  tx: Queryable,
  { id, siteId, name }: HolderRow,
  cards: readonly (typeof cardTable.$inferSelect)[],
): Promise<void> {
  const namesake = and(eq(cardholderTable.siteId, siteId), eq(cardholderTable.name, name), ne(cardholderTable.id, id));
  const isOnly = (await tx.$count(cardholderTable, namesake)) === 0;
  const here = eq(eventTable.siteId, siteId);
  const ids = ['', ...cards.map((card) => card.id)];
  await tx
    .update(eventTable)
    .set({
      holder: null,
      reason: sql`replace(${eventTable.reason}, ${name}, ${ERASED})`,
      advice: sql`replace(${eventTable.advice}, ${name}, ${ERASED})`,
    })
    .where(and(here, eq(eventTable.holder, name), isOnly ? undefined : inArray(eventTable.cardId, ids)));
  const told = (who: string): string => `on file for ${who}, but not loaded`;
  const bits = ['', ...cards.flatMap((card) => card.bits ?? [])];
  await tx
    .update(eventTable)
    .set({ advice: sql`replace(${eventTable.advice}, ${told(name)}, ${told(ERASED)})` })
    .where(
      and(
        here,
        sql`locate(${told(name)}, ${eventTable.advice}) > 0`,
        isOnly ? undefined : inArray(eventTable.bits, bits),
      ),
    );
}
