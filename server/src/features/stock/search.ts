/**
 * Finding cards. A text is read in every way in which somebody may mean a card: the beginning of its number or of its
 * print, a range of numbers, its raw bits in any notation, or who holds it. Each way is a walk along an index, one after
 * the other; a card that several find stands where the first of them has it.
 */
import type { cardQuerySchema, FoundBy } from '@rawbits/api';
import { intake } from '@rawbits/core/intake';
import { and, asc, desc, eq, gt, gte, inArray, like, lt, lte, or, type SQL, sql } from 'drizzle-orm';
import type { MySqlColumn } from 'drizzle-orm/mysql-core';
import { z } from 'zod';
import type { Queryable } from '../../platform/database/index.ts';
import { invalid } from '../../platform/problem/problem.ts';
import { cardsOnFile, cardTable, escaped, holdersNamed, numberKey } from '../cards/index.ts';
import { narrowing } from './filters.ts';

/** Finds are counted so far. */
const COUNTED = 1000;

/** One way in which cards are found: which, and along what they stand. */
interface Walk {
  /** How a card that it finds was meant; left out where nothing was searched for. */
  by?: FoundBy;
  where: SQL | undefined;
  along: MySqlColumn;
  newestFirst?: boolean;
}

export type CardQuery = z.output<typeof cardQuerySchema>;

export interface Found {
  ids: string[];
  /** For each of them how it was meant. */
  foundBy: FoundBy[];
  total: number;
  /** Set where there are more than `total`. */
  more: boolean;
  next: string | null;
}

/** Where a page ended: in which walk, and at which card of it. */
const cursorSchema = z.tuple([z.number().int().min(0).max(9), z.string().max(200), z.string().max(40)]);
type Cursor = z.output<typeof cursorSchema>;

const writeCursor = (cursor: Cursor): string => Buffer.from(JSON.stringify(cursor)).toString('base64url');

function readCursor(text: string): Cursor {
  try {
    return cursorSchema.parse(JSON.parse(Buffer.from(text, 'base64url').toString('utf8')));
  } catch {
    throw invalid('after', 'This is not where a page ended.', 'Begin at the first page again.');
  }
}

