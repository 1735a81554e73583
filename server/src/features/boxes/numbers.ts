/** The numbers of a facility code: where cards, boxes and reservations stand, and which run of them is free. */
import { type NumberLine, type NumberMap, numberApi, type ToOrder } from '@rawbits/api';
import { greatestOf } from '@rawbits/core/codec';
import type { Format } from '@rawbits/core/format';
import { and, asc, count, desc, eq, gt, gte, lte, type SQL } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { invalid } from '../../platform/problem/problem.ts';
import { boxTable, cardTable, formatsOnFile, numberKey } from '../cards/index.ts';
import { reservedUnder } from '../facilityCodes/index.ts';
import { adoptedFormats, versionsOf } from '../library/index.ts';

const MOST_BOXES = 500;
/** So many steps are made from one taken number to the next; how far they came is told. */
const MOST_STEPS = 3000;
const LONGEST_STRIDE = 65_536n;

interface Line {
  site: string;
  formatId: string;
  facility: string;
}

const lineOf = (site: string, { format, facility }: { format: string; facility?: string | undefined }): Line => ({
  site,
  formatId: format,
  facility: facility === undefined ? '' : BigInt(facility).toString(),
});

const ofCards = ({ site, formatId, facility }: Line, ...more: SQL[]) =>
  and(eq(cardTable.siteId, site), eq(cardTable.formatId, formatId), eq(cardTable.facility, facility), ...more);
const ofBoxes = ({ site, formatId, facility }: Line, ...more: SQL[]) =>
  and(eq(boxTable.siteId, site), eq(boxTable.formatId, formatId), eq(boxTable.facility, facility), ...more);
const cardsIn = (line: Line, from: bigint, to: bigint) =>
  ofCards(line, gte(cardTable.numberKey, keyOf(from)), lte(cardTable.numberKey, keyOf(to)));
const boxesIn = (line: Line, from: bigint, to: bigint) =>
  ofBoxes(line, lte(boxTable.firstKey, keyOf(to)), gte(boxTable.lastKey, keyOf(from)));

/** Left to itself the database takes an index for these that it then has to look every card up by. */
const ALONG = { forceIndex: 'cards_of_format' } as const;

const keyOf = (number: bigint): string => numberKey(number.toString());
/** The digits of a key, which is its count of digits in three and then they. */
const digitsIn = (key: string): string => key.slice(3);

/** The index of numbers is not read through for this: it is asked for the next code, and for both ends of each. */
const lines = handle(numberApi.lines, async ({ app, site }) => {
  const found: NumberLine[] = [];
  for (const formatId of await formatsOnFile(app.db, site))
    for (let after: string | undefined; ; ) {
      const [least] = await firstAfter(app.db, site, formatId, after);
      if (!least) break;
      const ofCode = { site, formatId, facility: least.facility };
      const [greatest] = await app.db
        .select({ key: cardTable.numberKey })
        .from(cardTable, ALONG)
        .where(ofCards(ofCode))
        .orderBy(desc(cardTable.numberKey))
        .limit(1);
      const facility = least.facility || null;
      found.push({ formatId, facility, least: digitsIn(least.key), greatest: digitsIn(greatest!.key) });
      after = least.facility;
    }
  return found;
});

/** The card with the lowest number under the next code after one. */
const firstAfter = (db: Queryable, site: string, formatId: string, after: string | undefined) =>
  db
    .select({ facility: cardTable.facility, key: cardTable.numberKey })
    .from(cardTable, ALONG)
    .where(
      and(
        eq(cardTable.siteId, site),
        eq(cardTable.formatId, formatId),
        after === undefined ? undefined : gt(cardTable.facility, after),
      ),
    )
    .orderBy(asc(cardTable.facility), asc(cardTable.numberKey))
    .limit(1);

