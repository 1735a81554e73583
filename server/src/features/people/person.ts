/** One cardholder: looked at, and changed. */
import { cardholderApi, type OneCardholder } from '@rawbits/api';
import { and, eq } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { reviseCardsOf } from '../access/index.ts';
import { cardholderTable, cardTable } from '../cards/index.ts';
import { groupsIn } from '../rights/index.ts';
import { broughtTo, rulesOf } from './rules.ts';
import { photographTable, pinTable } from './tables.ts';

export type HolderRow = typeof cardholderTable.$inferSelect;

/** The row of a cardholder of this site, locked; throws where there is none, or it is not as it was seen. */
export async function holderToChange(tx: Queryable, site: string, id: string, revision?: number): Promise<HolderRow> {
  const own = and(eq(cardholderTable.id, id), eq(cardholderTable.siteId, site));
  const [row] = await tx.select().from(cardholderTable).where(own).for('update');
  if (!row) throw notFound('cardholder');
  if (revision !== undefined && row.revision !== revision)
    throw conflict(
      'changed-meanwhile',
      'Somebody changed this cardholder meanwhile.',
      'Look at them as they are now, and change them again.',
    );
  return row;
}

export async function describeHolder(db: Queryable, site: string, id: string): Promise<OneCardholder> {
  const own = and(eq(cardholderTable.id, id), eq(cardholderTable.siteId, site));
  const [row] = await db.select().from(cardholderTable).where(own);
  if (!row) throw notFound('cardholder');
  const { name, department, organisation, kind, contact, notes, revision, groupSetId } = row;
  const cards = await db.$count(cardTable, eq(cardTable.holderId, id));
  const pins = await db.$count(pinTable, eq(pinTable.holderId, id));
  const photographs = await db.$count(photographTable, eq(photographTable.holderId, id));
  const groups = await groupsIn(db, [groupSetId]);
  return {
    ...{ id, name, department, organisation, kind, contact, notes, revision, cards },
    cardDays: broughtTo(await rulesOf(db, site), row).days,
    groups: groupSetId === null ? [] : (groups.get(groupSetId) ?? []),
    hasPin: pins > 0,
    hasPhotograph: photographs > 0,
  };
}

export const one = handle(cardholderApi.one, ({ app, site, params }) => describeHolder(app.db, site, params.id!));

export const update = handle(cardholderApi.update, ({ app, operator, site, params, body }) =>
  change(app, operator, site, async (tx, record) => {
    const { revision, ...fields } = body;
    const before = await holderToChange(tx, site, params.id!, revision);
    const { name, department, organisation, kind, contact, notes } = { ...before, ...fields };
    const now = { name, department, organisation, kind, contact, notes };
    await tx
      .update(cardholderTable)
      .set({ ...now, revision: revision + 1 })
      .where(eq(cardholderTable.id, before.id));
    record.trail({
      action: 'cardholder changed',
      subject: `cardholder ${name}`,
      before: {
        id: before.id,
        name: before.name,
        department: before.department,
        organisation: before.organisation,
        kind: before.kind,
      },
      after: {
        ...{ id: before.id, name, department, organisation, kind },
        ...(contact !== before.contact && { contact: 'changed' }),
        ...(notes !== before.notes && { notes: 'changed' }),
      },
    });
    record.announce('cardholders', { ids: [before.id] });
    // Doors tell who passed by the name that they were loaded with.
    if (name !== before.name) await reviseCardsOf(tx, record, site, [before.id]);
    return describeHolder(tx, site, before.id);
  }),
);
