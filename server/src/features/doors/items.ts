/**
 * What each controller should have, item by item, kept as things change. A change of one card costs as many rows as
 * controllers accept its format, however many cards there are.
 */
import { FACILITY_COMPARED, formatKey } from '@rawbits/core/access';
import { and, eq, inArray, isNotNull, like, type SQL, sql } from 'drizzle-orm';
import { newId, type Queryable } from '../../platform/database/index.ts';
import { besideJobs } from '../../platform/jobs/index.ts';
import { cardTable } from '../cards/index.ts';
import { siteFormatTable } from '../library/index.ts';
import { cardItem, cardsForControllers, hashOf } from './credential.ts';
import { controllerFormatTable, controllerItemTable, controllerTable } from './tables.ts';

/** The kind of the job that marks cards at a controller (`marking.ts`). */
export const MARKING = 'marking';

/** Above so many cards it is not looked whether a change was only taken back. */
const LOOKED_AT = 100;

const itemOfCard = sql`concat('card ', ${cardTable.id})`;

/**
 * Notes that cards of a site have changed, those for which `which` (over the table of cards) holds: their revision is
 * what the controllers that accept their format should have; of those in stock they should have nothing.
 */
export async function noteCards(tx: Queryable, siteId: string, which: SQL): Promise<void> {
  await besideJobs(tx, siteId, MARKING);
  await want(tx, siteId, which);
  await withdraw(tx, siteId, sql`${which} and ${cardTable.state} = 'in stock'`);
  await forgetTakenBack(tx, siteId, which);
}

/** Notes that the controllers of a site should have some cards no more, before those are taken off the file or get another format. */
export async function giveUpCards(tx: Queryable, siteId: string, which: SQL): Promise<void> {
  await besideJobs(tx, siteId, MARKING);
  await withdraw(tx, siteId, which);
}

/** Cards that the controllers which accept their format, or one of them, should have. */
const want = (tx: Queryable, siteId: string, which: SQL, controllerId?: string) =>
  tx.execute(sql`insert into ${controllerItemTable} (controller_id, item, wanted)
    select ${controllerTable.id}, ${itemOfCard}, ${cardTable.revision}
    from ${cardTable}
    straight_join ${controllerTable} on ${controllerTable.siteId} = ${cardTable.siteId}
    straight_join ${controllerFormatTable} on ${controllerFormatTable.controllerId} = ${controllerTable.id}
      and ${controllerFormatTable.formatId} = ${cardTable.formatId}
    where ${cardTable.siteId} = ${siteId} and ${which} and ${cardTable.state} <> 'in stock'
      ${controllerId === undefined ? sql`` : sql`and ${controllerTable.id} = ${controllerId}`}
    on duplicate key update wanted = values(wanted)`);

/** Cards that the controllers of a site, or one of them, should not have any more. */
async function withdraw(tx: Queryable, siteId: string, which: SQL, controllerId?: string): Promise<void> {
  const joined = sql`${cardTable}
    straight_join ${controllerTable} on ${controllerTable.siteId} = ${cardTable.siteId}
    straight_join ${controllerItemTable} on ${controllerItemTable.controllerId} = ${controllerTable.id}
      and ${controllerItemTable.item} = ${itemOfCard}`;
  const where = sql`${cardTable.siteId} = ${siteId} and ${which}
    ${controllerId === undefined ? sql`` : sql`and ${controllerTable.id} = ${controllerId}`}`;
  await tx.execute(sql`update ${joined} set ${controllerItemTable.wanted} = null where ${where}`);
  // What is neither wanted nor loaded, nor under way, has no row.
  await tx.execute(sql`delete ${controllerItemTable} from ${joined}
    where ${where} and ${controllerItemTable.loaded} is null and ${controllerItemTable.sentBy} is null`);
}