/** The greatest number of a format as the site uses it, or as it is newest where the site uses it no more. */
async function greatestNumber(db: Queryable, site: string, id: string): Promise<bigint> {
  const used = (await adoptedFormats(db, site)).find(({ format }) => format.id === id)?.format;
  const format: Format | undefined = used ?? (await versionsOf(db, id))[0]?.format;
  const span = format?.spans.find(({ role }) => role === 'number');
  if (!span) throw invalid('format', 'This format has no number.');
  return greatestOf(span);
}

const map = handle(numberApi.map, async ({ app, site, query }) => {
  const line = lineOf(site, query);
  const most = await greatestNumber(app.db, site, line.formatId);
  const from = BigInt(query.from);
  const to = BigInt(query.to) > most ? most : BigInt(query.to);
  if (from > to) throw invalid('from', `There are no numbers from ${from} to ${to} in this format.`);
  const size = (to - from) / BigInt(query.parts) + 1n;
  const boxes = await app.db
    .select()
    .from(boxTable)
    .where(boxesIn(line, from, to))
    .orderBy(asc(boxTable.firstKey), asc(boxTable.id))
    .limit(MOST_BOXES + 1);
  const reserved = await reservedUnder(app.db, site, line.formatId, line.facility);
  return {
    from: from.toString(),
    to: to.toString(),
    most: most.toString(),
    boxes: boxes.slice(0, MOST_BOXES).map(({ id, name, first, last }) => ({ id, name, first, last })),
    moreBoxes: boxes.length > MOST_BOXES,
    reserved: reserved.filter((r) => BigInt(r.from) <= to && BigInt(r.to) >= from),
    parts: await partsOf(app.db, line, from, to, size),
    count: Number((to - from) / size) + 1,
    size: size.toString(),
  };
});

/** So many cards are taken apart here, in one query; more are counted part by part. */
const AT_ONCE = 5000;

/** Along the index of numbers, which has the state, too. Costs the cards in the range. */
async function partsOf(db: Queryable, line: Line, from: bigint, to: bigint, size: bigint): Promise<NumberMap['parts']> {
  const some = await db
    .select({ number: cardTable.numberKey, state: cardTable.state })
    .from(cardTable, ALONG)
    .where(cardsIn(line, from, to))
    .limit(AT_ONCE + 1);
  if (some.length > AT_ONCE) return countParts(db, line, from, to, size);
  const parts = new Map<number, Record<string, number>>();
  for (const { number, state } of some) {
    const at = Number((BigInt(digitsIn(number)) - from) / size);
    const states = parts.get(at) ?? {};
    states[state] = (states[state] ?? 0) + 1;
    parts.set(at, states);
  }
  return [...parts].sort(([a], [b]) => a - b).map(([at, states]) => ({ at, states }));
}

/** Parts without a card are passed over. */
async function countParts(
  db: Queryable,
  line: Line,
  from: bigint,
  to: bigint,
  size: bigint,
): Promise<NumberMap['parts']> {
  const parts: NumberMap['parts'] = [];
  for (let start = from; start <= to; ) {
    const [next] = await db
      .select({ number: cardTable.number })
      .from(cardTable, ALONG)
      .where(cardsIn(line, start, to))
      .orderBy(asc(cardTable.numberKey))
      .limit(1);
    if (!next) break;
    const at = (BigInt(next.number) - from) / size;
    const begin = from + at * size;
    const end = begin + size - 1n;
    const rows = await db
      .select({ state: cardTable.state, cards: count() })
      .from(cardTable, ALONG)
      .where(cardsIn(line, begin, end > to ? to : end))
      .groupBy(cardTable.state);
    parts.push({ at: Number(at), states: Object.fromEntries(rows.map(({ state, cards }) => [state, cards])) });
    start = end + 1n;
  }
  return parts;
}

const free = handle(numberApi.free, ({ app, site, query }) =>
  freeRun(app.db, lineOf(site, query), BigInt(query.from), BigInt(query.count)),
);

