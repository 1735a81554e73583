/**
 * What the controllers of a site hold, as far as some cards concern it: which doors the bits of a card open at some hour, and as
 * which card on file. It goes by what was loaded, never by what is only saved.
 */
import type { DecisionNow } from '@rawbits/api';
import {
  CALENDAR,
  type Credential,
  canonicalJson,
  cardKey,
  credentialSchema,
  decideBy,
  Engine,
  FACILITY_COMPARED,
  lookupIn,
  OPENED,
  onFile,
} from '@rawbits/core/access';
import {
  type AccessGroup,
  type Calendar,
  type Carrier,
  type GuardedDoor,
  openedBy,
  passages,
  type Way,
} from '@rawbits/core/access/rights';
import { ALWAYS, type Schedule } from '@rawbits/core/access/schedule';
import { Bits } from '@rawbits/core/bits';
import { type Format, formatSchema } from '@rawbits/core/format';
import { and, asc, eq, inArray, isNotNull, like, notLike } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { chunks } from '../../platform/lists/lists.ts';
import { cardTable } from '../cards/index.ts';
import { cardsForControllers, credentialFrom, hashOf } from './credential.ts';
import { type ControllerRow, controllerItemTable, controllerTable, doorTable, readerTable } from './tables.ts';

/** Of a card: the doors that it opens now, or at some hour of a week, by what their controllers hold. */
export interface Opens {
  doors: { id: string; name: string }[];
  /** Doors that its bits would open without it, as another card that is on file there. */
  asOther: { door: string; card: string; holder: string | null; format: string }[];
  /** Controllers that hold something of this card which nobody here knows. */
  unknownAt: string[];
}

/** All that a controller holds but its cards: it stays what it is while the digest does. */
interface Frame {
  engine: Engine;
  /** What holds at a reader at an instant. */
  passing: ReturnType<typeof passages>;
  doors: Map<string, GuardedDoor>;
  groups: Map<string, AccessGroup>;
  schedules: Map<string, Schedule>;
}

const frames = new Map<string, Frame>();
const MOST_FRAMES = 1000;
/** So many cards whose change waits at a controller are looked through for numbers that they had. */
const WAITING = 2000;

const keyOfFrame = ({ id, loadedDigest }: ControllerRow) => `${id} ${loadedDigest}`;

async function framesOf(db: Queryable, controllers: readonly ControllerRow[]): Promise<Map<string, Frame>> {
  // Taken out before others come in: the oldest go where there are too many.
  const found = new Map<string, Frame>();
  for (const controller of controllers) {
    const frame = frames.get(keyOfFrame(controller));
    if (frame) found.set(controller.id, frame);
  }
  const missing = controllers.filter(({ id }) => !found.has(id));
  const rows =
    missing.length === 0
      ? []
      : await db
          .select({
            controllerId: controllerItemTable.controllerId,
            item: controllerItemTable.item,
            content: controllerItemTable.content,
          })
          .from(controllerItemTable)
          .where(
            and(
              inArray(
                controllerItemTable.controllerId,
                missing.map(({ id }) => id),
              ),
              notLike(controllerItemTable.item, 'card %'),
              isNotNull(controllerItemTable.loaded),
              isNotNull(controllerItemTable.content),
            ),
          );
  // A load may have taken force since the digests were read: what came then is not kept under the old one.
  const now =
    missing.length === 0
      ? []
      : await db
          .select({ id: controllerTable.id, digest: controllerTable.loadedDigest })
          .from(controllerTable)
          .where(
            inArray(
              controllerTable.id,
              missing.map(({ id }) => id),
            ),
          );
  for (const controller of missing) {
    const frame = frameFrom(rows.filter(({ controllerId }) => controllerId === controller.id));
    found.set(controller.id, frame);
    if (now.find(({ id }) => id === controller.id)?.digest !== controller.loadedDigest) continue;
    if (frames.size >= MOST_FRAMES) frames.delete(frames.keys().next().value!);
    frames.set(keyOfFrame(controller), frame);
  }
  return found;
}

function frameFrom(rows: readonly { item: string; content: string | null }[]): Frame {
  const of = <T>(kind: string): T[] =>
    rows.flatMap(({ item, content }) => (item.startsWith(kind) ? [JSON.parse(content!) as T] : []));
  const compares = rows.find(({ item }) => item === FACILITY_COMPARED)?.content !== 'false';
  const formats = of<unknown>('format ').map((format): Format => formatSchema.parse(format));
  const byId = <T extends { id: string }>(all: readonly T[]) => new Map(all.map((one) => [one.id, one]));
  const calendar = of<Calendar>(CALENDAR)[0];
  const guarding = {
    doors: of<GuardedDoor>('door '),
    groups: of<AccessGroup>('group '),
    schedules: of<Schedule>('schedule '),
    calendar,
  };
  return {
    engine: new Engine(formats, compares),
    passing: passages(guarding),
    doors: byId(guarding.doors),
    groups: byId(guarding.groups),
    // Without a calendar no schedule holds.
    schedules: calendar ? byId([ALWAYS, ...guarding.schedules]) : new Map(),
  };
}

