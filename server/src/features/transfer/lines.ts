/** Lines of a site's file as rows: each kind with its table, and what it names checked against what stands before it. */
import type { SiteLine, SiteLineOf } from '@rawbits/api';
import { ALWAYS } from '@rawbits/core/access/schedule';
import { Bits } from '@rawbits/core/bits';
import { countOf } from '@rawbits/core/box';
import { failureOf } from '@rawbits/core/failure';
import { and, eq, inArray } from 'drizzle-orm';
import type { MySqlTable } from 'drizzle-orm/mysql-core';
import { derivedId, type Queryable } from '../../platform/database/index.ts';
import { HttpProblem } from '../../platform/problem/problem.ts';
import { boxTable, cardholderTable, cardTable, countCards, numberKey } from '../cards/index.ts';
import { caseTable, putSpecimens } from '../cases/index.ts';
import { addReader, controllerTable, doorTable, eventTable, readerTable } from '../doors/index.ts';
import { facilityCodeTable } from '../facilityCodes/index.ts';
import { cardholderRulesTable, photographTable } from '../people/index.ts';
import { readTable } from '../reads/index.ts';
import { accessGroupTable, assertionTable, calendarTable, groupSetOf, scheduleTable } from '../rights/index.ts';
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

const own = ({ siteId }: Taking, name: string): string => derivedId(siteId, name);
const ownOrNull = (taking: Taking, name: string | null): string | null => (name === null ? null : own(taking, name));

type Takes<K extends SiteLine['kind']> = (
  tx: Queryable,
  taking: Taking,
  lines: readonly Numbered<SiteLineOf<K>>[],
) => Promise<void>;

/** Schedules have names of their own here, but for the one that is there by itself. */
const scheduleHere = (taking: Taking, theirs: string): string => (theirs === ALWAYS.id ? theirs : own(taking, theirs));

const ACCESS_KINDS: { [K in SiteLine['kind']]?: Takes<K> } = {
  holidays: (tx, { siteId }, lines) =>
    insert(tx, calendarTable, lines, ({ line: { holidays } }) => ({ siteId, holidays })),
  schedule: (tx, taking, lines) =>
    insert(tx, scheduleTable, lines, ({ line: { id, name, periods, onHolidays } }) => ({
      id: own(taking, id),
      siteId: taking.siteId,
      name,
      periods,
      onHolidays,
    })),
  'access group': async (tx, taking, lines) => {
    await checkAll(
      tx,
      taking,
      doorTable,
      lines,
      ({ rights }) => rights.flatMap((r) => r.doors.map((d) => d.door)),
      'door',
    );
    const schedules = ({ rights }: SiteLineOf<'access group'>) =>
      rights.flatMap(({ schedule }) => (schedule === ALWAYS.id ? [] : [schedule]));
    await checkAll(tx, taking, scheduleTable, lines, schedules, 'schedule');
    await insert(tx, accessGroupTable, lines, ({ line: { id, name, rights } }) => ({
      id: own(taking, id),
      siteId: taking.siteId,
      name,
      rights: JSON.stringify(
        rights.map(({ doors, schedule }) => ({
          doors: doors.map(({ door, ways }) => ({ door: own(taking, door), ways })),
          schedule: scheduleHere(taking, schedule),
        })),
      ),
    }));
  },
  membership: async (tx, taking, lines) => {
    await checkAll(tx, taking, accessGroupTable, lines, ({ groups }) => groups, 'access group');
    await checkNamed(tx, taking, cardholderTable, lines, ({ holder }) => holder, 'cardholder');
    await checkNamed(tx, taking, cardTable, lines, ({ card }) => card, 'card');
    for (const { line } of lines) {
      const groups = line.groups.map((group) => own(taking, group));
      const groupSetId = await groupSetOf(tx, taking.siteId, groups);
      if (line.holder !== null)
        await tx
          .update(cardholderTable)
          .set({ groupSetId })
          .where(eq(cardholderTable.id, own(taking, line.holder)));
      if (line.card !== null)
        await tx
          .update(cardTable)
          .set({ groupSetId })
          .where(eq(cardTable.id, own(taking, line.card)));
    }
  },
  'cardholder rules': async (tx, taking, lines) => {
    await checkAll(
      tx,
      taking,
      accessGroupTable,
      lines,
      ({ brings }) => brings.flatMap(({ groups }) => groups),
      'group',
    );
    await insert(tx, cardholderRulesTable, lines, ({ line: { kind: _, brings, ...rules } }) => ({
      ...rules,
      siteId: taking.siteId,
      brings: brings.map((rule) => ({ ...rule, groups: rule.groups.map((group) => own(taking, group)) })),
    }));
  },
  assertion: async (tx, taking, lines) => {
    await checkAll(tx, taking, doorTable, lines, ({ doors }) => doors, 'door');
    await checkAll(tx, taking, accessGroupTable, lines, ({ but }) => but, 'access group');
    await insert(tx, assertionTable, lines, ({ line: { kind: _, ...assertion }, row }) => ({
      id: own(taking, `assertion ${row}`),
      siteId: taking.siteId,
      name: assertion.name,
      definition: JSON.stringify({
        ...assertion,
        but: assertion.but.map((group) => own(taking, group)),
        doors: assertion.doors.map((door) => own(taking, door)),
      }),
    }));
  },
};