/** A card that is again as a controller has it does not wait: of few cards it is looked whether they are. */
async function forgetTakenBack(tx: Queryable, siteId: string, which: SQL): Promise<void> {
  const changed = await cardsForControllers(tx)
    .where(and(eq(cardTable.siteId, siteId), which))
    .limit(LOOKED_AT + 1);
  if (changed.length === 0 || changed.length > LOOKED_AT) return;
  const ids = await controllerIds(tx, siteId);
  if (ids.length === 0) return;
  for (const row of changed) {
    const [key, text] = cardItem(row);
    if (text === null) continue;
    await tx
      .update(controllerItemTable)
      .set({ loaded: sql`${controllerItemTable.wanted}` })
      .where(
        and(
          inArray(controllerItemTable.controllerId, ids),
          eq(controllerItemTable.item, key),
          // One that the controller should not have any more is still held: its row must say so.
          isNotNull(controllerItemTable.wanted),
          eq(controllerItemTable.hash, hashOf(key, text)),
        ),
      );
  }
}

export const controllerIds = async (tx: Queryable, siteId: string): Promise<string[]> =>
  (await tx.select({ id: controllerTable.id }).from(controllerTable).where(eq(controllerTable.siteId, siteId))).map(
    ({ id }) => id,
  );

/** Notes that a site uses another version of a format, for the controllers that accept it. */
export async function noteFormat(tx: Queryable, siteId: string, formatId: string): Promise<void> {
  await tx.execute(sql`insert into ${controllerItemTable} (controller_id, item, wanted)
    select ${controllerTable.id}, ${formatKey(formatId)}, ${siteFormatTable.version}
    from ${controllerTable}
    join ${controllerFormatTable} on ${controllerFormatTable.controllerId} = ${controllerTable.id}
      and ${controllerFormatTable.formatId} = ${formatId}
    join ${siteFormatTable} on ${siteFormatTable.siteId} = ${controllerTable.siteId}
      and ${siteFormatTable.formatId} = ${formatId}
    where ${controllerTable.siteId} = ${siteId}
    on duplicate key update wanted = values(wanted)`);
}

/** Of some cards of a format, notes that a controller should have them, or should not; costs those cards. */
export async function markCards(
  tx: Queryable,
  siteId: string,
  controllerId: string,
  which: SQL,
  accepted: boolean,
): Promise<void> {
  if (accepted) await want(tx, siteId, which, controllerId);
  else await withdraw(tx, siteId, which, controllerId);
}

/** Notes that a controller is not to accept a format any more; its cards are marked apart. */
export async function noteGone(tx: Queryable, controllerId: string, formatId: string): Promise<void> {
  const mine = and(
    eq(controllerItemTable.controllerId, controllerId),
    eq(controllerItemTable.item, formatKey(formatId)),
  );
  await tx.update(controllerItemTable).set({ wanted: null }).where(mine);
  await tx
    .delete(controllerItemTable)
    .where(and(mine, sql`${controllerItemTable.loaded} is null and ${controllerItemTable.sentBy} is null`));
}

/** Puts a controller on file, with the items of one that holds nothing yet; gives its id. */
export async function addController(
  tx: Queryable,
  siteId: string,
  controller: { name: string; device: string; comparesFacility: boolean },
): Promise<string> {
  const id = newId();
  await tx.insert(controllerTable).values({ id, siteId, ...controller });
  await noteController(tx, id);
  return id;
}

export const noteController = (tx: Queryable, controllerId: string) =>
  tx.insert(controllerItemTable).values({ controllerId, item: FACILITY_COMPARED, wanted: 1 });

export const waitingFor = (controllerId: string) =>
  and(eq(controllerItemTable.controllerId, controllerId), eq(controllerItemTable.waits, true));

/** How many items wait to be loaded; costs their number. */
export const waitingCount = (db: Queryable, controllerId: string): Promise<number> =>
  db.$count(controllerItemTable, waitingFor(controllerId));

/** The formats that a controller holds. */
export const loadedFormats = async (db: Queryable, controllerId: string): Promise<string[]> =>
  (await formatsLoaded(db, [controllerId])).get(controllerId) ?? [];

/** By controllers, the formats that each holds: one statement for all. */
export async function formatsLoaded(db: Queryable, ids: readonly string[]): Promise<Map<string, string[]>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: controllerItemTable.controllerId, item: controllerItemTable.item })
    .from(controllerItemTable)
    .where(
      and(
        inArray(controllerItemTable.controllerId, [...ids]),
        like(controllerItemTable.item, 'format %'),
        isNotNull(controllerItemTable.loaded),
      ),
    );
  const found = new Map<string, string[]>();
  for (const { id, item } of rows) found.set(id, [...(found.get(id) ?? []), item.slice('format '.length)]);
  return found;
}
