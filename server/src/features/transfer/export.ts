/** A whole site as lines of a file, as it is at one moment; page by page, so that memory stays flat. */
import { createHash } from 'node:crypto';
import { type CardFilter, type SettledFor, SITE_FILE, type SiteLine } from '@rawbits/api';
import type { AccessAssertion, Way } from '@rawbits/core/access/rights';
import { and, asc, eq, gt, isNotNull, type SQL } from 'drizzle-orm';
import type { MySqlColumn, MySqlTable } from 'drizzle-orm/mysql-core';
import type { Queryable } from '../../platform/database/index.ts';
import { trailTable } from '../../platform/trail/tables.ts';
import { markTable } from '../badges/index.ts';
import { boxTable, cardCountTable, cardholderTable, cardTable } from '../cards/index.ts';
import { caseTable, specimensOf } from '../cases/index.ts';
import { acceptedBy, controllerTable, doorTable, eventTable, formerDeviceTable, readerTable } from '../doors/index.ts';
import { facilityCodeTable, reservedFrom } from '../facilityCodes/index.ts';
import { adoptedFormats, versionsOf } from '../library/index.ts';
import { photographTable, rulesOf } from '../people/index.ts';
import { readTable } from '../reads/index.ts';
import { assertionTable, groupSetTable, sitesRights } from '../rights/index.ts';
import { siteTable } from '../sites/index.ts';
import { savedFilterTable } from '../stock/index.ts';
import { translationTable } from '../translations/index.ts';

const PAGE = 1000;

/** The digest of a file after one line more (`siteLineSchema`, `end`). */
export const carriedOn = (digest: string, line: string): string =>
  createHash('sha256').update(`${digest}\n${line}`).digest('hex');

interface Exporting {
  siteId: string;
  by: string;
  history: boolean;
}

/** The lines of the file, the last one included. `tx` is to be a snapshot. */
export async function* siteLines(tx: Queryable, exporting: Exporting): AsyncGenerator<string> {
  let [digest, lines] = ['', 0];
  for await (const line of contentOf(tx, exporting)) {
    const text = JSON.stringify(line);
    digest = carriedOn(digest, text);
    lines++;
    yield text;
  }
  yield JSON.stringify({ kind: 'end', lines, digest } satisfies SiteLine);
}

async function* contentOf(tx: Queryable, { siteId, by, history }: Exporting): AsyncGenerator<SiteLine> {
  const [site] = await tx.select().from(siteTable).where(eq(siteTable.id, siteId));
  const { name, shortName, timeZone } = site!;
  const exportedAt = new Date().toISOString();
  yield { kind: 'site', schema: SITE_FILE, name, shortName, timeZone, exportedAt, exportedBy: by, history };
  yield* formatLines(tx, siteId);
  yield* settingLines(tx, siteId);
  yield* cardLines(tx, siteId);
  yield* doorLines(tx, siteId);
  yield* accessLines(tx, siteId);
  yield* caseLines(tx, siteId);
  if (history) yield* historyLines(tx, siteId);
}

/** The rows of a table for which `where` holds, in the order of a column that is unique among them. */
async function* rowsOf<T extends MySqlTable>(
  tx: Queryable,
  table: T,
  where: SQL,
  along: MySqlColumn,
): AsyncGenerator<T['$inferSelect']> {
  const key = Object.entries(table).find(([, column]) => column === along)![0];
  for (let after: unknown; ; ) {
    const rows: T['$inferSelect'][] = await tx
      .select()
      .from(table as MySqlTable)
      .where(after === undefined ? where : and(where, gt(along, after)))
      .orderBy(asc(along))
      .limit(PAGE);
    yield* rows;
    if (rows.length < PAGE) return;
    after = (rows.at(-1) as Record<string, unknown>)[key];
  }
}

async function* formatLines(tx: Queryable, siteId: string): AsyncGenerator<SiteLine> {
  const used = new Map((await adoptedFormats(tx, siteId)).map(({ format, version }) => [format.id, version]));
  const counted = await tx
    .selectDistinct({ id: cardCountTable.formatId })
    .from(cardCountTable)
    .where(and(eq(cardCountTable.siteId, siteId), gt(cardCountTable.cards, 0)));
  const ids = new Set([...used.keys(), ...counted.map(({ id }) => id)]);
  for (const id of [...ids].sort()) {
    const versions = (await versionsOf(tx, id)).reverse();
    yield {
      kind: 'format',
      versions: versions.map(({ version, format, reason, createdBy, createdAt }) => ({
        version,
        format,
        reason,
        createdBy,
        createdAt,
      })),
      uses: used.get(id) ?? null,
    };
  }
}

