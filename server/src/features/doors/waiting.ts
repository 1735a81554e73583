/** What waits to be loaded into controllers, in words: of many controllers together, in a number of statements that hardly grows with theirs. */
import type { Controller } from '@rawbits/api';
import { CALENDAR, FACILITY_COMPARED, isAboutPassing } from '@rawbits/core/access';
import { and, asc, eq, inArray, type SQL, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { chunks, groupedBy } from '../../platform/lists/lists.ts';
import { cardholderTable, cardTable } from '../cards/index.ts';
import { formatVersionTable } from '../library/index.ts';
import { waitingFor } from './items.ts';
import { controllerItemTable, controllerWantTable } from './tables.ts';

/** What waits is counted so far; a controller for which more waits is told to have more. */
export const COUNTED = 10_000;
/** So many controllers are asked about in one statement. */
const TOGETHER = 50;
const NAMES_TOGETHER = 1000;

interface Waits {
  controllerId: string;
  item: string;
  wanted: number | null;
  loaded: number | null;
}
export type Waiting = Controller['waiting'];

/** One statement a few dozen controllers: each has a part of its own, and a bound of its own. */
async function eachOf<T>(db: Queryable, ids: readonly string[], part: (id: string) => SQL): Promise<T[]> {
  const found: T[] = [];
  for (const some of chunks([...ids], TOGETHER)) {
    const parts = some.map((id) => sql`(${part(id)})`);
    const [rows] = (await db.execute(sql.join(parts, sql` union all `))) as unknown as [T[]];
    found.push(...rows);
  }
  return found;
}

/** By controllers, how many items wait; counted up to one more than `COUNTED`, so that the cost has an end. */
export async function waitingCounts(db: Queryable, ids: readonly string[]): Promise<Map<string, number>> {
  const rows = await eachOf<{ id: string; items: number }>(
    db,
    ids,
    (id) => sql`select ${id} as id, count(*) as items from
      (select 1 from ${controllerItemTable} where ${waitingFor(id)} limit ${sql.raw(String(COUNTED + 1))}) some`,
  );
  return new Map(rows.map(({ id, items }) => [id, Number(items)]));
}

/** By controllers, the first of what waits, formats before cards, each by the name that it has for people. */
export async function waitingNamed(db: Queryable, ids: readonly string[], most: number): Promise<Map<string, Waiting>> {
  const rows = await eachOf<Waits>(
    db,
    ids,
    (id) => sql`select ${controllerItemTable.controllerId} as controllerId, ${controllerItemTable.item} as item,
        ${controllerItemTable.wanted} as wanted, ${controllerItemTable.loaded} as loaded
      from ${controllerItemTable} where ${waitingFor(id)}
      order by ${controllerItemTable.item} like 'format %' desc, ${controllerItemTable.item} limit ${sql.raw(String(most))}`,
  );
  const items = [...new Set(rows.map(({ item }) => item))];
  const named = new Map([
    [FACILITY_COMPARED, 'whether the facility code is compared'],
    ...(await cardNames(db, items)),
    ...(await formatNames(db, items)),
  ]);
  const passing = await passingNames(db, rows);
  const found = new Map<string, Waiting>();
  for (const [id, own] of groupedBy(rows, ({ controllerId }) => controllerId))
    found.set(
      id,
      own.map((row) => ({
        change: kindOf(row),
        what: passing.get(`${id} ${row.item}`) ?? named.get(row.item) ?? row.item,
      })),
    );
  return found;
}

const kindOf = ({ wanted, loaded }: Waits): Waiting[number]['change'] => {
  if (loaded === null) return 'add';
  return wanted === null ? 'remove' : 'change';
};

/** What follows a prefix, of the items that have it. */
const after = (prefix: string, items: readonly string[]): string[] =>
  items.flatMap((item) => (item.startsWith(prefix) ? [item.slice(prefix.length)] : []));

async function cardNames(db: Queryable, items: readonly string[]): Promise<[string, string][]> {
  const found: [string, string][] = [];
  for (const some of chunks(after('card ', items), NAMES_TOGETHER)) {
    const cards = await db
      .select({ card: cardTable, holder: cardholderTable.name })
      .from(cardTable)
      .leftJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId))
      .where(inArray(cardTable.id, some));
    for (const { card, holder } of cards) {
      const called = `${card.facility ? `${card.facility}/` : ''}${card.number}${holder ? `, ${holder}` : ''}`;
      found.push([`card ${card.id}`, `card ${called}, ${card.state}`]);
    }
  }
  return found;
}

async function formatNames(db: Queryable, items: readonly string[]): Promise<[string, string][]> {
  const ids = after('format ', items);
  if (ids.length === 0) return [];
  const versions = await db
    .select({ id: formatVersionTable.formatId, definition: formatVersionTable.definition })
    .from(formatVersionTable)
    .where(inArray(formatVersionTable.formatId, ids))
    .orderBy(asc(formatVersionTable.version));
  return versions.map(({ id, definition }) => [`format ${id}`, `format ${(definition as { name: string }).name}`]);
}

const SORTS = { door: 'door', group: 'access group', schedule: 'schedule' } as const;

/** By controller and item: what is called so now, or was when it was loaded. */
async function passingNames(db: Queryable, rows: readonly Waits[]): Promise<Map<string, string>> {
  const about = rows.filter(({ item }) => isAboutPassing(item));
  const texts = new Map<string, string | null>();
  for (const some of chunks(about, NAMES_TOGETHER)) {
    const ids = [...new Set(some.map(({ controllerId }) => controllerId))];
    const items = [...new Set(some.map(({ item }) => item))];
    const loaded = await db
      .select({
        id: controllerItemTable.controllerId,
        item: controllerItemTable.item,
        text: controllerItemTable.content,
      })
      .from(controllerItemTable)
      .where(and(inArray(controllerItemTable.controllerId, ids), inArray(controllerItemTable.item, items)));
    const wanted = await db
      .select({
        id: controllerWantTable.controllerId,
        item: controllerWantTable.item,
        text: controllerWantTable.text,
      })
      .from(controllerWantTable)
      .where(and(inArray(controllerWantTable.controllerId, ids), inArray(controllerWantTable.item, items)));
    for (const { id, item, text } of [...loaded, ...wanted]) texts.set(`${id} ${item}`, text);
  }
  return new Map(
    about.map(({ controllerId, item }) => {
      const key = `${controllerId} ${item}`;
      if (item === CALENDAR) return [key, 'holidays and time zone'];
      const text = texts.get(key);
      const { name } = text ? (JSON.parse(text) as { name: string }) : { name: item };
      return [key, `${SORTS[item.split(' ')[0] as keyof typeof SORTS]} ${name}`];
    }),
  );
}
