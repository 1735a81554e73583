/** Lines of a site's file as rows: each kind with its table, and what it names checked against what stands before it. */
import type { SiteLine, SiteLineOf } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { countOf } from '@rawbits/core/box';
import { eq } from 'drizzle-orm';
import { derivedId, type Queryable } from '../../platform/database/index.ts';
import { sentenceFor } from '../../platform/problem/sentence.ts';
import { type PictureType, pictureProblem } from '../../platform/shape/picture.ts';
import { markTable } from '../badges/index.ts';
import { boxTable, cardholderTable, cardTable, countCards, numberKey } from '../cards/index.ts';
import { caseTable, putSpecimens } from '../cases/index.ts';
import { addReader, controllerTable, doorTable, eventTable, formerDeviceTable, readerTable } from '../doors/index.ts';
import { facilityCodeTable } from '../facilityCodes/index.ts';
import { photographTable } from '../people/index.ts';
import { readTable } from '../reads/index.ts';
import { translationTable } from '../translations/index.ts';
import { ACCESS_KINDS } from './accessLines.ts';
import {
  checkNamed,
  insert,
  moment,
  momentOrNull,
  type Numbered,
  own,
  ownOrNull,
  type Takes,
  type Taking,
  wrongLine,
} from './taking.ts';

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
    for (const { line, row } of lines) checkPicture(line.data, line.type, 'photograph', row);
    await insert(tx, photographTable, lines, ({ line: { holder, type, data } }) => ({
      holderId: own(taking, holder),
      siteId: taking.siteId,
      type,
      data,
      setAt: new Date(),
    }));
  },
  mark: (tx, { siteId }, lines) => {
    for (const { line, row } of lines) checkPicture(line.data, 'image/png', 'mark', row);
    return insert(tx, markTable, lines, ({ line: { organisation, data } }) => ({ siteId, organisation, data }));
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
  'former device': (tx, taking, lines) =>
    insert(tx, formerDeviceTable, lines, ({ line: { id, name, what, removedAt } }) => ({
      id: own(taking, id),
      siteId: taking.siteId,
      kind: what,
      name,
      removedAt: moment(removedAt),
    })),
  read: async (tx, taking, lines) => {
    const former = await tx.select().from(formerDeviceTable).where(eq(formerDeviceTable.siteId, taking.siteId));
    const isFormer = (reader: string | null) => former.some(({ id }) => id === ownOrNull(taking, reader));
    await checkNamed(tx, taking, readerTable, lines, ({ reader }) => (isFormer(reader) ? null : reader), 'reader');
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

/** The same as of a picture that is uploaded. */
function checkPicture(data: string, type: PictureType, what: 'photograph' | 'mark', row: number): void {
  const problem = pictureProblem(data, type, what);
  if (problem) throw wrongLine(row, problem);
}

function formatHere({ formats }: Taking, theirs: string, row: number): string {
  const here = formats.get(theirs);
  if (here === undefined) throw wrongLine(row, `it names the format "${theirs}", which no line before it has.`);
  return here;
}

function countIn(label: Pick<SiteLineOf<'box'>, 'first' | 'last'>, row: number): number {
  try {
    return countOf(label);
  } catch (error) {
    throw wrongLine(row, sentenceFor(error));
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