/** The lowest run of `size` numbers from `from` on that no card, box or reservation has. */
async function freeRun(db: Queryable, line: Line, from: bigint, size: bigint) {
  const most = await greatestNumber(db, line.site, line.formatId);
  const reserved = (await reservedUnder(db, line.site, line.formatId, line.facility)).map((kept) => ({
    from: BigInt(kept.from),
    to: BigInt(kept.to),
  }));
  let start = from;
  for (let step = 0; step < MOST_STEPS; step++) {
    const end = start + size - 1n;
    if (end > most) return { free: null, searchedTo: most.toString() };
    const kept = reserved.find(({ from, to }) => from <= end && to >= start);
    const taken = kept?.to ?? (await lastTaken(db, line, start, end));
    if (taken === undefined)
      return { free: { from: start.toString(), to: end.toString() }, searchedTo: end.toString() };
    start = taken + 1n;
  }
  return { free: null, searchedTo: start.toString() };
}

/** Costs the cards of the codes that have fewer left; of the others it stops when it has counted enough. */
const toOrder = handle(numberApi.toOrder, async ({ app: { db }, site, query: { fewer, count: wanted } }) => {
  const orders: ToOrder[] = [];
  for (const { formatId, facility } of await linesOfBoxes(db, site)) {
    const line = { site, formatId, facility };
    const some = db
      .select({ id: cardTable.id })
      .from(cardTable, ALONG)
      .where(ofCards(line, eq(cardTable.state, 'in stock')))
      .limit(fewer)
      .as('some');
    const [left] = await db.select({ cards: count() }).from(some);
    if (left!.cards >= fewer) continue;
    const [newest] = await db
      .select()
      .from(boxTable)
      .where(ofBoxes(line))
      .orderBy(desc(boxTable.enteredAt), desc(boxTable.id))
      .limit(1);
    if (!newest) continue;
    const [last] = await db
      .select({ key: cardTable.numberKey })
      .from(cardTable, ALONG)
      .where(ofCards(line))
      .orderBy(desc(cardTable.numberKey))
      .limit(1);
    const after = BigInt(last ? digitsIn(last.key) : newest.last);
    const { free: run } = await freeRun(db, line, after + 1n, BigInt(wanted ?? newest.count));
    orders.push({
      ...{ formatId, facility: facility || null, inStock: left!.cards, run },
      newest: {
        ...{ id: newest.id, name: newest.name, first: newest.first, last: newest.last, count: newest.count },
        enteredAt: newest.enteredAt.toISOString(),
      },
    });
  }
  return orders.sort((a, b) => a.inStock - b.inStock);
});

/** The formats and codes under which boxes were entered. */
const linesOfBoxes = (db: Queryable, site: string) =>
  db
    .selectDistinct({ formatId: boxTable.formatId, facility: boxTable.facility })
    .from(boxTable)
    .where(eq(boxTable.siteId, site));

/** The last number that is taken from `start` on, as far as it is known to matter for a run up to `end`; undefined where all are free. */
async function lastTaken(db: Queryable, line: Line, start: bigint, end: bigint): Promise<bigint | undefined> {
  const [box] = await db
    .select({ last: boxTable.last })
    .from(boxTable)
    .where(boxesIn(line, start, end))
    .orderBy(desc(boxTable.lastKey))
    .limit(1);
  if (box) return BigInt(box.last);
  const [card] = await db
    .select({ number: cardTable.number })
    .from(cardTable, ALONG)
    .where(cardsIn(line, start, end))
    .orderBy(desc(cardTable.numberKey))
    .limit(1);
  if (!card) return undefined;
  // Where cards stand closely, whole stretches are passed over at once, each twice as long as the one before.
  let last = BigInt(card.number);
  for (let stride = end - start + 1n; stride <= LONGEST_STRIDE; stride *= 2n) {
    const [here] = await db
      .select({ cards: count() })
      .from(cardTable, ALONG)
      .where(cardsIn(line, last + 1n, last + stride));
    if (BigInt(here!.cards) < stride) return last;
    last += stride;
  }
  return last;
}

export const numberRoutes = [toOrder, lines, map, free];
