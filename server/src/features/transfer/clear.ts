/** Taking out, in pieces, what was taken in for a site that never came to be. */
import { eq } from 'drizzle-orm';
import { inTransaction } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { type JobRow, jobTable, tell } from '../../platform/jobs/index.ts';
import { markTable } from '../badges/index.ts';
import { boxCountTable, boxTable, cardCountTable, cardholderTable, cardTable } from '../cards/index.ts';
import { caseSpecimenTable, caseTable } from '../cases/index.ts';
import { controllerTable, doorTable, eventTable, formerDeviceTable, readerTable } from '../doors/index.ts';
import { facilityCodeTable } from '../facilityCodes/index.ts';
import { cardholderRulesTable, photographTable } from '../people/index.ts';
import { readTable } from '../reads/index.ts';
import { accessGroupTable, assertionTable, calendarTable, groupSetTable, scheduleTable } from '../rights/index.ts';
import { savedFilterTable } from '../stock/index.ts';
import { translationTable } from '../translations/index.ts';

/** The kind of its job. */
export const CLEARING = 'clearing';
const PIECE = 1000;

const TABLES = [
  eventTable,
  readTable,
  formerDeviceTable,
  caseSpecimenTable,
  caseTable,
  cardholderRulesTable,
  photographTable,
  markTable,
  savedFilterTable,
  assertionTable,
  accessGroupTable,
  scheduleTable,
  calendarTable,
  groupSetTable,
  readerTable,
  doorTable,
  controllerTable,
  cardTable,
  boxCountTable,
  boxTable,
  cardholderTable,
  cardCountTable,
  translationTable,
  facilityCodeTable,
];

/** Carries it on from wherever it is: what is gone is gone. */
export const carryClearing =
  (app: () => App) =>
  async (job: JobRow): Promise<void> => {
    const { db } = app();
    for (const table of TABLES)
      for (let more = true; more; ) {
        const [gone] = await db.delete(table).where(eq(table.siteId, job.siteId)).limit(PIECE);
        more = gone.affectedRows === PIECE;
        await tell(db, job);
      }
    await inTransaction(db, async (tx) => {
      await tell(tx, job);
      await tx.delete(jobTable).where(eq(jobTable.siteId, job.siteId));
    });
  };
