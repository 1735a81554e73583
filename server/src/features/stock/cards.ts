/** Cards of a site: entered, issued, changed. A card is known by format, facility code and number. */

import { type Card, cardApi } from '@rawbits/api';
import { cardKey, formatKey } from '@rawbits/core/access';
import { and, asc, eq, inArray } from 'drizzle-orm';
import { isDuplicate, newId, type Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict, invalid, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { bitsOf, boxOf, boxTable, cardholderTable, cardTable, countCards, noteChanges } from '../cards/index.ts';
import { acceptedBy, checkMoved, controllerItemTable, giveUpCards, noteCards, opensOf } from '../doors/index.ts';
import { groupsIn } from '../rights/index.ts';
import { corrected, history, takeBack } from './correct.ts';
import { adoptedFormat, type Called, canonicalCard, checkRevision, nameOf } from './onFile.ts';
import { findCards } from './search.ts';

type CardRow = typeof cardTable.$inferSelect;
type Named = { id: string; name: string } | null;
type Row = { card: CardRow; holder: Named; box: Named };

type Loaded = (card: CardRow) => Card['loaded'];

/** For each of some cards, in how many of the controllers that accept its format it stands as it is here. */
async function loadedIn(db: Queryable, siteId: string, cards: readonly CardRow[]): Promise<Loaded> {
  const accepted = await acceptedBy(db, siteId);
  const items = [...cards.map(({ id }) => cardKey(id)), ...new Set(cards.map(({ formatId }) => formatKey(formatId)))];
  const waiting =
    accepted.size === 0 || cards.length === 0
      ? []
      : await db
          .select({ controllerId: controllerItemTable.controllerId, item: controllerItemTable.item })
          .from(controllerItemTable)
          .where(
            and(
              inArray(controllerItemTable.controllerId, [...accepted.keys()]),
              inArray(controllerItemTable.item, items),
              eq(controllerItemTable.waits, true),
            ),
          );
  const waits = new Set(waiting.map(({ controllerId, item }) => `${controllerId} ${item}`));
  return (card) => {
    const accepting = [...accepted].flatMap(([id, formats]) => (formats.includes(card.formatId) ? [id] : []));
    const current = accepting.filter(
      (id) => !waits.has(`${id} ${cardKey(card.id)}`) && !waits.has(`${id} ${formatKey(card.formatId)}`),
    );
    return { in: card.state === 'in stock' ? 0 : current.length, of: accepting.length };
  };
}

/** Cards as the API gives them; costs these cards. */
async function describeAll(db: Queryable, siteId: string, rows: readonly Row[]): Promise<Card[]> {
  const loaded = await loadedIn(
    db,
    siteId,
    rows.map(({ card }) => card),
  );
  const groups = await groupsIn(
    db,
    rows.map(({ card }) => card.groupSetId),
  );
  const opens = await opensOf(
    db,
    siteId,
    rows.map(({ card }) => card),
    Date.now(),
  );
  return rows.map(({ card, holder, box }) => ({
    id: card.id,
    formatId: card.formatId,
    facility: card.facility || null,
    number: card.number,
    printed: card.printed,
    state: card.state as Card['state'],
    holder,
    box,
    validFrom: card.validFrom?.toISOString() ?? null,
    validTo: card.validTo?.toISOString() ?? null,
    notes: card.notes,
    revision: card.revision,
    bits: card.bits,
    groups: card.groupSetId === null ? [] : (groups.get(card.groupSetId) ?? []),
    loaded: loaded(card),
    opens: opens.get(card.id)!,
  }));
}

async function describeOne(db: Queryable, siteId: string, id: string): Promise<Card> {
  const rows = await selection(db).where(and(eq(cardTable.id, id), eq(cardTable.siteId, siteId)));
  const [card] = await describeAll(db, siteId, rows);
  if (!card) throw notFound('card');
  return card;
}

const selection = (db: Queryable) =>
  db
    .select({
      card: cardTable,
      holder: { id: cardholderTable.id, name: cardholderTable.name },
      box: { id: boxTable.id, name: boxTable.name },
    })
    .from(cardTable)
    .leftJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId))
    .leftJoin(boxTable, eq(boxTable.id, cardTable.boxId));

