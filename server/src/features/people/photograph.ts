/** Photographs of cardholders: for those who may see them, and small. */
import { cardholderApi } from '@rawbits/api';
import { and, eq } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { invalid, notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { holderToChange } from './person.ts';
import { photographTable } from './tables.ts';

/** How files begin: JPEG (ISO/IEC 10918-1 §B.1.1.3, SOI and a marker), PNG (RFC 2083 §3.1). */
const BEGINNINGS = { 'image/jpeg': 'ffd8ff', 'image/png': '89504e470d0a1a0a' } as const;
type Type = keyof typeof BEGINNINGS;

export async function photographOf(db: Queryable, site: string, holderId: string) {
  const own = and(eq(photographTable.holderId, holderId), eq(photographTable.siteId, site));
  const [row] = await db.select().from(photographTable).where(own);
  return row && { type: row.type as Type, data: row.data };
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
      if (!Buffer.from(data.slice(0, 64), 'base64').toString('hex').startsWith(BEGINNINGS[type]))
        throw invalid('photograph', `This is no picture of the type ${type}.`, 'Choose a JPEG or a PNG.');
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
