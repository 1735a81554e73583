/** Cards whose time is over: they end by themselves, in the record as what they are, whichever server sees it first. */
import { and, asc, eq, inArray, lte, sql } from 'drizzle-orm';
import type { App } from '../../platform/http/app.ts';
import { change } from '../../platform/trail/change.ts';
import { cardTable, countCards, noteChanges } from '../cards/index.ts';
import { noteCards } from '../doors/index.ts';
import { nameOf } from './onFile.ts';

const AT_ONCE = 200;
const RAW_BITS = { id: 'server', name: 'Raw Bits' };

/** Ends them in pieces, each a change of its own. Costs those that end, along an index of the ends. */
export async function endCards(app: App, now = new Date()): Promise<number> {
  let ended = 0;
  for (;;) {
    const due = await app.db
      .select({ id: cardTable.id, siteId: cardTable.siteId })
      .from(cardTable)
      .where(and(inArray(cardTable.state, ['issued', 'active']), lte(cardTable.validTo, now)))
      .orderBy(asc(cardTable.validTo))
      .limit(AT_ONCE);
    if (due.length === 0) return ended;
    const sites = new Map<string, string[]>();
    for (const { id, siteId } of due) sites.set(siteId, [...(sites.get(siteId) ?? []), id]);
    for (const [siteId, ids] of sites) ended += await endAt(app, siteId, ids, now);
  }
}

const endAt = (app: App, siteId: string, ids: readonly string[], now: Date): Promise<number> =>
  change(app, RAW_BITS, siteId, async (tx, record) => {
    const rows = await tx
      .select()
      .from(cardTable)
      .where(and(inArray(cardTable.id, [...ids]), lte(cardTable.validTo, now)))
      .orderBy(asc(cardTable.id))
      .for('update');
    // Somebody may have given it more time, or ended it, meanwhile.
    const due = rows.filter(({ state }) => state === 'issued' || state === 'active');
    if (due.length === 0) return 0;
    const these = inArray(
      cardTable.id,
      due.map(({ id }) => id),
    );
    await tx
      .update(cardTable)
      .set({ state: 'expired', revision: sql`${cardTable.revision} + 1` })
      .where(and(eq(cardTable.siteId, siteId), these));
    for (const card of due) {
      await countCards(tx, card, -1);
      await countCards(tx, { ...card, state: 'expired' }, 1);
      record.trail({
        action: 'card expired',
        subject: nameOf(card),
        before: { id: card.id, state: card.state },
        after: { id: card.id, state: 'expired', validTo: card.validTo },
      });
    }
    await noteChanges(tx, siteId);
    await noteCards(tx, siteId, these);
    record.announce('cards', due.length > 50 ? undefined : { ids: due.map(({ id }) => id) });
    return due.length;
  });
