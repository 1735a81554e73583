/** The items of controllers from before loads went by item: made once, from the image that each was loaded with. */
import {
  type ControllerImage,
  canonicalJson,
  cardKey,
  carried,
  EMPTY_DIGEST,
  FACILITY_COMPARED,
  formatKey,
} from '@rawbits/core/access';
import { and, eq, inArray, sql } from 'drizzle-orm';
import { type Database, inTransaction, type Queryable } from '../../platform/database/index.ts';
import { installationTable } from '../../platform/database/tables.ts';
import { cardTable } from '../cards/index.ts';
import { hashOf } from './credential.ts';
import { markCards, noteController, noteFormat } from './items.ts';
import { textsOf } from './outbox.ts';
import { type ControllerRow, controllerFormatTable, controllerItemTable, controllerTable } from './tables.ts';

const DONE = 'items of controllers';
const PAGE = 1000;

export async function fillItems(db: Database): Promise<void> {
  await inTransaction(db, async (tx) => {
    const [made] = await tx.insert(installationTable).ignore().values({ name: DONE, value: '' });
    if (made.affectedRows === 0) return;
    for (const controller of await tx.select().from(controllerTable)) await fill(tx, controller);
  });
}

async function fill(tx: Queryable, controller: ControllerRow): Promise<void> {
  await noteController(tx, controller.id);
  const accepting = eq(controllerFormatTable.controllerId, controller.id);
  for (const { formatId } of await tx.select().from(controllerFormatTable).where(accepting)) {
    await noteFormat(tx, controller.siteId, formatId);
    await markCards(tx, controller.siteId, controller.id, eq(cardTable.formatId, formatId), true);
  }
  const image = controller.loadedImage as ControllerImage | null;
  if (!image) return;
  const current = await currentItems(tx, controller, image);
  const items = [
    { item: FACILITY_COMPARED, content: String(image.comparesFacility) },
    ...image.formats.map((format) => ({ item: formatKey(format.id), content: canonicalJson(format) })),
    ...image.credentials.map((credential) => ({ item: cardKey(credential.id), content: canonicalJson(credential) })),
  ].map(({ item, content }) => ({
    controllerId: controller.id,
    item,
    // Which revision it was is known only where it is as it should be now.
    loaded: current.get(item)?.text === content ? current.get(item)!.revision : -1,
    hash: hashOf(item, content),
    content: item.startsWith('card ') ? null : content,
  }));
  for (let from = 0; from < items.length; from += PAGE)
    await tx
      .insert(controllerItemTable)
      .values(items.slice(from, from + PAGE))
      .onDuplicateKeyUpdate({
        set: { loaded: sql`values(loaded)`, hash: sql`values(hash)`, content: sql`values(content)` },
      });
  await tx
    .update(controllerTable)
    .set({
      loadedImage: null,
      loadedCards: image.credentials.length,
      loadedDigest: carried(
        EMPTY_DIGEST,
        [],
        items.map(({ hash }) => hash),
      ),
    })
    .where(eq(controllerTable.id, controller.id));
}

/** What is in the image as it should be now. */
async function currentItems(tx: Queryable, controller: ControllerRow, image: ControllerImage) {
  const rows = [
    FACILITY_COMPARED,
    ...image.formats.map(({ id }) => formatKey(id)),
    ...image.credentials.map(({ id }) => cardKey(id)),
  ];
  const current = new Map<string, { text: string; revision: number }>();
  for (let from = 0; from < rows.length; from += PAGE) {
    const wanted = await tx
      .select({ item: controllerItemTable.item, wanted: controllerItemTable.wanted })
      .from(controllerItemTable)
      .where(
        and(
          eq(controllerItemTable.controllerId, controller.id),
          inArray(controllerItemTable.item, rows.slice(from, from + PAGE)),
        ),
      );
    for (const [item, value] of await textsOf(tx, controller, wanted)) current.set(item, value);
  }
  return current;
}