const everHolds = (schedule: Schedule | undefined): boolean =>
  schedule !== undefined &&
  (schedule.periods.length > 0 || (Array.isArray(schedule.onHolidays) && schedule.onHolidays.length > 0));

/** Whether a card's groups let it through a door one way at any hour. */
function everPasses({ doors, groups, schedules }: Frame, device: string): (card: Carrier) => boolean {
  let at: { door: GuardedDoor; way: Way } | undefined;
  for (const door of doors.values())
    for (const { reader, way } of door.readers) if (reader === device) at = { door, way };
  if (!at?.door.byGroups) return () => true;
  const { door, way } = at;
  return (card) =>
    openedBy(
      (card.groups ?? []).flatMap((id) => groups.get(id) ?? []),
      door.id,
      way,
    ).some(({ schedule }) => everHolds(schedules.get(schedule)));
}

interface Asked {
  id: string;
  bits: string | null;
}

/** What is held of some cards at each controller: the credential as it was loaded, or null where that is not known. */
type Held = Map<string, Map<string, Credential | null>>;

async function heldOf(db: Queryable, controllers: readonly ControllerRow[], ids: readonly string[]): Promise<Held> {
  const held: Held = new Map(controllers.map(({ id }) => [id, new Map()]));
  const at = inArray(
    controllerItemTable.controllerId,
    controllers.map(({ id }) => id),
  );
  const rows = [];
  const named = { controllerId: controllerItemTable.controllerId, item: controllerItemTable.item };
  const columns = { ...named, content: controllerItemTable.content, hash: controllerItemTable.hash };
  const isCard = isNotNull(controllerItemTable.loaded);
  for (const some of chunks(ids.map(cardKey), 500))
    rows.push(
      ...(await db
        .select(columns)
        .from(controllerItemTable)
        .where(and(at, inArray(controllerItemTable.item, some), isCard))),
    );
  // Cards that were corrected or taken off the file since are on file at the door as they were.
  rows.push(
    ...(await db
      .select(columns)
      .from(controllerItemTable)
      .where(and(at, eq(controllerItemTable.waits, true), isCard, like(controllerItemTable.item, 'card %')))
      .limit(WAITING)),
  );
  const unknown = rows.filter(({ content }) => content === null).map(({ item }) => item.slice(cardKey('').length));
  const now = new Map<string, Credential>();
  for (const some of chunks([...new Set(unknown)], 500))
    for (const row of await cardsForControllers(db).where(inArray(cardTable.id, some)))
      now.set(row.card.id, credentialFrom(row));
  for (const { controllerId, item, content, hash } of rows) {
    const id = item.slice(cardKey('').length);
    const current = now.get(id);
    // Loaded before its content was kept: it is as on file where the hash is the same.
    const isAsNow = content === null && current && hashOf(item, canonicalJson(current)) === hash;
    const credential = content === null ? (isAsNow ? current : null) : credentialSchema.parse(JSON.parse(content));
    held.get(controllerId)!.set(id, credential ?? null);
  }
  return held;
}

interface Concerned {
  id?: string;
  bits: Bits | undefined;
}

/** What controllers hold as far as some cards and reads concern it, and the readers at their doors. */
async function memoriesOf(
  db: Queryable,
  siteId: string,
  controllers: readonly ControllerRow[],
  reads: readonly Concerned[],
) {
  const framed = await framesOf(db, controllers);
  const numbers = new Set<string>();
  for (const { engine } of framed.values())
    for (const { bits } of reads) if (bits) for (const n of engine.numbersOf(bits.words, bits.length)) numbers.add(n);
  const ids = new Set(reads.flatMap(({ id }) => id ?? []));
  for (const some of chunks([...numbers], 500))
    for (const { id } of await db
      .select({ id: cardTable.id })
      .from(cardTable)
      .where(and(eq(cardTable.siteId, siteId), inArray(cardTable.number, some))))
      ids.add(id);
  const readers = await db
    .select({
      reader: readerTable.id,
      readerName: readerTable.name,
      device: readerTable.device,
      controllerId: readerTable.controllerId,
      id: doorTable.id,
      name: doorTable.name,
    })
    .from(readerTable)
    .innerJoin(doorTable, eq(doorTable.id, readerTable.doorId))
    .where(eq(readerTable.siteId, siteId))
    .orderBy(asc(doorTable.name), asc(readerTable.way));
  return { framed, held: await heldOf(db, controllers, [...ids]), readers };
}