/** How lines of each kind are put on file; those that are not here make no rows. */
const KINDS: { [K in SiteLine['kind']]?: Takes<K> } = {
  'facility code': (tx, taking, lines) =>
    insert(tx, facilityCodeTable, lines, ({ line, row }) => ({
      id: own(taking, `code ${row}`),
      siteId: taking.siteId,
      formatId: line.formatId === null ? '' : formatHere(taking, line.formatId, row),
      code: BigInt(line.code).toString(),
      name: line.name,
      notes: line.notes,
      orderedBy: line.orderedBy,
      orderedFrom: momentOrNull(line.orderedFrom),
      reserved: line.reserved,
    })),
  translation: (tx, taking, lines) =>
    insert(tx, translationTable, lines, ({ line: { kind: _, createdAt, ...line }, row }) => ({
      ...line,
      id: own(taking, `translation ${row}`),
      siteId: taking.siteId,
      createdAt: moment(createdAt),
    })),
  cardholder: (tx, taking, lines) =>
    insert(tx, cardholderTable, lines, ({ line: { kind: _, id, is = '', ...line } }) => ({
      ...line,
      kind: is,
      id: own(taking, id),
      siteId: taking.siteId,
    })),
  photograph: async (tx, taking, lines) => {
    await checkNamed(tx, taking, cardholderTable, lines, ({ holder }) => holder, 'cardholder');
    await insert(tx, photographTable, lines, ({ line: { holder, type, data } }) => ({
      holderId: own(taking, holder),
      siteId: taking.siteId,
      type,
      data,
      setAt: new Date(),
    }));
  },
  box: (tx, taking, lines) =>
    insert(tx, boxTable, lines, ({ line: { kind: _, ...line }, row }) => ({
      ...line,
      id: own(taking, line.id),
      siteId: taking.siteId,
      formatId: formatHere(taking, line.formatId, row),
      facility: line.facility === null ? '' : BigInt(line.facility).toString(),
      firstKey: numberKey(line.first),
      lastKey: numberKey(line.last),
      count: countIn(line, row),
      enteredAt: moment(line.enteredAt),
    })),
  card: takeCards,
  controller: (tx, taking, lines) =>
    insert(tx, controllerTable, lines, ({ line: { id, name, device, comparesFacility } }) => ({
      id: own(taking, id),
      siteId: taking.siteId,
      name,
      device,
      comparesFacility,
    })),
  door: async (tx, taking, lines) => {
    await checkNamed(tx, taking, controllerTable, lines, ({ controller }) => controller, 'controller');
    await insert(tx, doorTable, lines, ({ line: { id, name, controller, byGroups } }) => ({
      id: own(taking, id),
      siteId: taking.siteId,
      controllerId: own(taking, controller),
      name,
      byGroups,
    }));
  },
  reader: async (tx, taking, lines) => {
    await checkNamed(tx, taking, controllerTable, lines, ({ controller }) => controller, 'controller');
    await checkNamed(tx, taking, doorTable, lines, ({ door = null }) => door, 'door');
    for (const { line } of lines)
      await addReader(tx, taking.siteId, {
        id: own(taking, line.id),
        name: line.name,
        kind: line.use,
        device: line.device,
        controllerId: ownOrNull(taking, line.controller),
        doorId: ownOrNull(taking, line.door ?? null),
        way: line.way ?? 'in',
      });
  },
  ...ACCESS_KINDS,
  case: async (tx, taking, lines) => {
    await insert(tx, caseTable, lines, ({ line, row }) => ({
      id: own(taking, line.id),
      siteId: taking.siteId,
      name: line.name,
      specimenCount: line.specimens.length,
      questions: line.questions,
      formatId: line.formatId === null ? null : formatHere(taking, line.formatId, row),
      settledFor: line.settledFor ?? null,
      createdBy: line.createdBy,
      createdAt: moment(line.createdAt),
      changedAt: moment(line.changedAt),
    }));
    for (const { line } of lines) {
      await putSpecimens(tx, { id: own(taking, line.id), siteId: taking.siteId }, line.specimens);
    }
  },
  read: async (tx, taking, lines) => {
    await checkNamed(tx, taking, readerTable, lines, ({ reader }) => reader, 'reader');
    await insert(tx, readTable, lines, ({ line }) => ({
      id: own(taking, line.id),
      siteId: taking.siteId,
      at: moment(line.at),
      bits: line.bits,
      hex: Bits.fromBinary(line.bits).toHex(),
      length: line.bits.length,
      source: line.source,
      notation: line.notation,
      readerId: ownOrNull(taking, line.reader),
    }));
  },
  event: (tx, taking, lines) =>
    insert(tx, eventTable, lines, ({ line, row }) => ({
      id: own(taking, `event ${row}`),
      siteId: taking.siteId,
      at: moment(line.at),
      kind: line.what,
      controllerId: ownOrNull(taking, line.controller),
      readerId: ownOrNull(taking, line.reader),
      readId: ownOrNull(taking, line.read),
      bits: line.bits,
      outcome: line.outcome,
      stoppedAt: line.stoppedAt,
      formatId: line.formatId === null ? null : (taking.formats.get(line.formatId) ?? line.formatId),
      reason: line.reason,
      advice: line.advice,
      cardId: ownOrNull(taking, line.card),
      holder: line.holder,
    })),
};

