/** Lines of a site's file as rows: each kind with its table, and what it names checked against what stands before it. */
import type { SiteLine, SiteLineOf } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { and, eq, inArray } from 'drizzle-orm';
import type { MySqlTable } from 'drizzle-orm/mysql-core';
import { derivedId, type Queryable } from '../../platform/database/index.ts';
import { HttpProblem } from '../../platform/problem/problem.ts';
import { cardholderTable, cardTable, countCards } from '../cards/index.ts';
import { caseTable } from '../cases/index.ts';
import { controllerTable, eventTable, readerTable } from '../doors/index.ts';
import { facilityCodeTable } from '../facilityCodes/index.ts';
import { readTable } from '../reads/index.ts';
import { translationTable } from '../translations/index.ts';

/** A line with its number in the file, from 1. */
export interface Numbered<L extends SiteLine = SiteLine> {
  line: L;
  row: number;
}

export const wrongLine = (row: number, message: string, hint?: string) =>
  new HttpProblem(422, {
    code: 'site-file',
    message: `Line ${row}: ${message}`,
    hint: hint ?? 'Nothing of this site is kept until all of the file can be taken.',
    where: { row },
  });

export interface Taking {
  siteId: string;
  /** What the formats of the file are called here. */
  formats: ReadonlyMap<string, string>;
}

const moment = (text: string): Date => new Date(text);
const momentOrNull = (text: string | null): Date | null => (text === null ? null : new Date(text));

/** Puts lines of one kind on file, up to one piece of them; kinds that make no rows are passed over. */
export async function takeLines(tx: Queryable, taking: Taking, lines: readonly Numbered[]): Promise<void> {
  const { siteId } = taking;
  const of = <K extends SiteLine['kind']>(_kind: K) => lines as readonly Numbered<SiteLineOf<K>>[];
  const own = (name: string) => derivedId(siteId, name);
  const ownOrNull = (name: string | null) => (name === null ? null : own(name));
  switch (lines[0]!.line.kind) {
    case 'facility code':
      return insert(tx, facilityCodeTable, of('facility code'), ({ line, row }) => ({
        id: own(`code ${row}`),
        siteId,
        formatId: line.formatId === null ? '' : formatHere(taking, line.formatId, row),
        code: BigInt(line.code).toString(),
        name: line.name,
        notes: line.notes,
        orderedBy: line.orderedBy,
        orderedFrom: momentOrNull(line.orderedFrom),
        reserved: line.reserved,
      }));
    case 'translation':
      return insert(tx, translationTable, of('translation'), ({ line: { kind: _, createdAt, ...line }, row }) => ({
        ...line,
        id: own(`translation ${row}`),
        siteId,
        createdAt: moment(createdAt),
      }));
    case 'cardholder':
      return insert(tx, cardholderTable, of('cardholder'), ({ line: { id, name, department } }) => ({
        id: own(id),
        siteId,
        name,
        department,
      }));
    case 'card':
      return takeCards(tx, taking, of('card'));
    case 'controller':
      return insert(tx, controllerTable, of('controller'), ({ line: { id, name, device, comparesFacility } }) => ({
        id: own(id),
        siteId,
        name,
        device,
        comparesFacility,
      }));
    case 'reader':
      await checkNamed(tx, siteId, controllerTable, of('reader'), ({ controller }) => controller, 'controller');
      return insert(tx, readerTable, of('reader'), ({ line: { id, name, use, device, controller } }) => ({
        id: own(id),
        siteId,
        name,
        kind: use,
        device,
        controllerId: ownOrNull(controller),
      }));
    case 'case':
      return insert(tx, caseTable, of('case'), ({ line, row }) => ({
        id: own(line.id),
        siteId,
        name: line.name,
        specimens: line.specimens,
        questions: line.questions,
        formatId: line.formatId === null ? null : formatHere(taking, line.formatId, row),
        createdBy: line.createdBy,
        createdAt: moment(line.createdAt),
        changedAt: moment(line.changedAt),
      }));
    case 'read':
      await checkNamed(tx, siteId, readerTable, of('read'), ({ reader }) => reader, 'reader');
      return insert(tx, readTable, of('read'), ({ line }) => ({
        id: own(line.id),
        siteId,
        at: moment(line.at),
        bits: line.bits,
        hex: Bits.fromBinary(line.bits).toHex(),
        length: line.bits.length,
        source: line.source,
        notation: line.notation,
        readerId: ownOrNull(line.reader),
      }));
    case 'event':
      return insert(tx, eventTable, of('event'), ({ line, row }) => ({
        id: own(`event ${row}`),
        siteId,
        at: moment(line.at),
        kind: line.what,
        controllerId: ownOrNull(line.controller),
        readerId: ownOrNull(line.reader),
        readId: ownOrNull(line.read),
        bits: line.bits,
        outcome: line.outcome,
        stoppedAt: line.stoppedAt,
        formatId: line.formatId === null ? null : (taking.formats.get(line.formatId) ?? line.formatId),
        reason: line.reason,
        advice: line.advice,
        cardId: ownOrNull(line.card),
        holder: line.holder,
      }));
  }
}