const list = handle(cardApi.list, async ({ app, site, query }) => {
  const { ids, foundBy, total, more, next } = await findCards(app.db, site, query);
  const rows = ids.length === 0 ? [] : await selection(app.db).where(inArray(cardTable.id, ids));
  const byId = new Map((await describeAll(app.db, site, rows)).map((card) => [card.id, card]));
  // One that somebody took off the file meanwhile is left out, and how it was found with it.
  const here = ids.flatMap((id, i) => (byId.has(id) ? [{ card: byId.get(id)!, by: foundBy[i] }] : []));
  return { cards: here.map(({ card }) => card), foundBy: here.flatMap(({ by }) => by ?? []), total, more, next };
});

const one = handle(cardApi.one, ({ app, site, params }) => describeOne(app.db, site, params.id!));

async function checkHolder(
  tx: Queryable,
  site: string,
  holderId: string | null | undefined,
  state: string | undefined,
): Promise<string | null> {
  if (holderId == null) {
    if (state !== undefined && ['issued', 'active'].includes(state))
      throw invalid('holderId', `A card that is ${state} has a holder.`, 'Choose who holds it, or leave it in stock.');
    return null;
  }
  const [holder] = await tx
    .select()
    .from(cardholderTable)
    .where(and(eq(cardholderTable.id, holderId), eq(cardholderTable.siteId, site)));
  if (!holder) throw invalid('holderId', 'There is no such cardholder at this site.');
  if (state === 'in stock')
    throw invalid('state', 'A card in stock has no holder.', 'Issue it, or take the holder out.');
  return holder.name;
}

function checkDates(validFrom: string | null, validTo: string | null): void {
  if (validFrom && validTo && validFrom >= validTo)
    throw invalid('validTo', 'The card ends before it begins.', 'Give a later end.');
}

const instant = (text: string | null): Date | null => (text === null ? null : new Date(text));
const add = handle(cardApi.add, async ({ app, operator, site, body }) => {
  checkDates(body.validFrom, body.validTo);
  const format = await adoptedFormat(app.db, site, body.formatId);
  const canonical = canonicalCard(format, body.facility, body.number);
  try {
    const saved = await change(app, operator, site, async (tx, record) => {
      // One that is added where another is about to be moved to would stop the move half done.
      await checkMoved(tx, site);
      const holder = await checkHolder(tx, site, body.holderId, body.state);
      const id = newId();
      const boxId = await boxOf(tx, site, { formatId: body.formatId, ...canonical });
      await tx.insert(cardTable).values({
        id,
        siteId: site,
        formatId: body.formatId,
        boxId,
        ...canonical,
        bits: bitsOf(format, canonical),
        printed: body.printed,
        state: body.state,
        holderId: body.holderId,
        validFrom: instant(body.validFrom),
        validTo: instant(body.validTo),
        notes: body.notes,
        createdAt: new Date(),
      });
      const after = { id, ...body, ...canonical, holder };
      record.trail({ action: body.holderId ? 'card issued' : 'card entered', subject: nameOf(canonical), after });
      await countCards(tx, { siteId: site, formatId: body.formatId, state: body.state, boxId }, 1);
      await noteCards(tx, site, eq(cardTable.id, id));
      record.announce('cards', { ids: [id], added: true });
      return id;
    });
    return await describeOne(app.db, site, saved);
  } catch (error) {
    throw isDuplicate(error) ? onFileAlready(canonical) : error;
  }
});

const onFileAlready = (card: Called) =>
  conflict('card-on-file', `${nameOf(card)} of this format is on file already.`, 'Search for it in Stock.', 'number');

