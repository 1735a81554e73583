/**
 * Finding out what a controller holds where its digest is not the one that it was left with: somebody changed it by hand,
 * or an older memory was put back. Both sides are compared by sixteenths, so that only what differs comes over the line;
 * what is known of the controller is then put right, and the next load mends it.
 */
import { carried, EMPTY_DIGEST, PLACE_DIGITS, placeOf } from '@rawbits/core/access';
import { and, asc, count, eq, gt, inArray, isNotNull, isNull, like, sql } from 'drizzle-orm';
import type { Devices } from '../../devices/devices.ts';
import type { Database, Queryable } from '../../platform/database/index.ts';
import type { TrailApp } from '../../platform/trail/app.ts';
import { change, type Who } from '../../platform/trail/change.ts';
import { sha256 } from './credential.ts';
import { type ControllerRow, controllerItemTable, controllerTable } from './tables.ts';

interface Known {
  /** By place, the digest of what is there. */
  digests: Map<string, string>;
  hashes: Map<string, Map<string, string>>;
}

const PAGE = 5000;

/** All that the controller is known to hold, by place. Costs all of it, page by page, on this side only. */
async function knownOf(db: Database, controllerId: string): Promise<Known> {
  const known: Known = { digests: new Map(), hashes: new Map() };
  for (let after = ''; ; ) {
    const page = await db
      .select({ item: controllerItemTable.item, hash: controllerItemTable.hash })
      .from(controllerItemTable)
      .where(
        and(
          eq(controllerItemTable.controllerId, controllerId),
          isNotNull(controllerItemTable.hash),
          gt(controllerItemTable.item, after),
        ),
      )
      .orderBy(asc(controllerItemTable.item))
      .limit(PAGE);
    for (const { item, hash } of page) {
      const place = placeOf(sha256, item);
      const here = known.hashes.get(place) ?? new Map<string, string>();
      known.hashes.set(place, here.set(item, hash!));
    }
    if (page.length < PAGE) break;
    after = page.at(-1)!.item;
  }
  for (const [place, here] of known.hashes) known.digests.set(place, carried(EMPTY_DIGEST, [], here.values()));
  return known;
}

/** The items that differ: the hash that the controller has, or null where it has none. */
async function differing(
  devices: Devices,
  controller: ControllerRow,
  known: Known,
): Promise<Map<string, string | null>> {
  const found = new Map<string, string | null>();
  const look = async (prefix: string): Promise<void> => {
    const theirs = await devices.parts(controller.siteId, controller.device, prefix);
    if ('hashes' in theirs) {
      const ours = known.hashes.get(prefix) ?? new Map<string, string>();
      for (const item of ours.keys()) if (theirs.hashes[item] === undefined) found.set(item, null);
      for (const [item, hash] of Object.entries(theirs.hashes)) if (ours.get(item) !== hash) found.set(item, hash);
      return;
    }
    const other = [...'0123456789abcdef']
      .filter((digit) => ourDigest(known, prefix + digit) !== (theirs.digests[digit] ?? EMPTY_DIGEST))
      .map((digit) => prefix + digit);
    // The places below one part are asked for together: one after another, thousands of them would take minutes.
    if (prefix.length === PLACE_DIGITS - 1) await Promise.all(other.map(look));
    else for (const part of other) await look(part);
  };
  await look('');
  return found;
}

function ourDigest({ digests }: Known, prefix: string): string {
  const direct = digests.get(prefix);
  if (prefix.length === PLACE_DIGITS) return direct ?? EMPTY_DIGEST;
  const below = [...digests].flatMap(([place, digest]) => (place.startsWith(prefix) ? [digest] : []));
  return carried(EMPTY_DIGEST, [], below);
}

/** Something that Raw Bits did not load. */
const UNKNOWN_REVISION = -1;

/**
 * Puts what is known of a controller right where the device holds something else, with an entry of the trail that says
 * so. Gives the controller as it is known now.
 */