async function insert<L extends SiteLine, T extends MySqlTable>(
  tx: Queryable,
  table: T,
  lines: readonly Numbered<L>[],
  rowOf: (line: Numbered<L>) => T['$inferInsert'],
): Promise<void> {
  await tx.insert(table).values(lines.map(rowOf) as never);
}

function formatHere({ formats }: Taking, theirs: string, row: number): string {
  const here = formats.get(theirs);
  if (here === undefined) throw wrongLine(row, `it names the format "${theirs}", which no line before it has.`);
  return here;
}

/** Throws where a line names something of a table that no line before it has. */
async function checkNamed<L extends SiteLine>(
  tx: Queryable,
  siteId: string,
  table: typeof cardholderTable | typeof controllerTable | typeof readerTable,
  lines: readonly Numbered<L>[],
  nameIn: (line: L) => string | null,
  what: string,
): Promise<void> {
  const named = new Map<string, Numbered<L>>();
  for (const numbered of lines) {
    const name = nameIn(numbered.line);
    if (name !== null) named.set(derivedId(siteId, name), numbered);
  }
  if (named.size === 0) return;
  const known = await tx
    .select({ id: table.id })
    .from(table)
    .where(and(eq(table.siteId, siteId), inArray(table.id, [...named.keys()])));
  for (const { id } of known) named.delete(id);
  const [missing] = named.values();
  if (missing)
    throw wrongLine(missing.row, `it names the ${what} "${nameIn(missing.line)}", which no line before it has.`);
}

async function takeCards(tx: Queryable, taking: Taking, lines: readonly Numbered<SiteLineOf<'card'>>[]): Promise<void> {
  const { siteId } = taking;
  await checkNamed(tx, siteId, cardholderTable, lines, ({ holder }) => holder, 'cardholder');
  const rows = lines.map(({ line, row }) => ({
    id: derivedId(siteId, line.id),
    siteId,
    formatId: formatHere(taking, line.formatId, row),
    facility: line.facility === null ? '' : BigInt(line.facility).toString(),
    number: BigInt(line.number).toString(),
    printed: line.printed,
    bits: line.bits,
    state: line.state,
    holderId: line.holder === null ? null : derivedId(siteId, line.holder),
    validFrom: momentOrNull(line.validFrom),
    validTo: momentOrNull(line.validTo),
    notes: line.notes,
    createdAt: moment(line.createdAt),
  }));
  await tx.insert(cardTable).values(rows);
  const counts = new Map<string, { siteId: string; formatId: string; state: string; cards: number }>();
  for (const { formatId, state } of rows) {
    const key = `${formatId} ${state}`;
    const count = counts.get(key) ?? { siteId, formatId, state, cards: 0 };
    counts.set(key, { ...count, cards: count.cards + 1 });
  }
  for (const { cards, ...of } of counts.values()) await countCards(tx, of, cards);
}
