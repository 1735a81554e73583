/** Reports: which cards somebody should look after. */
import type { Report } from '@rawbits/api';
import { and, gt, inArray, lte, type SQL, sql } from 'drizzle-orm';
import { cardTable } from '../cards/index.ts';
import { controllerItemTable, controllerTable, eventTable } from '../doors/index.ts';

const SOON_MS = 30 * 24 * 3_600_000;
const HELD = inArray(cardTable.state, ['issued', 'active']);

/** Whether a card is in a report; costs a look along an index for each card that is asked about. */
export function isIn(report: Report, nowMs = Date.now()): SQL | undefined {
  switch (report) {
    case 'ending':
      return and(HELD, gt(cardTable.validTo, new Date(nowMs)), lte(cardTable.validTo, new Date(nowMs + SOON_MS)));
    case 'never used':
      return sql`${cardTable.state} = 'active'
        and not exists (select 1 from ${eventTable} where ${eventTable.cardId} = ${cardTable.id})`;
    case 'still loaded':
      // A controller has it, and not as it is: what has it as it is refuses it by its state.
      return sql`${cardTable.state} in ('lost', 'withdrawn', 'suspended', 'expired') and exists (
        select 1 from ${controllerTable}
        join ${controllerItemTable} on ${controllerItemTable.controllerId} = ${controllerTable.id}
          and ${controllerItemTable.item} = concat('card ', ${cardTable.id})
        where ${controllerTable.siteId} = ${cardTable.siteId}
          and ${controllerItemTable.loaded} is not null and ${controllerItemTable.waits})`;
  }
}
