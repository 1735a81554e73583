/** Facility codes of a site, by name, and the numbers that meet under several of them. */

import { type FacilityCode, facilityCodeApi } from '@rawbits/api';
import { greatestOf } from '@rawbits/core/codec';
import { and, asc, eq } from 'drizzle-orm';
import { isDuplicate, newId, type Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { conflict, invalid, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { adoptedFormats } from '../library/index.ts';
import { checkCode } from './check.ts';
import { collisionsOf } from './collisions.ts';
import { reservedFrom } from './named.ts';
import { facilityCodeTable } from './tables.ts';

type Row = typeof facilityCodeTable.$inferSelect;

const describe = ({ siteId: _site, ...row }: Row): FacilityCode => ({
  ...row,
  formatId: row.formatId || null,
  orderedFrom: row.orderedFrom?.toISOString() ?? null,
  reserved: reservedFrom(row.reserved),
});

const list = handle(facilityCodeApi.list, async ({ app, site }) => {
  const rows = await app.db
    .select()
    .from(facilityCodeTable)
    .where(eq(facilityCodeTable.siteId, site))
    .orderBy(asc(facilityCodeTable.name));
  return rows.map(describe);
});

/** Reserved ranges must lie within the numbers that the format can hold. */
async function checkReserved(
  db: Queryable,
  site: string,
  formatId: string | null,
  reserved: readonly { from: string; to: string }[],
): Promise<void> {
  const format = (await adoptedFormats(db, site)).find((f) => f.format.id === formatId)?.format;
  const span = format?.spans.find((s) => s.role === 'number');
  reserved.forEach(({ to }, i) => {
    if (span && BigInt(to) > greatestOf(span))
      throw invalid(`reserved.${i}.to`, `${to} is above ${greatestOf(span)}, the greatest number of this format.`);
  });
}

const add = handle(facilityCodeApi.add, async ({ app, operator, site, body }) => {
  const adopted = new Map((await adoptedFormats(app.db, site)).map((f) => [f.format.id, f.format]));
  checkCode(adopted, body.formatId, body.code);
  await checkReserved(app.db, site, body.formatId, body.reserved);
  const code = BigInt(body.code).toString();
  const row = {
    ...body,
    id: newId(),
    siteId: site,
    code,
    formatId: body.formatId ?? '',
    orderedFrom: body.orderedFrom ? new Date(body.orderedFrom) : null,
    revision: 1,
  };
  try {
    await change(app, operator, site, async (tx, record) => {
      await tx.insert(facilityCodeTable).values(row);
      record.trail({ action: 'facility code named', subject: `facility code ${code}`, after: { ...body, code } });
      record.announce('formats');
    });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw conflict('code-taken', `Facility code ${code} has a name already.`, undefined, 'code');
  }
  return describe(row);
});

const update = handle(facilityCodeApi.update, ({ app, operator, site, params, body }) =>
  change(app, operator, site, async (tx, record) => {
    const own = and(eq(facilityCodeTable.id, params.id!), eq(facilityCodeTable.siteId, site));
    const [before] = await tx.select().from(facilityCodeTable).where(own).for('update');
    if (!before) throw notFound('facility code');
    if (before.revision !== body.revision)
      throw conflict(
        'changed-meanwhile',
        'Somebody changed this facility code meanwhile.',
        'Look at it and try again.',
      );
    await checkReserved(tx, site, before.formatId || null, body.reserved);
    const { revision, orderedFrom, ...fields } = body;
    const next = {
      ...fields,
      orderedFrom: orderedFrom ? new Date(orderedFrom) : null,
      revision: revision + 1,
    };
    await tx.update(facilityCodeTable).set(next).where(own);
    record.trail({
      action: 'facility code described',
      subject: `facility code ${before.code}`,
      before: describe(before),
      after: fields,
    });
    record.announce('formats');
    return describe({ ...before, ...next });
  }),
);

const remove = handle(facilityCodeApi.remove, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    const own = and(eq(facilityCodeTable.id, params.id!), eq(facilityCodeTable.siteId, site));
    const [before] = await tx.select().from(facilityCodeTable).where(own).for('update');
    if (!before) throw notFound('facility code');
    await tx.delete(facilityCodeTable).where(own);
    record.trail({
      action: 'facility code given up',
      subject: `facility code ${before.code}`,
      before: describe(before),
    });
    record.announce('formats');
    return {};
  }),
);

const collisions = handle(facilityCodeApi.collisions, ({ app, site }) => collisionsOf(app.db, site));

export const facilityCodeRoutes = [list, add, update, remove, collisions];
