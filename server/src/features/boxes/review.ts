/**
 * What entering a box would meet: its own numbers on file, boxes and reservations that name them, the same bits under
 * another format, the same number at controllers that ignore the code. Costs the cards of the box and what it meets,
 * however many others there are.
 */
import { createHash } from 'node:crypto';
import type { BoxReview } from '@rawbits/api';
import { type BoxCard, cardsOf, countOf, gapsIn, type Range, rangeOf, sharedBy, united } from '@rawbits/core/box';
import type { Format } from '@rawbits/core/format';
import { and, asc, count, desc, eq, gt, gte, inArray, lt, lte, not, type SQL } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { HttpProblem } from '../../platform/problem/problem.ts';
import { boxTable, cardholderTable, cardsOfFormat, cardTable } from '../cards/index.ts';
import { acceptedBy, controllerTable } from '../doors/index.ts';
import { reservedUnder } from '../facilityCodes/index.ts';
import { adoptedFormats, versionsOf } from '../library/index.ts';
import { type BoxAsked, type BoxRow, rowFrom } from './describe.ts';

const RUNS = 100;
const EXAMPLES = 10;
const COUNTED = 1000;
/** MariaDB makes a table of a longer list first (`in_predicate_conversion_threshold`). */
const BITS_A_QUERY = 900;

type Row = ReturnType<typeof rowFrom>;

const ofLine = (site: string, { formatId, facility }: Pick<Row, 'formatId' | 'facility'>) =>
  and(eq(cardTable.siteId, site), eq(cardTable.formatId, formatId), eq(cardTable.facility, facility));

/** The cards on file that a box names: of its format and code, and in its range. */
export const namedBy = (site: string, row: Row) =>
  and(ofLine(site, row), gte(cardTable.numberKey, row.firstKey), lte(cardTable.numberKey, row.lastKey));

export async function reviewOf(db: Queryable, site: string, format: Format, asked: BoxAsked): Promise<BoxReview> {
  const row = rowFrom(format, asked);
  const size = countOf(asked);
  const [first] = cardsOf(format, asked, 0, 1);
  const [last] = cardsOf(format, asked, size - 1, 1);
  const onFile = await numbersOnFile(db, site, row);
  const boxes = await boxesNaming(db, site, row);
  const reserved = await reservedUnder(db, site, row.formatId, row.facility);
  const own = rangeOf(row);
  return {
    count: size,
    fresh: size - onFile.cards,
    first: shown(first!),
    last: shown(last!),
    onFile,
    boxes,
    sameBits: await sameBits(db, site, format, asked),
    sameNumber: await sameNumber(db, site, row),
    reserved: reserved.filter(({ from, to }) => sharedBy(own, { from: BigInt(from), to: BigInt(to) })),
    ...(await neighbours(db, site, row)),
    seen: await seenOf(db, site, row),
  };
}

const shown = ({ number, printed, bits }: BoxCard) => ({ number, printed: printed || number, bits });

/** What a box is entered on: how many of its numbers are on file, and which boxes name some of them. */
export async function seenOf(db: Queryable, site: string, row: Row): Promise<string> {
  const [counted] = await db.select({ cards: count() }).from(cardTable).where(namedBy(site, row));
  const boxes = await boxesNaming(db, site, row);
  const text = JSON.stringify([
    row.formatId,
    row.facility,
    row.first,
    row.last,
    counted?.cards,
    boxes.map((b) => b.id),
  ]);
  return createHash('sha256').update(text).digest('hex').slice(0, 24);
}

async function numbersOnFile(db: Queryable, site: string, row: Row): Promise<BoxReview['onFile']> {
  const rows = await db
    .select({ number: cardTable.number, state: cardTable.state })
    .from(cardTable)
    .where(namedBy(site, row))
    .orderBy(asc(cardTable.numberKey));
  const states: Record<string, number> = {};
  for (const { state } of rows) states[state] = (states[state] ?? 0) + 1;
  const runs = united(rows.map(({ number }) => ({ from: BigInt(number), to: BigInt(number) })));
  return {
    cards: rows.length,
    states,
    runs: runs.slice(0, RUNS).map(({ from, to }) => ({ ...inText({ from, to }), cards: Number(to - from) + 1 })),
  };
}

const inText = ({ from, to }: Range) => ({ from: from.toString(), to: to.toString() });

const alongBoxes = (site: string, { formatId, facility }: Row, ...more: SQL[]) =>
  and(eq(boxTable.siteId, site), eq(boxTable.formatId, formatId), eq(boxTable.facility, facility), ...more);

async function boxesNaming(db: Queryable, site: string, row: Row): Promise<BoxReview['boxes']> {
  const rows = await db
    .select()
    .from(boxTable)
    .where(alongBoxes(site, row, lte(boxTable.firstKey, row.lastKey), gte(boxTable.lastKey, row.firstKey)))
    .orderBy(asc(boxTable.firstKey), asc(boxTable.id))
    .limit(RUNS);
  return rows.map(({ id, name, first, last }) => ({
    ...{ id, name, first, last },
    ...inText(sharedBy(rangeOf(row), rangeOf({ first, last }))!),
  }));
}

const described = (row: { card: typeof cardTable.$inferSelect; holder: string | null }) => ({
  id: row.card.id,
  formatId: row.card.formatId,
  facility: row.card.facility || null,
  number: row.card.number,
  state: row.card.state as BoxReview['sameBits']['examples'][number]['state'],
  holder: row.holder,
});

