/** Saving a change that was shown in a dry run, with the counts that it was saved on. */

import type { DryRunState, SiteChange } from '@rawbits/api';
import { and, eq, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import type { Record } from '../../platform/trail/change.ts';
import { cardTable } from '../cards/index.ts';
import { noteCards, setAccepted } from '../doors/index.ts';
import { facilityCodeTable, namedCode } from '../facilityCodes/index.ts';
import { formatFrom, giveUp, takeUp } from '../formats/index.ts';
import { insertVersion, versionsOf } from '../library/index.ts';

type Counts = Pick<NonNullable<DryRunState['result']>, 'cards' | 'reads'>;

/** Makes the change. Throws what makes it impossible; the transaction then leaves nothing behind. */
export async function applyChange(
  tx: Queryable,
  record: Record,
  siteId: string,
  who: string,
  change: SiteChange,
  { cards, reads }: Counts,
): Promise<void> {
  const counts = { cards, reads };
  switch (change.kind) {
    case 'adopt': {
      const [newest] = await versionsOf(tx, change.format);
      return takeUp(tx, record, siteId, change.format, newest!.version, counts);
    }
    case 'drop':
      return giveUp(tx, record, siteId, change.format);
    case 'version':
      return takeUp(tx, record, siteId, change.format, change.version, counts);
    case 'new version': {
      const { name, layout, notes, source, basedOn, reason } = change;
      const format = formatFrom({ id: change.format, name, layout, notes, source });
      const version = await insertVersion(tx, format, basedOn, who, reason);
      record.houseTrail({
        action: 'format version added',
        subject: `format ${format.id}`,
        before: { version: basedOn },
        after: { version, reason, format },
      });
      return takeUp(tx, record, siteId, change.format, version, counts);
    }
    case 'accept':
      return setAccepted(tx, record, siteId, change.controller, change.formats, counts);
    case 'facility code':
      return changeCode(tx, record, siteId, change.id, BigInt(change.code).toString(), counts);
  }
}

/** Another code under the same name; the cards on file under it follow. */
async function changeCode(
  tx: Queryable,
  record: Record,
  siteId: string,
  id: string,
  code: string,
  counts: Counts,
): Promise<void> {
  const own = and(eq(facilityCodeTable.id, id), eq(facilityCodeTable.siteId, siteId));
  const [row] = await tx.select().from(facilityCodeTable).where(own).for('update');
  if (!row) throw notFound('facility code');
  const taken = await namedCode(tx, siteId, row.formatId, code);
  if (taken && taken.id !== id) throw conflict('code-taken', `Facility code ${code} is ${taken.name} already.`);
  const theirs = and(
    eq(cardTable.siteId, siteId),
    eq(cardTable.facility, row.code),
    row.formatId === '' ? undefined : eq(cardTable.formatId, row.formatId),
  );
  const [moved] = await tx
    .update(cardTable)
    .set({ facility: code, revision: sql`${cardTable.revision} + 1` })
    .where(theirs);
  const now = and(eq(cardTable.facility, code), row.formatId === '' ? undefined : eq(cardTable.formatId, row.formatId));
  if (moved.affectedRows > 0) await noteCards(tx, siteId, now!);
  await tx
    .update(facilityCodeTable)
    .set({ code, revision: row.revision + 1 })
    .where(own);
  record.trail({
    action: 'facility code changed',
    subject: `facility code ${row.name}`,
    before: { code: row.code },
    after: { code, cardsChanged: moved.affectedRows, dryRun: counts },
  });
  record.announce('formats');
  record.announce('cards');
}
