/**
 * Which numbers may be encoded: those that are on no card yet. A card that lies in a box has its number already, so that a run
 * which took it would make a second credential of that number.
 */
import { and, between, desc, eq, exists, gte, inArray, isNull, lte, not, or, type SQL, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { conflict } from '../../platform/problem/problem.ts';
import { boxTable, cardTable, numberKey } from '../cards/index.ts';
import { facilityCodeTable, reservedFrom } from '../facilityCodes/index.ts';
import { knownOf } from './known.ts';

/** A range of numbers of a facility code whose cards are yet to be encoded. */
interface KeptRange {
  /** Empty where the code is not of one format. */
  formatId: string;
  code: string;
  from: bigint;
  to: bigint;
}

export const HOW_KEPT =
  'Keep a range of the facility code for encoding (Formats, Facility codes), or name the box as blanks (Stock, Boxes).';

export async function keptRanges(db: Queryable, site: string): Promise<KeptRange[]> {
  const codes = await db.select().from(facilityCodeTable).where(eq(facilityCodeTable.siteId, site));
  return codes.flatMap(({ formatId, code, reserved }) =>
    reservedFrom(reserved).flatMap(({ from, to, forEncoding }) =>
      forEncoding ? [{ formatId, code, from: BigInt(from), to: BigInt(to) }] : [],
    ),
  );
}

/** Cards whose numbers are on no card yet: of a box of blanks, or of no box and in a range kept for encoding. */
export function isForEncoding(db: Queryable, ranges: readonly KeptRange[]) {
  const inRange = ranges.map(({ formatId, code, from, to }) =>
    and(
      eq(cardTable.facility, code),
      formatId === '' ? undefined : eq(cardTable.formatId, formatId),
      between(cardTable.numberKey, numberKey(String(from)), numberKey(String(to))),
    ),
  );
  const isBlank = db
    .select({ one: sql`1` })
    .from(boxTable)
    .where(and(eq(boxTable.id, cardTable.boxId), boxTable.blanks));
  return or(exists(isBlank), and(isNull(cardTable.boxId), inRange.length > 0 ? or(...inRange) : sql`false`));
}

/** A number that a card in somebody's hand has already must not come onto a second one. */
export async function checkForEncoding(db: Queryable, site: string, ids: readonly string[]): Promise<void> {
  const own = and(eq(cardTable.siteId, site), inArray(cardTable.id, [...ids]));
  const [other] = await db
    .select({ id: cardTable.id, box: boxTable.name })
    .from(cardTable)
    .leftJoin(boxTable, eq(boxTable.id, cardTable.boxId))
    .where(and(own, not(isForEncoding(db, await keptRanges(db, site))!)))
    .limit(1);
  if (!other) return;
  const { called } = (await knownOf(db, site, [other.id])).get(other.id)!;
  throw conflict(
    'not-for-encoding',
    other.box === null
      ? `The number of card ${called} is not kept for encoding: there may be a card that has it already.`
      : `Card ${called} lies in the box ${other.box} and has its number already: a second one would have it, too.`,
    HOW_KEPT,
    'cards.cards',
  );
}

interface Next {
  /** The cards of the format and the code. */
  of: SQL | undefined;
  ranges: readonly KeptRange[];
  first: bigint | undefined;
  count: number;
  code: string;
}

/** The number to begin with: in a range that is kept for encoding and has so many left after its greatest on file. */
export async function firstOf(tx: Queryable, { of, ranges, first, count, code }: Next): Promise<bigint> {
  const last = (from: bigint) => from + BigInt(count) - 1n;
  if (first !== undefined) {
    if (ranges.some(({ from, to }) => first >= from && last(first) <= to)) return first;
    throw conflict(
      'not-for-encoding',
      `${first} to ${last(first)} under the facility code ${code || 'none'} are not kept for encoding.`,
      HOW_KEPT,
      'cards.first',
    );
  }
  for (const { from, to } of ranges) {
    const [greatest] = await tx
      .select({ number: cardTable.number })
      .from(cardTable)
      .where(and(of, between(cardTable.numberKey, numberKey(String(from)), numberKey(String(to)))))
      .orderBy(desc(cardTable.numberKey))
      .limit(1);
    const next = greatest ? BigInt(greatest.number) + 1n : from;
    if (last(next) <= to) return next;
  }
  throw conflict(
    'not-for-encoding',
    ranges.length === 0
      ? `No numbers under the facility code ${code || 'none'} are kept for encoding.`
      : `No range kept for encoding under the facility code ${code} has ${count} numbers left.`,
    HOW_KEPT,
    'cards.facility',
  );
}

/** Numbers of a box that are not on file are on its cards all the same. */
export async function checkNoBox(
  tx: Queryable,
  site: string,
  { formatId, code, from, to }: { formatId: string; code: string; from: bigint; to: bigint },
): Promise<void> {
  const [box] = await tx
    .select({ name: boxTable.name })
    .from(boxTable)
    .where(
      and(
        ...[eq(boxTable.siteId, site), eq(boxTable.formatId, formatId), eq(boxTable.facility, code)],
        ...[eq(boxTable.blanks, false), lte(boxTable.firstKey, numberKey(String(to)))],
        gte(boxTable.lastKey, numberKey(String(from))),
      ),
    )
    .limit(1);
  if (box)
    throw conflict(
      'not-for-encoding',
      `Numbers from ${from} to ${to} are those of the box ${box.name}, whose cards have them already.`,
      'Begin after it, or name the box as blanks.',
      'cards.first',
    );
}