const withHolder = (db: Queryable) =>
  db
    .select({ card: cardTable, holder: cardholderTable.name })
    .from(cardTable)
    .leftJoin(cardholderTable, eq(cardholderTable.id, cardTable.holderId));

/** So many boxes are held against the bits on file at once: of the greatest each takes seconds. */
const AT_ONCE = 3;
let comparing = 0;

/** Looked for only where there can be any: another format of this length, or another version of this one. */
async function sameBits(db: Queryable, site: string, format: Format, asked: BoxAsked): Promise<BoxReview['sameBits']> {
  if (!(await mayShareBits(db, site, format))) return { cards: 0, examples: [] };
  if (comparing >= AT_ONCE)
    throw new HttpProblem(
      503,
      { code: 'busy', message: 'Other boxes are being reviewed at the moment.', hint: 'Try again in a few seconds.' },
      3,
    );
  comparing++;
  try {
    return await sameBitsOf(db, site, format, asked);
  } finally {
    comparing--;
  }
}

async function sameBitsOf(
  db: Queryable,
  site: string,
  format: Format,
  asked: BoxAsked,
): Promise<BoxReview['sameBits']> {
  const row = rowFrom(format, asked);
  let cards = 0;
  const examples: BoxReview['sameBits']['examples'] = [];
  for (let at = 0; at < row.count; at += BITS_A_QUERY) {
    const bits = cardsOf(format, asked, at, BITS_A_QUERY).map((card) => card.bits);
    const same = and(eq(cardTable.siteId, site), inArray(cardTable.bits, bits), not(namedBy(site, row)!));
    const wanted = EXAMPLES - examples.length;
    const some = wanted === 0 ? [] : await withHolder(db).where(same).limit(wanted);
    examples.push(...some.map(described));
    cards += some.length < wanted ? some.length : await db.$count(cardTable, same);
    await new Promise((resolve) => setImmediate(resolve));
  }
  return { cards, examples };
}

async function mayShareBits(db: Queryable, site: string, format: Format): Promise<boolean> {
  if ((await versionsOf(db, format.id)).length > 1) return true;
  for (const { format: other } of await adoptedFormats(db, site))
    if (other.id !== format.id && other.bits === format.bits && (await cardsOfFormat(db, site, other.id)) > 0)
      return true;
  return false;
}

/** Cards of the same numbers under another code or format, at controllers that ignore the code and accept both. */
async function sameNumber(db: Queryable, site: string, row: Row): Promise<BoxReview['sameNumber']> {
  const accepted = await acceptedBy(db, site);
  const ignoring = await db
    .select()
    .from(controllerTable)
    .where(and(eq(controllerTable.siteId, site), eq(controllerTable.comparesFacility, false)))
    .orderBy(asc(controllerTable.name));
  const concerned = ignoring.filter(({ id }) => accepted.get(id)?.includes(row.formatId));
  const formats = [...new Set(concerned.flatMap(({ id }) => accepted.get(id)!))];
  const none = { cards: 0, more: false, controllers: [], examples: [] };
  if (formats.length === 0) return none;
  const same = and(
    eq(cardTable.siteId, site),
    inArray(cardTable.formatId, formats),
    gte(cardTable.numberKey, row.firstKey),
    lte(cardTable.numberKey, row.lastKey),
    not(ofLine(site, row)!),
  );
  const examples = await withHolder(db).where(same).orderBy(asc(cardTable.numberKey)).limit(EXAMPLES);
  if (examples.length === 0) return none;
  const some = db
    .select({ id: cardTable.id })
    .from(cardTable)
    .where(same)
    .limit(COUNTED + 1)
    .as('some');
  const [counted] = await db.select({ cards: count() }).from(some);
  const met = new Set(examples.map(({ card }) => card.formatId));
  return {
    cards: Math.min(counted!.cards, COUNTED),
    more: counted!.cards > COUNTED,
    controllers: concerned
      .filter(({ id }) => accepted.get(id)!.some((format) => met.has(format)))
      .map(({ name }) => name),
    examples: examples.map(described),
  };
}

async function neighbours(db: Queryable, site: string, row: Row): Promise<Pick<BoxReview, 'below' | 'above'>> {
  const [below] = await db
    .select()
    .from(boxTable)
    .where(alongBoxes(site, row, lt(boxTable.firstKey, row.firstKey)))
    .orderBy(desc(boxTable.lastKey))
    .limit(1);
  const [above] = await db
    .select()
    .from(boxTable)
    .where(alongBoxes(site, row, gt(boxTable.lastKey, row.lastKey)))
    .orderBy(asc(boxTable.firstKey))
    .limit(1);
  const [from, to] = [BigInt(row.first), BigInt(row.last)];
  return {
    below: below ? { ...told(below), last: below.last, between: between(BigInt(below.last) + 1n, from - 1n) } : null,
    above: above ? { ...told(above), first: above.first, between: between(to + 1n, BigInt(above.first) - 1n) } : null,
  };
}

const told = ({ id, name }: BoxRow) => ({ id, name });

function between(from: bigint, to: bigint): { from: string; to: string } | null {
  const [gap] = from <= to ? gapsIn({ from, to }, []) : [];
  return gap ? inText(gap) : null;
}
