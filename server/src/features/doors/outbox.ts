/** What is sent to a controller: the items that wait, page by page, as they are now. */
import { canonicalJson, cardKey, FACILITY_COMPARED, formatKey, type ItemChange } from '@rawbits/core/access';
import { formatSchema } from '@rawbits/core/format';
import { and, asc, eq, gt, inArray, isNull, like, lte, ne, or, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { cardTable } from '../cards/index.ts';
import { formatVersionTable } from '../library/index.ts';
import { cardItem, cardsForControllers, hashOf } from './credential.ts';
import { wantedTexts } from './passing.ts';
import { type ControllerRow, controllerItemTable } from './tables.ts';

export const ITEMS_A_PIECE = 200;

/** An item that is to go over: what the controller has of it now, and what it is to have. */
export interface Outgoing {
  change: ItemChange;
  /** The revision that this is; null where it is taken out. */
  revision: number | null;
  loadedHash: string | null;
  hash: string | null;
}

/** The next items that wait and that this load has not sent yet, in the order of their keys after `after`. */
export async function nextOutgoing(
  db: Queryable,
  controller: ControllerRow,
  loadId: string,
  after: string,
): Promise<Outgoing[]> {
  const rows = await db
    .select({
      item: controllerItemTable.item,
      wanted: controllerItemTable.wanted,
      hash: controllerItemTable.hash,
    })
    .from(controllerItemTable)
    .where(
      and(
        eq(controllerItemTable.controllerId, controller.id),
        eq(controllerItemTable.waits, true),
        gt(controllerItemTable.item, after),
        or(isNull(controllerItemTable.sentBy), ne(controllerItemTable.sentBy, loadId)),
      ),
    )
    .orderBy(asc(controllerItemTable.item))
    .limit(ITEMS_A_PIECE);
  const texts = await textsOf(db, controller, rows);
  return rows.map(({ item, hash }) => {
    const { text, revision } = texts.get(item) ?? { text: null, revision: null };
    return {
      change: [item, text],
      revision,
      loadedHash: hash,
      hash: text === null ? null : hashOf(item, text),
    };
  });
}

type Texts = Map<string, { text: string; revision: number }>;

/** The items as they are to be; those that are not wanted are left out. */
export async function textsOf(
  db: Queryable,
  controller: ControllerRow,
  rows: readonly { item: string; wanted: number | null }[],
): Promise<Texts> {
  const wanted = rows.filter((row) => row.wanted !== null);
  const texts: Texts = new Map();
  await addCards(db, texts, idsAfter('card ', wanted));
  for (const { item, wanted: version } of wanted.filter((row) => row.item.startsWith('format '))) {
    const [row] = await db
      .select({ definition: formatVersionTable.definition })
      .from(formatVersionTable)
      .where(
        and(
          eq(formatVersionTable.formatId, item.slice(formatKey('').length)),
          eq(formatVersionTable.version, version!),
        ),
      );
    if (row) texts.set(item, { text: canonicalJson(formatSchema.parse(row.definition)), revision: version! });
  }
  if (wanted.some(({ item }) => item === FACILITY_COMPARED))
    texts.set(FACILITY_COMPARED, { text: String(controller.comparesFacility), revision: 1 });
  const passing = await wantedTexts(
    db,
    controller.id,
    wanted.map(({ item }) => item),
  );
  for (const [item, wants] of passing) texts.set(item, wants);
  return texts;
}

const idsAfter = (prefix: string, rows: readonly { item: string }[]): string[] =>
  rows.flatMap(({ item }) => (item.startsWith(prefix) ? [item.slice(prefix.length)] : []));

async function addCards(db: Queryable, texts: Texts, ids: readonly string[]): Promise<void> {
  if (ids.length === 0) return;
  const cards = await cardsForControllers(db).where(inArray(cardTable.id, [...ids]));
  for (const row of cards) {
    const [, text] = cardItem(row);
    if (text !== null) texts.set(cardKey(row.card.id), { text, revision: row.card.revision });
  }
}

/** Notes what a piece of a load sends, before it is sent. */
export async function noteSent(
  tx: Queryable,
  controllerId: string,
  loadId: string,
  piece: number,
  outgoing: readonly Outgoing[],
): Promise<void> {
  await tx
    .insert(controllerItemTable)
    .values(
      outgoing.map(({ change: [item, text], revision, hash }) => ({
        controllerId,
        item,
        sentBy: loadId,
        sentPiece: piece,
        sent: revision,
        sentHash: hash,
        sentContent: text,
      })),
    )
    .onDuplicateKeyUpdate({
      set: {
        sentBy: sql`values(sent_by)`,
        sentPiece: sql`values(sent_piece)`,
        sent: sql`values(sent)`,
        sentHash: sql`values(sent_hash)`,
        sentContent: sql`values(sent_content)`,
      },
    });
}

const sentBy = (controllerId: string, loadId: string) =>
  and(eq(controllerItemTable.controllerId, controllerId), eq(controllerItemTable.sentBy, loadId));

/** Forgets that a load has sent pieces after one: they did not arrive. */
export const unsendAfter = (tx: Queryable, controllerId: string, loadId: string, piece: number) =>
  tx
    .update(controllerItemTable)
    .set({ sentBy: null })
    .where(and(sentBy(controllerId, loadId), gt(controllerItemTable.sentPiece, piece)));

/** What a load has sent up to now, page by page, as hashes that go out of the digest and into it. */
export async function* sentHashes(db: Queryable, controllerId: string, loadId: string) {
  for (let after = ''; ; ) {
    const page = await db
      .select({ item: controllerItemTable.item, out: controllerItemTable.hash, into: controllerItemTable.sentHash })
      .from(controllerItemTable)
      .where(and(sentBy(controllerId, loadId), gt(controllerItemTable.item, after)))
      .orderBy(asc(controllerItemTable.item))
      .limit(2000);
    yield page;
    if (page.length < 2000) return;
    after = page.at(-1)!.item;
  }
}

/** The last of the first `most` items after `after` that a load sent, where there are more than that. */
export async function lastOfMany(
  db: Queryable,
  controllerId: string,
  loadId: string,
  after: string,
  most: number,
): Promise<string | undefined> {
  const rows = await db
    .select({ item: controllerItemTable.item })
    .from(controllerItemTable)
    .where(and(sentBy(controllerId, loadId), gt(controllerItemTable.item, after)))
    .orderBy(asc(controllerItemTable.item))
    .limit(most + 1);
  return rows.length > most ? rows[most - 1]!.item : undefined;
}

/**
 * Notes that what a load sent is what the controller has now, for the items after `after` and up to `upTo` or the last;
 * gives how many more cards it holds than before.
 */
export async function settleSent(
  tx: Queryable,
  controllerId: string,
  loadId: string,
  after: string,
  upTo?: string,
): Promise<number> {
  const these = and(
    sentBy(controllerId, loadId),
    gt(controllerItemTable.item, after),
    upTo === undefined ? undefined : lte(controllerItemTable.item, upTo),
  );
  const [held] = await tx
    .select({ more: sql<number>`coalesce(sum((sent is not null) - (loaded is not null)), 0)`.mapWith(Number) })
    .from(controllerItemTable)
    .where(and(these, like(controllerItemTable.item, 'card %')));
  await tx
    .delete(controllerItemTable)
    .where(and(these, isNull(controllerItemTable.wanted), isNull(controllerItemTable.sent)));
  await tx
    .update(controllerItemTable)
    .set({
      loaded: sql`${controllerItemTable.sent}`,
      hash: sql`${controllerItemTable.sentHash}`,
      content: sql`${controllerItemTable.sentContent}`,
      sentBy: null,
      sentContent: null,
    })
    .where(these);
  return held?.more ?? 0;
}
