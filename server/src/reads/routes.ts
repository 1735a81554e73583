/** Reads of a site: what readers delivered and what was pasted. */
import { type Read, readApi } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { and, desc, eq, like, lt, or } from 'drizzle-orm';
import { newId, tables } from '../database/index.ts';
import { handle } from '../http/app.ts';
import { change } from '../trail/change.ts';

type Row = { read: typeof tables.reads.$inferSelect; reader: typeof tables.readers.$inferSelect | null };

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
        like(tables.reads.bits, likely(search.replace(/\s/g, ''))),
        like(tables.reads.hex, likely(search.replace(/\s/g, '').toUpperCase())),
        like(tables.readers.name, likely(search)),
        /^\d{1,3}$/.test(search) ? eq(tables.reads.length, Number(search)) : undefined,
      )
    : undefined;
  const rows = await app.db
    .select({ read: tables.reads, reader: tables.readers })
    .from(tables.reads)
    .leftJoin(tables.readers, eq(tables.readers.id, tables.reads.readerId))
    .where(
      and(eq(tables.reads.siteId, site), query.before ? lt(tables.reads.at, new Date(query.before)) : undefined, match),
    )
    .orderBy(desc(tables.reads.at), desc(tables.reads.id))
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
    await tx.insert(tables.reads).values(read);
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