async function* settingLines(tx: Queryable, siteId: string): AsyncGenerator<SiteLine> {
  for await (const row of rowsOf(tx, facilityCodeTable, eq(facilityCodeTable.siteId, siteId), facilityCodeTable.id)) {
    const { formatId, code, name, notes, orderedBy, orderedFrom, reserved } = row;
    yield {
      kind: 'facility code',
      formatId: formatId || null,
      code,
      name,
      notes,
      orderedBy,
      orderedFrom: at(orderedFrom),
      reserved: reservedFrom(reserved),
    };
  }
  for await (const row of rowsOf(tx, translationTable, eq(translationTable.siteId, siteId), translationTable.id)) {
    const { name, notes, definition, createdBy, createdAt } = row;
    yield { kind: 'translation', name, notes, definition: definition as never, createdBy, createdAt: at(createdAt) };
  }
}

async function* cardLines(tx: Queryable, siteId: string): AsyncGenerator<SiteLine> {
  for await (const row of rowsOf(tx, cardholderTable, eq(cardholderTable.siteId, siteId), cardholderTable.id)) {
    const { id, name, department, organisation, kind, contact, notes } = row;
    yield { kind: 'cardholder', id, name, department, organisation, is: kind, contact, notes };
  }
  const pictures = eq(photographTable.siteId, siteId);
  for await (const { holderId, type, data } of rowsOf(tx, photographTable, pictures, photographTable.holderId))
    yield { kind: 'photograph', holder: holderId, type: type as 'image/png', data };
  for await (const row of rowsOf(tx, markTable, eq(markTable.siteId, siteId), markTable.organisation))
    yield { kind: 'mark', organisation: row.organisation, data: row.data };
  for await (const row of rowsOf(tx, boxTable, eq(boxTable.siteId, siteId), boxTable.id)) {
    const { id, name, formatId, facility, first, last, print, values, notes, blanks, enteredBy, enteredAt } = row;
    yield {
      kind: 'box',
      id,
      name,
      formatId,
      facility: facility || null,
      first,
      last,
      print: print as never,
      values: values as never,
      notes,
      blanks,
      enteredBy,
      enteredAt: at(enteredAt),
    };
  }
  for await (const row of rowsOf(tx, cardTable, eq(cardTable.siteId, siteId), cardTable.id)) {
    const { id, formatId, facility, number, printed, bits, state, holderId, boxId, validFrom, validTo } = row;
    yield {
      kind: 'card',
      id,
      formatId,
      facility: facility || null,
      number,
      printed,
      bits,
      state: state as never,
      holder: holderId,
      box: boxId,
      validFrom: at(validFrom),
      validTo: at(validTo),
      notes: row.notes,
      createdAt: at(row.createdAt),
    };
  }
}

async function* doorLines(tx: Queryable, siteId: string): AsyncGenerator<SiteLine> {
  const accepted = await acceptedBy(tx, siteId);
  for await (const row of rowsOf(tx, controllerTable, eq(controllerTable.siteId, siteId), controllerTable.id)) {
    const { id, name, device, comparesFacility } = row;
    yield { kind: 'controller', id, name, device, comparesFacility, accepts: accepted.get(id) ?? [] };
  }
  for await (const row of rowsOf(tx, doorTable, eq(doorTable.siteId, siteId), doorTable.id)) {
    const { id, name, controllerId, byGroups } = row;
    yield { kind: 'door', id, name, controller: controllerId, byGroups };
  }
  for await (const row of rowsOf(tx, readerTable, eq(readerTable.siteId, siteId), readerTable.id)) {
    const { id, name, kind, device, controllerId, doorId, way } = row;
    yield {
      kind: 'reader',
      id,
      name,
      use: kind as 'door',
      device,
      controller: controllerId,
      door: doorId,
      way: way as Way,
    };
  }
}