export async function reconcile(
  app: TrailApp,
  devices: Devices,
  who: Who,
  controller: ControllerRow,
  deviceDigest: string,
): Promise<ControllerRow> {
  if (deviceDigest === (controller.loadedDigest ?? EMPTY_DIGEST)) return controller;
  // An empty device, new or reset, has nothing to be compared: it is loaded whole.
  const isEmpty = deviceDigest === EMPTY_DIGEST;
  const forgotten = isEmpty ? await forgetAll(app.db, controller.id) : 0;
  const found = isEmpty ? undefined : await differing(devices, controller, await knownOf(app.db, controller.id));
  return change(app, who, controller.siteId, async (tx, record) => {
    if (found) await putRight(tx, controller.id, found);
    const cards = await loadedCards(tx, controller.id);
    const fields = { loadedDigest: deviceDigest, loadedCards: cards };
    await tx.update(controllerTable).set(fields).where(eq(controllerTable.id, controller.id));
    record.trail({
      action: 'controller found changed',
      subject: `controller ${controller.name}`,
      before: { digest: controller.loadedDigest },
      after: found
        ? { digest: deviceDigest, items: found.size, first: [...found.keys()].slice(0, 20) }
        : { digest: deviceDigest, items: forgotten, isEmpty: true },
    });
    record.announce('controllers', { ids: [controller.id] });
    record.announce('cards');
    return { ...controller, ...fields };
  });
}

/** Notes that a controller holds nothing, page by page, however often it is begun; gives how many items it held. */
async function forgetAll(db: Database, controllerId: string): Promise<number> {
  const mine = eq(controllerItemTable.controllerId, controllerId);
  let forgotten = 0;
  for (;;) {
    const page = await db
      .select({ item: controllerItemTable.item })
      .from(controllerItemTable)
      .where(and(mine, isNotNull(controllerItemTable.loaded)))
      .limit(PAGE);
    if (page.length === 0) return forgotten;
    const these = and(
      mine,
      inArray(
        controllerItemTable.item,
        page.map(({ item }) => item),
      ),
    );
    await db.update(controllerItemTable).set({ loaded: null, hash: null, content: null }).where(these);
    await db.delete(controllerItemTable).where(and(these, isNull(controllerItemTable.wanted)));
    forgotten += page.length;
  }
}

async function putRight(tx: Queryable, controllerId: string, found: ReadonlyMap<string, string | null>): Promise<void> {
  const gone = [...found].flatMap(([item, hash]) => (hash === null ? [item] : []));
  for (let from = 0; from < gone.length; from += PAGE) {
    const mine = and(
      eq(controllerItemTable.controllerId, controllerId),
      inArray(controllerItemTable.item, gone.slice(from, from + PAGE)),
    );
    await tx.update(controllerItemTable).set({ loaded: null, hash: null, content: null }).where(mine);
    await tx.delete(controllerItemTable).where(and(mine, sql`${controllerItemTable.wanted} is null`));
  }
  const other = [...found].flatMap(([item, hash]) => (hash === null ? [] : [{ item, hash }]));
  for (let from = 0; from < other.length; from += PAGE)
    await tx
      .insert(controllerItemTable)
      .values(
        other
          .slice(from, from + PAGE)
          .map(({ item, hash }) => ({ controllerId, item, hash, loaded: UNKNOWN_REVISION })),
      )
      .onDuplicateKeyUpdate({ set: { hash: sql`values(hash)`, loaded: UNKNOWN_REVISION, content: null } });
}

async function loadedCards(tx: Queryable, controllerId: string): Promise<number> {
  const [row] = await tx
    .select({ cards: count() })
    .from(controllerItemTable)
    .where(
      and(
        eq(controllerItemTable.controllerId, controllerId),
        like(controllerItemTable.item, 'card %'),
        isNotNull(controllerItemTable.loaded),
      ),
    );
  return row?.cards ?? 0;
}
