/** Photographs of cardholders: for those who may see them, and small. */
import { cardholderApi } from '@rawbits/api';
import { and, eq } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { invalid, notFound } from '../../platform/problem/problem.ts';
import { type PictureType, pictureProblem } from '../../platform/shape/picture.ts';
import { change } from '../../platform/trail/change.ts';
import { holderToChange } from './person.ts';
import { photographTable } from './tables.ts';

export async function photographOf(db: Queryable, site: string, holderId: string) {
  const own = and(eq(photographTable.holderId, holderId), eq(photographTable.siteId, site));
  const [row] = await db.select().from(photographTable).where(own);
  return row && { type: row.type as PictureType, data: row.data };
}

export const photograph = handle(cardholderApi.photograph, async ({ app, site, params }) => {
  const found = await photographOf(app.db, site, params.id!);
  if (!found) throw notFound('photograph');
  return found;
});

export const setPhotograph = handle(cardholderApi.setPhotograph, ({ app, operator, site, params, body }) =>
  change(app, operator, site, async (tx, record) => {
    const holder = await holderToChange(tx, site, params.id!);
    if (body.photograph === null) await tx.delete(photographTable).where(eq(photographTable.holderId, holder.id));
    else {
      const { type, data } = body.photograph;
      const problem = pictureProblem(data, type, 'photograph');
      if (problem) throw invalid('photograph', problem, 'Choose a JPEG or a PNG: it is cut to its frame on screen.');
      const row = { siteId: site, type, data, setAt: new Date() };
      await tx
        .insert(photographTable)
        .values({ holderId: holder.id, ...row })
        .onDuplicateKeyUpdate({ set: row });
    }
    record.trail({
      action: body.photograph === null ? 'photograph taken away' : 'photograph kept',
      subject: `cardholder ${holder.name}`,
      after: { id: holder.id },
    });
    record.announce('cardholders', { ids: [holder.id] });
    return {};
  }),
);