async function* accessLines(tx: Queryable, siteId: string): AsyncGenerator<SiteLine> {
  const { holidays, schedules, groups } = await sitesRights(tx, siteId);
  if (holidays.length > 0) yield { kind: 'holidays', holidays };
  for (const { revision: _, ...schedule } of schedules) yield { kind: 'schedule', ...schedule };
  for (const { revision: _, ...group } of groups) yield { kind: 'access group', ...group };
  const sets = new Map<string, string[]>();
  for await (const set of rowsOf(tx, groupSetTable, eq(groupSetTable.siteId, siteId), groupSetTable.id))
    sets.set(set.id, set.groups as string[]);
  const inGroups = (column: MySqlColumn, own: SQL) => and(own, isNotNull(column))!;
  const holders = inGroups(cardholderTable.groupSetId, eq(cardholderTable.siteId, siteId));
  for await (const { id, groupSetId } of rowsOf(tx, cardholderTable, holders, cardholderTable.id))
    yield { kind: 'membership', holder: id, card: null, groups: sets.get(groupSetId!) ?? [] };
  const cards = inGroups(cardTable.groupSetId, eq(cardTable.siteId, siteId));
  for await (const { id, groupSetId } of rowsOf(tx, cardTable, cards, cardTable.id))
    yield { kind: 'membership', holder: null, card: id, groups: sets.get(groupSetId!) ?? [] };
  for await (const { definition } of rowsOf(tx, assertionTable, eq(assertionTable.siteId, siteId), assertionTable.id))
    yield { kind: 'assertion', ...(JSON.parse(definition) as AccessAssertion) };
  const { revision, ...rules } = await rulesOf(tx, siteId);
  if (revision > 0) yield { kind: 'cardholder rules', ...rules };
  const filters = eq(savedFilterTable.siteId, siteId);
  for await (const { name, filter, savedBy, savedAt } of rowsOf(tx, savedFilterTable, filters, savedFilterTable.id))
    yield { kind: 'saved filter', name, filter: filter as CardFilter, savedBy, savedAt: at(savedAt) };
}

async function* caseLines(tx: Queryable, siteId: string): AsyncGenerator<SiteLine> {
  for await (const row of rowsOf(tx, caseTable, eq(caseTable.siteId, siteId), caseTable.id)) {
    const { id, name, questions, formatId, settledFor, createdBy, createdAt, changedAt } = row;
    yield {
      kind: 'case',
      id,
      name,
      specimens: await specimensOf(tx, id),
      questions: questions as never,
      formatId,
      settledFor: settledFor as SettledFor | null,
      createdBy,
      createdAt: at(createdAt),
      changedAt: at(changedAt),
    };
  }
}

async function* historyLines(tx: Queryable, siteId: string): AsyncGenerator<SiteLine> {
  const former = eq(formerDeviceTable.siteId, siteId);
  for await (const { id, name, kind, removedAt } of rowsOf(tx, formerDeviceTable, former, formerDeviceTable.id))
    yield { kind: 'former device', id, name, what: kind as 'reader', removedAt: at(removedAt) };
  for await (const row of rowsOf(tx, readTable, eq(readTable.siteId, siteId), readTable.id)) {
    const { id, bits, source, notation, readerId } = row;
    yield { kind: 'read', id, at: at(row.at), bits, source: source as 'reader', notation, reader: readerId };
  }
  for await (const row of rowsOf(tx, eventTable, eq(eventTable.siteId, siteId), eventTable.id)) {
    const { kind, controllerId, readerId, readId, bits, outcome, stoppedAt, formatId, reason, advice, cardId } = row;
    yield {
      kind: 'event',
      at: at(row.at),
      what: kind as 'presented',
      controller: controllerId,
      reader: readerId,
      read: readId,
      bits,
      outcome: outcome as 'opened' | null,
      stoppedAt: stoppedAt as 'length' | null,
      formatId,
      reason,
      advice,
      card: cardId,
      holder: row.holder,
    };
  }
  for await (const row of rowsOf(tx, trailTable, eq(trailTable.chain, siteId), trailTable.name)) {
    const { seq, operator, action, subject, before, after } = row;
    yield { kind: 'change', seq, at: at(row.at), operator, action, subject, before: told(before), after: told(after) };
  }
}

/** What somebody put into the database by hand may be no JSON; it is told all the same. */
function told(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return text;
  }
}

function at(instant: Date): string;
function at(instant: Date | null): string | null;
function at(instant: Date | null): string | null {
  return instant?.toISOString() ?? null;
}