/** Puts lines of one kind on file, up to one piece of them. */
export async function takeLines(tx: Queryable, taking: Taking, lines: readonly Numbered[]): Promise<void> {
  const takes = KINDS[lines[0]!.line.kind] as ((...given: Parameters<typeof takeLines>) => Promise<void>) | undefined;
  await takes?.(tx, taking, lines);
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

type Nameable =
  | typeof boxTable
  | typeof cardholderTable
  | typeof cardTable
  | typeof controllerTable
  | typeof readerTable
  | typeof doorTable
  | typeof scheduleTable
  | typeof accessGroupTable;

/** Throws where a line names something of a table that no line before it has. */
const checkNamed = <L extends SiteLine>(
  tx: Queryable,
  taking: Taking,
  table: Nameable,
  lines: readonly Numbered<L>[],
  nameIn: (line: L) => string | null,
  what: string,
): Promise<void> => checkAll(tx, taking, table, lines, (line) => [nameIn(line)].flatMap((name) => name ?? []), what);

/** As `checkNamed`, of lines that name several. */
async function checkAll<L extends SiteLine>(
  tx: Queryable,
  { siteId }: Taking,
  table: Nameable,
  lines: readonly Numbered<L>[],
  namesIn: (line: L) => readonly string[],
  what: string,
): Promise<void> {
  const named = new Map<string, { row: number; name: string }>();
  for (const { line, row } of lines)
    for (const name of namesIn(line)) named.set(derivedId(siteId, name), { row, name });
  if (named.size === 0) return;
  const known = await tx
    .select({ id: table.id })
    .from(table)
    .where(and(eq(table.siteId, siteId), inArray(table.id, [...named.keys()])));
  for (const { id } of known) named.delete(id);
  const [missing] = named.values();
  if (missing) throw wrongLine(missing.row, `it names the ${what} "${missing.name}", which no line before it has.`);
}

function countIn(label: Pick<SiteLineOf<'box'>, 'first' | 'last'>, row: number): number {
  try {
    return countOf(label);
  } catch (error) {
    throw wrongLine(row, failureOf(error).message);
  }
}

async function takeCards(tx: Queryable, taking: Taking, lines: readonly Numbered<SiteLineOf<'card'>>[]): Promise<void> {
  const { siteId } = taking;
  await checkNamed(tx, taking, cardholderTable, lines, ({ holder }) => holder, 'cardholder');
  await checkNamed(tx, taking, boxTable, lines, ({ box = null }) => box, 'box');
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
    boxId: line.box == null ? null : derivedId(siteId, line.box),
    validFrom: momentOrNull(line.validFrom),
    validTo: momentOrNull(line.validTo),
    notes: line.notes,
    createdAt: moment(line.createdAt),
  }));
  await tx.insert(cardTable).values(rows);
  type Count = { siteId: string; formatId: string; state: string; boxId: string | null; cards: number };
  const counts = new Map<string, Count>();
  for (const { formatId, state, boxId } of rows) {
    const key = `${formatId} ${state} ${boxId}`;
    const count = counts.get(key) ?? { siteId, formatId, state, boxId, cards: 0 };
    counts.set(key, { ...count, cards: count.cards + 1 });
  }
  for (const { cards, ...of } of counts.values()) await countCards(tx, of, cards);
}