const loadedControllers = (db: Queryable, siteId: string) =>
  db
    .select()
    .from(controllerTable)
    .where(and(eq(controllerTable.siteId, siteId), isNotNull(controllerTable.loadedDigest)))
    .orderBy(asc(controllerTable.name));

/** What each reader at a door would decide on a read at an instant, by what its controller holds. Costs the site's controllers. */
export async function decideAsLoaded(db: Queryable, siteId: string, bits: Bits, atMs: number): Promise<DecisionNow[]> {
  const controllers = await loadedControllers(db, siteId);
  if (controllers.length === 0) return [];
  const { framed, held, readers } = await memoriesOf(db, siteId, controllers, [{ bits }]);
  return readers.flatMap(({ reader, readerName, device, controllerId, id, name }) => {
    const controller = controllers.find((one) => one.id === controllerId);
    if (!controller) return [];
    const { engine, passing } = framed.get(controller.id)!;
    const cards = lookupIn([...held.get(controller.id)!.values()].flatMap((credential) => credential ?? []));
    const { outcome, stoppedAt, reason } = decideBy(engine, bits, atMs, cards, passing(device, atMs));
    return {
      reader: { id: reader, name: readerName },
      door: { id, name },
      controller: { id: controller.id, name: controller.name },
      outcome,
      stoppedAt: stoppedAt ?? null,
      reason,
    };
  });
}

function addDoor({ doors }: Opens, { id, name }: { id: string; name: string }): void {
  if (!doors.some((door) => door.id === id)) doors.push({ id, name });
}

const isOpen = (credential: Credential, atMs: number): boolean => {
  const { active, fromMs, toMs } = onFile(credential);
  return active && atMs >= fromMs && atMs < toMs;
};

/**
 * Which doors some cards open by what the controllers hold, at an instant (milliseconds since 1970) but at any hour of the week.
 * Costs these cards, the cards of their numbers and what waits, times the controllers.
 */
export async function opensOf(
  db: Queryable,
  siteId: string,
  cards: readonly Asked[],
  atMs: number,
): Promise<Map<string, Opens>> {
  const found = new Map<string, Opens>(cards.map(({ id }) => [id, { doors: [], asOther: [], unknownAt: [] }]));
  const controllers = cards.length === 0 ? [] : await loadedControllers(db, siteId);
  if (controllers.length === 0) return found;
  const reads = cards.map(({ id, bits }) => ({ id, bits: bits === null ? undefined : Bits.fromBinary(bits) }));
  const { framed, held, readers } = await memoriesOf(db, siteId, controllers, reads);
  for (const controller of controllers) {
    const frame = framed.get(controller.id)!;
    const here = held.get(controller.id)!;
    const all = [...here.values()].flatMap((credential) => credential ?? []);
    const loadedCards = lookupIn(all);
    const own = readers.filter(({ controllerId }) => controllerId === controller.id);
    const ways = own.map((reader) => ({ ...reader, passes: everPasses(frame, reader.device) }));
    for (const { id, bits } of reads) {
      const opens = found.get(id)!;
      if (here.get(id) === null) opens.unknownAt.push(controller.name);
      if (!bits) {
        // What it delivers is not known: it is taken to be what it is on file as.
        const known = here.get(id);
        const isTaken = known && frame.engine.formats.some((format) => format.id === known.format);
        if (isTaken && isOpen(known, atMs)) for (const way of ways) if (way.passes(known)) addDoor(opens, way);
        continue;
      }
      const without = lookupIn(all.filter((credential) => credential.id !== id));
      for (const { passes, ...door } of ways) {
        const standing = (card: Carrier) => (passes(card) ? ('passes' as const) : ('group' as const));
        frame.engine.decide(bits.words, bits.length, atMs, loadedCards, standing);
        if (frame.engine.step !== OPENED) continue;
        addDoor(opens, door);
        frame.engine.decide(bits.words, bits.length, atMs, without, standing);
        const { step, card, entry } = frame.engine;
        if (step !== OPENED || opens.asOther.some((one) => one.door === door.name)) continue;
        const { facility, number, holder } = card!.credential;
        const name = `${facility ? `${facility}/` : ''}${number}`;
        opens.asOther.push({ door: door.name, card: name, holder, format: entry!.format.id });
      }
    }
  }
  return found;
}
