/** Saving a change of rights: only with the review that was looked at, where somebody loses something by it. */
import type { AccessChange, AccessReview } from '@rawbits/api';
import { and, eq, inArray, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { groupedBy } from '../../platform/lists/lists.ts';
import { conflict, HttpProblem } from '../../platform/problem/problem.ts';
import type { Record } from '../../platform/trail/change.ts';
import { cardholderTable, cardTable, noteChanges } from '../cards/index.ts';
import { doorTable, noteCards, notePassing, readerTable } from '../doors/index.ts';
import {
  accessGroupTable,
  calendarTable,
  groupSetOf,
  groupSetTable,
  scheduleTable,
  takeTurn,
} from '../rights/index.ts';
import { type Mover, peopleNamed } from './people.ts';
import { moved, type Reviewed, reviewed } from './review.ts';
import { assertionsOf, type State, stateOf } from './state.ts';

interface Saving {
  change: AccessChange;
  seen?: string | undefined;
  breaking: boolean;
}

/** Saves a change in a transaction in which nothing was read yet; gives the id of what was made or changed. */
export async function saveChange(
  tx: Queryable,
  record: Record,
  siteId: string,
  { change, seen, breaking }: Saving,
): Promise<string | null> {
  await takeTurn(tx, siteId);
  const before = await stateOf(tx, siteId);
  const result = await reviewed(tx, siteId, before, change);
  checkSeen(result.review, seen, breaking);
  if (change.kind === 'members') await moveMembers(tx, record, siteId, before, change);
  else if (change.kind === 'card') await hangOn(tx, record, siteId, before, change);
  else {
    await write(tx, siteId, before, result, change);
    await notePassing(tx, siteId);
    record.announce('controllers');
    noteInTrail(record, before, result, change);
  }
  record.announce('access');
  return result.id;
}

/** Throws where what is saved is not what was looked at, or breaks an assertion that nobody said is to be broken. */
function checkSeen(review: AccessReview, seen: string | undefined, breaking: boolean): void {
  if (seen !== undefined && seen !== review.seen)
    throw conflict(
      'reviewed-other',
      'What this change does is not what was shown: something was changed meanwhile.',
      'Look at it as it is now, and save it again.',
    );
  const [first] = review.losses;
  if (seen === undefined && (first || review.breaks.length > 0))
    throw conflict(
      'review-first',
      first
        ? `${first.names[0]} would lose ${first.door}, ${first.way}: ${first.when}.`
        : `"${review.breaks[0]!.name}" would hold no more.`,
      'Have it reviewed, and send what was seen with it.',
    );
  const [broken] = review.breaks;
  if (broken && !breaking) {
    const by = broken.broken[0]!;
    throw new HttpProblem(409, {
      code: 'assertion',
      message: `"${broken.name}" would hold no more: ${by.person} could pass ${by.door} on ${by.date} at ${by.time}.`,
      hint: 'Change the group, or say that the assertion is to be broken.',
    });
  }
}

async function write(
  tx: Queryable,
  siteId: string,
  before: State,
  { after, id }: Reviewed,
  change: AccessChange,
): Promise<void> {
  switch (change.kind) {
    case 'schedule': {
      const { revision: _, ...schedule } = after.schedules.find((one) => one.id === id)!;
      await tx
        .insert(scheduleTable)
        .values({ siteId, ...schedule })
        .onDuplicateKeyUpdate({
          set: {
            name: schedule.name,
            periods: schedule.periods,
            onHolidays: schedule.onHolidays,
            revision: sql`revision + 1`,
          },
        });
      return;
    }
    case 'remove schedule':
      await tx.delete(scheduleTable).where(eq(scheduleTable.id, change.id));
      return;
    case 'holidays':
      await tx
        .update(calendarTable)
        .set({ holidays: change.holidays, revision: before.revision + 1 })
        .where(eq(calendarTable.siteId, siteId));
      return;
    case 'group': {
      const { name, rights: list } = after.groups.find((one) => one.id === id)!;
      const rights = JSON.stringify(list);
      await tx
        .insert(accessGroupTable)
        .values({ id: id!, siteId, name, rights })
        .onDuplicateKeyUpdate({ set: { name, rights, revision: sql`revision + 1` } });
      return;
    }
    case 'remove group':
      return removeGroup(tx, siteId, change.id);
    case 'door':
      return writeDoors(tx, siteId, before, after);
  }
}

async function removeGroup(tx: Queryable, siteId: string, id: string): Promise<void> {
  const naming = (await assertionsOf(tx, siteId)).filter(({ definition }) =>
    (JSON.parse(definition) as { but: string[] }).but.includes(id),
  );
  if (naming.length > 0)
    throw conflict('in-use', `The assertion "${naming[0]!.name}" names this group.`, 'Change the assertion first.');
  const sets = (await tx.select().from(groupSetTable).where(eq(groupSetTable.siteId, siteId))).flatMap((set) =>
    (set.groups as string[]).includes(id) ? [set.id] : [],
  );
  if (sets.length > 0) {
    const people = await tx.$count(
      cardholderTable,
      and(eq(cardholderTable.siteId, siteId), inArray(cardholderTable.groupSetId, sets)),
    );
    const cards = await tx.$count(cardTable, and(eq(cardTable.siteId, siteId), inArray(cardTable.groupSetId, sets)));
    if (people + cards > 0)
      throw conflict(
        'in-use',
        `${people} ${people === 1 ? 'person is' : 'people are'} in this group${cards > 0 ? `, and it hangs on ${cards} ${cards === 1 ? 'card' : 'cards'}` : ''}.`,
        'Take them out first.',
      );
  }
  await tx.delete(accessGroupTable).where(eq(accessGroupTable.id, id));
}

async function writeDoors(tx: Queryable, siteId: string, before: State, after: State): Promise<void> {
  const gone = before.doors.filter(({ id }) => !after.doors.some((door) => door.id === id));
  for (const { name, definition } of gone.length > 0 ? await assertionsOf(tx, siteId) : []) {
    const { doors } = JSON.parse(definition) as { doors: string[] };
    const named = gone.find(({ id }) => doors.includes(id));
    if (named)
      throw conflict(
        'in-use',
        `The assertion "${name}" names ${named.name}, which would be no door any more.`,
        'Change the assertion first.',
      );
  }
  for (const entry of after.doors) {
    const { readers, ...door } = entry;
    // Only those that the change touches.
    if (before.doors.includes(entry)) continue;
    await tx
      .insert(doorTable)
      .values(door)
      .onDuplicateKeyUpdate({ set: { name: door.name, byGroups: door.byGroups, revision: door.revision } });
    for (const { id, doorId, way } of readers)
      await tx.update(readerTable).set({ doorId, way }).where(eq(readerTable.id, id));
  }
  if (gone.length === 0) return;
  await tx.delete(doorTable).where(
    inArray(
      doorTable.id,
      gone.map(({ id }) => id),
    ),
  );
}

function noteInTrail(record: Record, before: State, { after, id, review }: Reviewed, change: AccessChange): void {
  const effect = {
    gains: review.gains.slice(0, 20),
    losses: review.losses.slice(0, 20),
    ...(review.breaks.length > 0 && { breaks: review.breaks.map(({ name }) => name) }),
  };
  const note = (what: string, was: { name: string } | undefined, is: { name: string } | undefined) =>
    record.trail({
      action: `${what} ${was ? (is ? 'changed' : 'removed') : 'added'}`,
      subject: `${what} ${(is ?? was)!.name}`,
      before: was,
      after: is && { ...is, ...effect },
    });
  const byId = <T extends { id: string }>(some: readonly T[]) => some.find((one) => one.id === id);
  if (change.kind === 'holidays')
    record.trail({
      action: 'holidays changed',
      subject: 'holidays',
      before: before.holidays,
      after: { holidays: after.holidays, ...effect },
    });
  else if (change.kind === 'door') note('door', byId(before.doors), byId(after.doors));
  else if (change.kind === 'group' || change.kind === 'remove group')
    note('access group', byId(before.groups), byId(after.groups));
  else note('schedule', byId(before.schedules), byId(after.schedules));
}

const named = ({ groups }: State, ids: readonly string[]): string[] =>
  ids.map((id) => groups.find((group) => group.id === id)?.name ?? id);

/** Saves who of some people is in which groups, as it was reviewed; the turn is taken, and they are on file. */
export async function saveMoves(
  tx: Queryable,
  record: Record,
  siteId: string,
  { moves, review, breaking }: { moves: readonly (Mover & { id: string })[]; review: AccessReview; breaking: boolean },
): Promise<void> {
  checkSeen(review, review.seen, breaking);
  if (moves.length === 0) return;
  for (const some of groupedBy(moves, ({ is }) => is.join()).values()) {
    const groupSetId = await groupSetOf(tx, siteId, some[0]!.is);
    for (const { id } of some) await tx.update(cardholderTable).set({ groupSetId }).where(eq(cardholderTable.id, id));
  }
  await reviseCardsOf(
    tx,
    record,
    siteId,
    moves.map(({ id }) => id),
  );
  record.announce('access');
}

async function moveMembers(
  tx: Queryable,
  record: Record,
  siteId: string,
  state: State,
  { holders, add, remove }: Extract<AccessChange, { kind: 'members' }>,
): Promise<void> {
  const people = await peopleNamed(tx, siteId, holders);
  const moving: string[] = [];
  for (const { id, name, groups } of people) {
    const after = moved(groups, add, remove);
    if (after.join() === groups.join()) continue;
    const groupSetId = await groupSetOf(tx, siteId, after);
    await tx.update(cardholderTable).set({ groupSetId }).where(eq(cardholderTable.id, id));
    record.trail({
      action: 'access groups changed',
      subject: `cardholder ${name}`,
      before: { id, groups: named(state, groups) },
      after: { id, groups: named(state, after) },
    });
    moving.push(id);
  }
  if (moving.length > 0) await reviseCardsOf(tx, record, siteId, moving);
}

/** Cards of these people are not what they were to the controllers: their groups changed, or their names. */
export async function reviseCardsOf(
  tx: Queryable,
  record: Record,
  siteId: string,
  moving: readonly string[],
): Promise<void> {
  await revise(tx, siteId, and(eq(cardTable.siteId, siteId), inArray(cardTable.holderId, [...moving]))!);
  record.announce('cardholders', { ids: moving.slice(0, 50) });
  record.announce('cards');
  record.announce('controllers');
}

async function hangOn(
  tx: Queryable,
  record: Record,
  siteId: string,
  state: State,
  { id, groups }: Extract<AccessChange, { kind: 'card' }>,
): Promise<void> {
  const own = and(eq(cardTable.id, id), eq(cardTable.siteId, siteId))!;
  const [card] = await tx.select().from(cardTable).where(own);
  const groupSetId = await groupSetOf(tx, siteId, groups);
  await tx.update(cardTable).set({ groupSetId }).where(own);
  await revise(tx, siteId, own);
  record.trail({
    action: 'access groups changed',
    subject: `card ${card!.facility ? `${card!.facility}/` : ''}${card!.number}`,
    after: { id, groups: named(state, groups) },
  });
  record.announce('cards', { ids: [id] });
  record.announce('controllers');
}

/** Cards are not what they were to the controllers, whoever changes them next. */
async function revise(tx: Queryable, siteId: string, which: ReturnType<typeof eq>): Promise<void> {
  await tx
    .update(cardTable)
    .set({ revision: sql`${cardTable.revision} + 1` })
    .where(which);
  await noteChanges(tx, siteId);
  await noteCards(tx, siteId, which);
}
