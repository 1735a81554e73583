/** Saving a change that was shown in a dry run, with the counts that it was saved on. */

import type { DryRunState, SiteChange } from '@rawbits/api';
import type { Queryable } from '../../platform/database/index.ts';
import type { JobRow } from '../../platform/jobs/index.ts';
import type { Record } from '../../platform/trail/change.ts';
import { setAccepted } from '../doors/index.ts';
import { changeCode } from '../facilityCodes/index.ts';
import { formatFrom, giveUp, takeUp } from '../formats/index.ts';
import { adoptedFormats, insertVersion, versionsOf } from '../library/index.ts';

type Counts = Pick<NonNullable<DryRunState['result']>, 'cards' | 'reads'>;

/**
 * Makes the change. Throws what makes it impossible; the transaction then leaves nothing behind. Gives the jobs that
 * carry it to many cards, to be begun once it is committed.
 */
export async function applyChange(
  tx: Queryable,
  record: Record,
  siteId: string,
  who: string,
  change: SiteChange,
  { cards, reads }: Counts,
): Promise<JobRow[]> {
  const counts = { cards, reads };
  switch (change.kind) {
    case 'adopt': {
      const [newest] = await versionsOf(tx, change.format);
      await takeUp(tx, record, siteId, change.format, newest!.version, counts);
      return [];
    }
    case 'drop':
      await giveUp(tx, record, siteId, change.format);
      return [];
    case 'version':
      await takeUp(tx, record, siteId, change.format, change.version, counts);
      return [];
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
      await takeUp(tx, record, siteId, change.format, version, counts);
      return [];
    }
    case 'accept':
      await takeUpWith(tx, record, siteId, change.formats);
      return setAccepted(tx, record, who, { siteId, controllerId: change.controller, formats: change.formats }, counts);
    case 'facility code':
      return changeCode(tx, record, who, { siteId, id: change.id, code: BigInt(change.code).toString() }, counts);
  }
}

/** Takes up what a controller is to accept and the site does not use yet, in its newest version. */
async function takeUpWith(tx: Queryable, record: Record, siteId: string, formats: readonly string[]): Promise<void> {
  const used = new Set((await adoptedFormats(tx, siteId)).map(({ format }) => format.id));
  for (const id of formats.filter((id) => !used.has(id))) {
    const [newest] = await versionsOf(tx, id);
    await takeUp(tx, record, siteId, id, newest!.version);
  }
}
