/** Reads of a site: what readers delivered and what was pasted. */

import { type Read, readApi } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { and, desc, eq, like, lt, or } from 'drizzle-orm';
import { newId } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { change } from '../../platform/trail/change.ts';
import { readerTable } from '../doors/index.ts';
import { readTable } from './tables.ts';

type Row = { read: typeof readTable.$inferSelect; reader: typeof readerTable.$inferSelect | null };

export function describeRead({ read, reader }: Row): Read {
  return {
    id: read.id,
    at: read.at.toISOString(),
    bits: read.bits,
    source: read.source as Read['source'],
    notation: read.notation,
    reader: reader && { id: reader.id, name: reader.name },
  };
}

const likely = (text: string): string => `%${text.replace(/[\\%_]/g, '\\$&')}%`;

const list = handle(readApi.list, async ({ app, site, query }) => {
  const search = query.search?.trim();
  const match = search
    ? or(
        like(readTable.bits, likely(search.replace(/\s/g, ''))),
        like(readTable.hex, likely(search.replace(/\s/g, '').toUpperCase())),
        like(readerTable.name, likely(search)),
        /^\d{1,3}$/.test(search) ? eq(readTable.length, Number(search)) : undefined,
      )
    : undefined;
  const rows = await app.db
    .select({ read: readTable, reader: readerTable })
    .from(readTable)
    .leftJoin(readerTable, eq(readerTable.id, readTable.readerId))
    .where(and(eq(readTable.siteId, site), query.before ? lt(readTable.at, new Date(query.before)) : undefined, match))
    .orderBy(desc(readTable.at), desc(readTable.id))
    .limit(query.limit);
  return rows.map(describeRead);
});

const add = handle(readApi.add, ({ app, operator, site, body }) =>
  change(app, operator, site, async (tx, record) => {
    const bits = Bits.fromBinary(body.bits);
    const read = {
      id: newId(),
      siteId: site,
      at: new Date(),
      bits: body.bits,
      hex: bits.toHex(),
      length: bits.length,
      source: 'paste',
      notation: body.notation,
      readerId: null,
    };
    await tx.insert(readTable).values(read);
    const described = describeRead({ read, reader: null });
    record.trail({
      action: 'read pasted',
      subject: `read of ${bits.length} bits`,
      after: { id: read.id, hex: read.hex, notation: body.notation },
    });
    record.announce('read', described);
    return described;
  }),
);

export const readRoutes = [list, add];