async function walksFor(
  db: Queryable,
  siteId: string,
  { bits, order, box }: CardQuery,
  search: string,
): Promise<Walk[]> {
  if (bits !== undefined) return [{ where: eq(cardTable.bits, bits), along: cardTable.number }];
  if (search === '' && box !== undefined) return [{ where: undefined, along: cardTable.numberKey }];
  if (search === '')
    return [
      order === 'number'
        ? { where: undefined, along: cardTable.numberKey }
        : { where: undefined, along: cardTable.createdAt, newestFirst: true },
    ];
  const range = /^(\d{1,160})\s*(?:-|–|…|[.]{2,3}|to)\s*(\d{1,160})$/.exec(search);
  if (range)
    return [
      {
        by: 'range',
        where: and(gte(cardTable.numberKey, numberKey(range[1]!)), lte(cardTable.numberKey, numberKey(range[2]!))),
        along: cardTable.numberKey,
      },
    ];
  const walks: Walk[] = [];
  const code = /^(\d{1,40})\s*[/:]\s*(\d{1,160})$/.exec(search);
  if (code)
    walks.push({
      by: 'code and number',
      where: and(eq(cardTable.facility, BigInt(code[1]!).toString()), like(cardTable.number, `${BigInt(code[2]!)}%`)),
      along: cardTable.number,
    });
  if (/^\d{1,160}$/.test(search))
    walks.push({
      by: 'number',
      where: like(cardTable.number, `${search.replace(/^0+(?=\d)/, '')}%`),
      along: cardTable.number,
    });
  const hex = /^(?:0x|x'?)([0-9a-f]{1,128})'?$/i.exec(search);
  if (hex)
    walks.push({
      by: 'number in hex',
      where: eq(cardTable.number, BigInt(`0x${hex[1]}`).toString()),
      along: cardTable.number,
    });
  const written = bitsIn(search);
  if (written.length > 0) walks.push({ by: 'bits', where: inArray(cardTable.bits, written), along: cardTable.number });
  walks.push({ by: 'print', where: like(cardTable.printed, `${escaped(search)}%`), along: cardTable.printed });
  const holders = await holdersNamed(db, siteId, search);
  if (holders.length > 0)
    walks.push({ by: 'holder', where: inArray(cardTable.holderId, holders), along: cardTable.holderId });
  return walks;
}

/** What the text can be as raw bits. */
function bitsIn(text: string): string[] {
  try {
    return [...new Set(intake(text).readings.map(({ bits }) => bits.toBinary()))];
  } catch {
    return [];
  }
}

const cursorValue = (value: unknown): string => (value instanceof Date ? value.toISOString() : String(value));

function pastCursor({ along, newestFirst }: Walk, [, value, id]: Cursor): SQL | undefined {
  const at = along === cardTable.createdAt ? new Date(value) : value;
  return newestFirst
    ? and(lte(along, at), or(lt(along, at), and(eq(along, at), lt(cardTable.id, id))))
    : and(gte(along, at), or(gt(along, at), and(eq(along, at), gt(cardTable.id, id))));
}

/** A page of the cards that a query finds, by their ids in their order, and how many there are. */
export async function findCards(db: Queryable, siteId: string, query: CardQuery): Promise<Found> {
  const search = query.search?.trim() ?? '';
  const walks = await walksFor(db, siteId, query, search);
  const cursor = query.after === undefined ? undefined : readCursor(query.after);
  const own = and(
    eq(cardTable.siteId, siteId),
    await narrowing(db, siteId, query),
    query.holder === undefined ? undefined : eq(cardTable.holderId, query.holder),
  );
  const of = (index: number) =>
    and(own, walks[index]!.where, ...walks.slice(0, index).map(({ where }) => sql`(${where}) is not true`));
  const ids: string[] = [];
  const foundBy: FoundBy[] = [];
  let next: string | null = null;
  for (let index = cursor?.[0] ?? 0; index < walks.length && next === null; index++) {
    const walk = walks[index]!;
    const sort = walk.newestFirst ? desc : asc;
    const wanted = query.limit - ids.length;
    const rows = await db
      .select({ id: cardTable.id, value: walk.along })
      .from(cardTable)
      .where(and(of(index), cursor?.[0] === index ? pastCursor(walk, cursor) : undefined))
      .orderBy(sort(walk.along), sort(cardTable.id))
      .limit(wanted + 1);
    for (const { id } of rows.slice(0, wanted)) {
      ids.push(id);
      if (walk.by) foundBy.push(walk.by);
    }
    const last = rows[wanted - 1];
    if (rows.length > wanted)
      next = last ? writeCursor([index, cursorValue(last.value), last.id]) : writeCursor([index, '', '']);
  }
  // Where all of them are on the first page they are counted.
  if (cursor === undefined && next === null) return { ids, foundBy, next, total: ids.length, more: false };
  const { state, order: _, limit: __, after: ___, ...asked } = query;
  const all = Object.values(asked).every((value) => value === undefined || value === '');
  if (all) return { ids, foundBy, next, total: await cardsOnFile(db, siteId, state), more: false };
  return { ids, foundBy, next, ...(await totalOf(db, walks.length, of)) };
}

async function totalOf(
  db: Queryable,
  walks: number,
  of: (index: number) => SQL | undefined,
): Promise<Pick<Found, 'total' | 'more'>> {
  let total = 0;
  for (let index = 0; index < walks && total <= COUNTED; index++) {
    const some = db
      .select({ id: cardTable.id })
      .from(cardTable)
      .where(of(index))
      .limit(COUNTED + 1 - total)
      .as('some');
    const [row] = await db.select({ cards: sql<number>`count(*)`.mapWith(Number) }).from(some);
    total += row?.cards ?? 0;
  }
  return { total: Math.min(total, COUNTED), more: total > COUNTED };
}