const update = handle(cardApi.update, async ({ app, operator, site, params, body }) => {
  const saved = await change(app, operator, site, async (tx, record) => {
    const own = and(eq(cardTable.id, params.id!), eq(cardTable.siteId, site));
    const [before] = await tx.select().from(cardTable).where(own).for('update');
    if (!before) throw notFound('card');
    checkRevision(before, body.revision);
    const { revision, reason, ...fields } = body;
    const correction = await corrected(tx, site, before, body);
    const merged = {
      printed: fields.printed ?? before.printed,
      state: fields.state ?? before.state,
      holderId: fields.holderId === undefined ? before.holderId : fields.holderId,
      validFrom: fields.validFrom === undefined ? before.validFrom : instant(fields.validFrom),
      validTo: fields.validTo === undefined ? before.validTo : instant(fields.validTo),
      notes: fields.notes ?? before.notes,
    };
    checkDates(merged.validFrom?.toISOString() ?? null, merged.validTo?.toISOString() ?? null);
    await checkHolder(tx, site, merged.holderId, merged.state);
    // Groups that hang on a card were given to whoever holds it, and go to nobody else.
    const groupSetId = merged.holderId === before.holderId ? before.groupSetId : null;
    const now = { ...before, ...correction, ...merged, groupSetId, revision: revision + 1 };
    // Of doors that accept the format that it had, and not the one that it has, it is to go.
    if (now.formatId !== before.formatId) await giveUpCards(tx, site, eq(cardTable.id, before.id));
    try {
      await tx
        .update(cardTable)
        .set({ ...merged, ...correction, groupSetId, revision: revision + 1 })
        .where(own);
    } catch (error) {
      throw isDuplicate(error) ? onFileAlready(now) : error;
    }
    record.trail({
      action: correction ? 'card corrected' : 'card changed',
      subject: nameOf(now),
      before: noted(before, correction),
      after: { ...noted(now, correction), ...(reason && { reason }) },
    });
    if (now.state !== before.state || now.formatId !== before.formatId || now.boxId !== before.boxId) {
      await countCards(tx, before, -1);
      await countCards(tx, now, 1);
    } else await noteChanges(tx, site);
    await noteCards(tx, site, eq(cardTable.id, before.id));
    record.announce('cards', { ids: [before.id] });
    return before.id;
  });
  // What the controllers hold of it is asked once nobody waits for this any more.
  return describeOne(app.db, site, saved);
});

/** What the trail notes of a card that was changed; what it is called and delivers where that was corrected. */
const noted = (card: CardRow, correction: object | undefined) => {
  const { id, printed, state, holderId, validFrom, validTo, notes, formatId, facility, number, bits } = card;
  const changed = { id, printed, state, holderId, validFrom, validTo, notes };
  return correction ? { ...changed, formatId, facility, number, bits } : changed;
};

const replace = handle(cardApi.replace, async ({ app, operator, site, params, body }) => {
  const saved = await change(app, operator, site, async (tx, record) => {
    const rows = await tx
      .select()
      .from(cardTable)
      .where(and(eq(cardTable.siteId, site), inArray(cardTable.id, [params.id!, body.by.id])))
      .orderBy(asc(cardTable.id))
      .for('update');
    const [old, fresh] = [params.id, body.by.id].map((id) => rows.find((row) => row.id === id));
    if (!old || !fresh) throw notFound('card');
    checkRevision(old, body.revision);
    checkRevision(fresh, body.by.revision);
    if (old.holderId === null) throw invalid('holderId', 'Nobody holds this card: there is nothing to pass on.');
    if (fresh.state !== 'in stock')
      throw conflict('not-in-stock', `${nameOf(fresh)} is ${fresh.state}, not in stock.`, 'Take another one.', 'by');
    const { holderId, groupSetId, validFrom, validTo } = old;
    const ended = { ...old, state: body.state, revision: old.revision + 1 };
    const now = { ...fresh, state: 'active', holderId, groupSetId, validFrom, validTo, revision: fresh.revision + 1 };
    for (const { id, state, holderId, groupSetId, validFrom, validTo, revision } of [ended, now])
      await tx
        .update(cardTable)
        .set({ state, holderId, groupSetId, validFrom, validTo, revision })
        .where(eq(cardTable.id, id));
    record.trail({
      action: 'card replaced',
      subject: nameOf(old),
      before: noted(old, undefined),
      after: { ...noted(ended, undefined), by: nameOf(now), ...(body.reason && { reason: body.reason }) },
    });
    record.trail({
      action: 'card changed',
      subject: nameOf(now),
      before: noted(fresh, undefined),
      after: { ...noted(now, undefined), replaces: nameOf(old) },
    });
    for (const [before, after] of [
      [old, ended],
      [fresh, now],
    ] as const) {
      await countCards(tx, before, -1);
      await countCards(tx, after, 1);
    }
    await noteCards(tx, site, inArray(cardTable.id, [old.id, fresh.id]));
    record.announce('cards', { ids: [old.id, fresh.id] });
    return fresh.id;
  });
  return describeOne(app.db, site, saved);
});

export const cardRoutes = [list, one, add, update, replace, takeBack, history];
