/** Putting right what was entered wrongly: another format, facility code or number; or taking the card back. What it was stays in the trail. */
import { type cardChangeSchema, cardApi as routes, type TrailEntry } from '@rawbits/api';
import { and, eq, inArray, like } from 'drizzle-orm';
import type { z } from 'zod';
import type { Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { entriesOf } from '../../platform/trail/entries.ts';
import { trailTable } from '../../platform/trail/tables.ts';
import { bitsOf, boxOf, cardTable, countCards } from '../cards/index.ts';
import { checkMoved, giveUpCards } from '../doors/index.ts';
import { encodedTable } from '../plans/index.ts';
import { runCardTable } from '../runs/index.ts';
import { adoptedFormat, type Called, canonicalCard, checkRevision, nameOf } from './onFile.ts';

type CardRow = typeof cardTable.$inferSelect;
type Change = z.output<typeof cardChangeSchema>;

/** Throws where a chip holds this number, or is about to: another number on file would not be the one on the card. */
export async function checkNotEncoded(tx: Queryable, card: CardRow): Promise<void> {
  const [encoded] = await tx
    .select({ id: encodedTable.cardId })
    .from(encodedTable)
    .where(and(eq(encodedTable.cardId, card.id), inArray(encodedTable.state, ['begun', 'whole'])))
    .limit(1);
  const [held] = await tx.select().from(runCardTable).where(eq(runCardTable.holds, card.id)).limit(1);
  if (encoded || held)
    throw conflict(
      'card-encoded',
      `${nameOf(card)} ${encoded ? 'was written onto a chip' : 'is to be encoded in a run'} as it is.`,
      encoded ? 'Hand the chip back first, or withdraw the card.' : 'Take it out of the run first.',
    );
}

/** What a correction makes of a card; undefined where its format, code and number stay as they are. */
export async function corrected(
  tx: Queryable,
  site: string,
  before: CardRow,
  asked: Change,
): Promise<(Called & { formatId: string; bits: string | null; boxId: string | null }) | undefined> {
  const formatId = asked.formatId ?? before.formatId;
  const facility = asked.facility === undefined ? before.facility || null : asked.facility;
  const number = asked.number ?? before.number;
  if (formatId === before.formatId && (facility ?? '') === before.facility && number === before.number)
    return undefined;
  await checkMoved(tx, site);
  await checkNotEncoded(tx, before);
  const format = await adoptedFormat(tx, site, formatId);
  const called = canonicalCard(format, facility, number);
  const boxId = await boxOf(tx, site, { formatId, ...called });
  return { formatId, ...called, bits: bitsOf(format, called), boxId };
}

export const takeBack = handle(routes.takeBack, ({ app, operator, site, params, query }) =>
  change(app, operator, site, async (tx, record) => {
    const own = and(eq(cardTable.id, params.id!), eq(cardTable.siteId, site));
    const [card] = await tx.select().from(cardTable).where(own).for('update');
    if (!card) throw notFound('card');
    checkRevision(card, query.revision);
    await checkMoved(tx, site);
    await checkNotEncoded(tx, card);
    const { createdAt, revision, numberKey, siteId, ...before } = card;
    // The doors that have it are to have it no more; what they have is known by its id.
    await giveUpCards(tx, site, eq(cardTable.id, card.id));
    await tx.delete(cardTable).where(own);
    await countCards(tx, card, -1);
    record.trail({ action: 'card taken back', subject: nameOf(card), before });
    record.announce('cards', { ids: [card.id], added: true });
    return {};
  }),
);

/** A card is corrected seldom: so many earlier numbers are followed. */
const EARLIER_NUMBERS = 12;
const MOST_ENTRIES = 200;

/** Which card an entry is of; undefined in those from before it was noted. */
const idOf = ({ before, after }: TrailEntry): unknown =>
  (after as { id?: string } | null)?.id ?? (before as { id?: string } | null)?.id;

/** What was done with a card, under all the numbers that it has had; costs its entries. */
async function historyOf(db: Queryable, site: string, card: CardRow): Promise<TrailEntry[]> {
  const found = new Map<string, TrailEntry>();
  const asked = new Set<string>();
  for (let open = [nameOf(card)]; open.length > 0 && asked.size < EARLIER_NUMBERS; ) {
    for (const name of open) asked.add(name);
    const entries = await entriesOf(
      db,
      and(eq(trailTable.chain, site), inArray(trailTable.subject, open), like(trailTable.action, 'card %')),
      MOST_ENTRIES,
    );
    const own = entries.filter((entry) => (idOf(entry) ?? card.id) === card.id);
    for (const entry of own) found.set(entry.name, entry);
    const earlier = own
      .filter(({ action }) => action === 'card corrected')
      .map(({ before }) => nameOf(before as unknown as Called));
    open = earlier.filter((name) => !asked.has(name));
  }
  return [...found.values()].sort((a, b) => (a.name < b.name ? 1 : -1)).slice(0, MOST_ENTRIES);
}

export const history = handle(routes.history, async ({ app, site, params }) => {
  const [card] = await app.db
    .select()
    .from(cardTable)
    .where(and(eq(cardTable.id, params.id!), eq(cardTable.siteId, site)));
  if (!card) throw notFound('card');
  return historyOf(app.db, site, card);
});
