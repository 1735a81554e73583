/** Cards from a sheet: every row held against its format, the others and what is on file; the good ones entered, all or none. */
import { type SheetReview, sheetApi, type sheetSchema } from '@rawbits/api';
import { RawBitsError } from '@rawbits/core/failure';
import type { Format } from '@rawbits/core/format';
import { and, eq, inArray } from 'drizzle-orm';
import type { z } from 'zod';
import { isDuplicate, newId, type Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { chunks } from '../../platform/lists/lists.ts';
import { conflict } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { bitsOf, boxTable, cardholderTable, cardTable, countCards, numberKey } from '../cards/index.ts';
import { checkMoved, noteCards } from '../doors/index.ts';
import { adoptedFormat, type Called, canonicalCard, nameOf } from './onFile.ts';

type Sheet = z.output<typeof sheetSchema>;
type Row = Sheet['rows'][number];

/** MariaDB makes a table of a longer list first (`in_predicate_conversion_threshold`). */
const A_QUERY = 900;
const A_PIECE = 500;
const NAMES = 100;

interface Good extends Called {
  row: Row;
  bits: string | null;
  state: string;
  /** Null where nobody holds it. */
  holder: string | null;
}

interface Reviewed {
  good: Good[];
  bad: SheetReview['bad'];
  /** By their key: who is on file already, and who is not yet. */
  known: Map<string, string>;
  fresh: Map<string, { name: string; department: string }>;
}

/** A card at the beginning of a sentence. */
const called = (card: Called): string => nameOf(card).replace('card', 'Card');

/** A person as a sheet means them: by name, and by department where the sheet gives it. */
const holderKey = ({ holder, department }: Pick<Row, 'holder' | 'department'>): string =>
  JSON.stringify([holder.trim(), department.trim()]);

async function reviewed(db: Queryable, site: string, { formatId, rows }: Sheet): Promise<Reviewed> {
  const format = await adoptedFormat(db, site, formatId);
  const bad: SheetReview['bad'] = [];
  const refuse = (row: Row, message: string, hint?: string, field?: string) =>
    bad.push({ row: row.row, message, hint, ...(field && { where: { field } }) });
  const people = await peopleNamed(db, site, rows);
  const seen = new Map<string, number>();
  const good: Good[] = [];
  for (const [i, row] of rows.entries()) {
    // Others are answered meanwhile.
    if (i % A_PIECE === 0) await new Promise((resolve) => setImmediate(resolve));
    const card = read(format, row, refuse);
    if (!card) continue;
    const key = `${card.facility}/${card.number}`;
    const before = seen.get(key);
    if (before !== undefined) {
      refuse(row, `${called(card)} stands in row ${before}, too.`, 'Keep one of the two.', 'number');
      continue;
    }
    seen.set(key, row.row);
    if (card.holder !== null && people.twice.has(card.holder)) {
      refuse(row, `Several cardholders are called ${row.holder.trim()}.`, 'Give the department, too.', 'holder');
      continue;
    }
    good.push(card);
  }
  const there = await onFile(db, site, formatId, good);
  const left = good.filter((card) => {
    const state = there.get(`${card.facility}/${card.number}`);
    if (state === undefined) return true;
    refuse(
      card.row,
      `${called(card)} is on file already, ${state}.`,
      'Take the row out, or change the card under Stock.',
      'number',
    );
    return false;
  });
  const fresh: Reviewed['fresh'] = new Map();
  for (const { holder, row } of left)
    if (holder !== null && !people.known.has(holder))
      fresh.set(holder, { name: row.holder.trim(), department: row.department.trim() });
  return { good: left, bad: bad.sort((a, b) => a.row - b.row), known: people.known, fresh };
}

/** A row as a card; undefined, and refused, where it cannot be one. */
function read(
  format: Format,
  row: Row,
  refuse: (row: Row, message: string, hint?: string, field?: string) => void,
): Good | undefined {
  const holder = row.holder.trim() === '' ? null : holderKey(row);
  const state = row.state ?? (holder === null ? 'in stock' : 'issued');
  if (holder === null && (state === 'issued' || state === 'active'))
    return void refuse(row, `A card that is ${state} has a holder.`, 'Name the holder, or say in stock.', 'holder');
  if (holder !== null && state === 'in stock')
    return void refuse(
      row,
      'A card in stock has no holder.',
      'Say issued or active, or leave the holder out.',
      'state',
    );
  if (row.validFrom && row.validTo && row.validFrom >= row.validTo)
    return void refuse(row, 'The card ends before it begins.', 'Give a later end.', 'validTo');
  try {
    const card = canonicalCard(format, row.facility.trim() || null, row.number.trim());
    return { row, ...card, bits: bitsOf(format, card), state, holder };
  } catch (error) {
    if (!(error instanceof RawBitsError)) throw error;
    return void refuse(row, error.message, error.hint, error.where?.field ?? 'number');
  }
}

/** The states of those of the cards that are on file, by code and number. */
async function onFile(
  db: Queryable,
  site: string,
  formatId: string,
  cards: readonly Good[],
): Promise<Map<string, string>> {
  const there = new Map<string, string>();
  for (const some of chunks(cards, A_QUERY)) {
    const rows = await db
      .select({ facility: cardTable.facility, number: cardTable.number, state: cardTable.state })
      .from(cardTable)
      .where(
        and(
          eq(cardTable.siteId, site),
          eq(cardTable.formatId, formatId),
          inArray(cardTable.facility, [...new Set(some.map(({ facility }) => facility))]),
          inArray(
            cardTable.number,
            some.map(({ number }) => number),
          ),
        ),
      );
    for (const { facility, number, state } of rows) there.set(`${facility}/${number}`, state);
  }
  return there;
}

/** Who of the people in a sheet is on file, by their keys, and who is meant by several. */
async function peopleNamed(
  db: Queryable,
  site: string,
  rows: readonly Row[],
): Promise<{ known: Map<string, string>; twice: Set<string> }> {
  const [known, twice] = [new Map<string, string>(), new Set<string>()];
  const asked = new Map(rows.filter(({ holder }) => holder.trim() !== '').map((row) => [holderKey(row), row]));
  const names = [...new Set([...asked.values()].map(({ holder }) => holder.trim()))];
  const found = new Map<string, { id: string; department: string }[]>();
  for (const some of chunks(names, A_QUERY))
    for (const { id, name, department } of await db
      .select()
      .from(cardholderTable)
      .where(and(eq(cardholderTable.siteId, site), inArray(cardholderTable.name, some))))
      found.set(name, [...(found.get(name) ?? []), { id, department }]);
  for (const [key, { holder, department }] of asked) {
    const namesakes = found.get(holder.trim()) ?? [];
    const meant =
      department.trim() === '' ? namesakes : namesakes.filter((one) => one.department === department.trim());
    if (meant.length > 1) twice.add(key);
    else if (meant[0]) known.set(key, meant[0].id);
  }
  return { known, twice };
}

const review = handle(sheetApi.review, async ({ app, site, body }) => {
  const { good, bad, fresh } = await reviewed(app.db, site, body);
  const held = good.filter(({ holder }) => holder !== null).length;
  const names = [...fresh.values()].map(({ name }) => name).sort();
  return {
    good: good.length,
    held,
    inStock: good.filter(({ state }) => state === 'in stock').length,
    newHolders: { count: names.length, names: names.slice(0, NAMES) },
    bad,
  };
});

const enter = handle(sheetApi.enter, async ({ app, operator, site, body }) => {
  try {
    return await change(app, operator, site, async (tx, record) => {
      await checkMoved(tx, site);
      const { good, known, fresh } = await reviewed(tx, site, body);
      if (good.length !== body.good)
        throw conflict(
          'changed-meanwhile',
          `${good.length} rows can be entered now, and ${body.good} could when they were reviewed.`,
          'Review the sheet again.',
        );
      const people = [...fresh].map(([key, person]) => ({ key, id: newId(), siteId: site, ...person }));
      for (const { key, id } of people) known.set(key, id);
      for (const some of chunks(people, A_PIECE))
        await tx.insert(cardholderTable).values(some.map(({ key: _, ...row }) => row));
      await insert(tx, site, body.formatId, good, known);
      const [first, last] = [good[0]!, good.at(-1)!].map(nameOf);
      record.trail({
        action: 'sheet entered',
        subject: `sheet ${body.name || `of ${good.length} cards`}`,
        after: { format: body.formatId, cards: good.length, first, last, newHolders: people.length },
      });
      record.announce('cards');
      if (people.length > 0) record.announce('cardholders');
      return { cards: good.length, newHolders: people.length };
    });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw conflict('card-on-file', 'Somebody put one of these cards on file meanwhile.', 'Review the sheet again.');
  }
});

async function insert(
  tx: Queryable,
  site: string,
  formatId: string,
  good: readonly Good[],
  people: ReadonlyMap<string, string>,
): Promise<void> {
  const boxes = await tx
    .select()
    .from(boxTable)
    .where(and(eq(boxTable.siteId, site), eq(boxTable.formatId, formatId)))
    .orderBy(boxTable.enteredAt, boxTable.id);
  const boxOf = ({ facility, number }: Called): string | null => {
    const key = numberKey(number);
    return boxes.find((box) => box.facility === facility && box.firstKey <= key && key <= box.lastKey)?.id ?? null;
  };
  const createdAt = new Date();
  const counts = new Map<string, { state: string; boxId: string | null; cards: number }>();
  const instant = (text: string | null): Date | null => (text === null ? null : new Date(text));
  for (const some of chunks(good, A_PIECE)) {
    const rows = some.map(({ row, facility, number, bits, state, holder }) => ({
      id: newId(),
      siteId: site,
      formatId,
      ...{ facility, number, bits, state },
      printed: row.printed.trim(),
      holderId: holder === null ? null : people.get(holder)!,
      boxId: boxOf({ facility, number }),
      validFrom: instant(row.validFrom),
      validTo: instant(row.validTo),
      notes: row.notes,
      createdAt,
    }));
    await tx.insert(cardTable).values(rows);
    for (const { state, boxId } of rows) {
      const key = `${state} ${boxId}`;
      const count = counts.get(key) ?? { state, boxId, cards: 0 };
      counts.set(key, { ...count, cards: count.cards + 1 });
    }
    const ids = rows.filter(({ state }) => state !== 'in stock').map(({ id }) => id);
    if (ids.length > 0) await noteCards(tx, site, inArray(cardTable.id, ids));
  }
  for (const { state, boxId, cards } of counts.values())
    await countCards(tx, { siteId: site, formatId, state, boxId }, cards);
}

export const sheetRoutes = [review, enter];
