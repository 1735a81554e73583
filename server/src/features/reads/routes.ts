/** Reads of a site: what readers delivered and what was pasted. */

import { type Body, readApi } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { and, desc, eq, like, lt, or } from 'drizzle-orm';
import { newId } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { change } from '../../platform/trail/change.ts';
import { eventTable, nameEvenGone, readerTable } from '../doors/index.ts';
import { describeRead, ofRead } from './describe.ts';
import { readTable } from './tables.ts';

const likely = (text: string): string => `%${text.replace(/[\\%_]/g, '\\$&')}%`;

const list = handle(readApi.list, async ({ app, site, query }) => {
  const search = query.search?.trim();
  const match = search
    ? or(
        like(readTable.bits, likely(search.replace(/\s/g, ''))),
        like(readTable.hex, likely(search.replace(/\s/g, '').toUpperCase())),
        like(nameEvenGone(readerTable.name, readTable.readerId), likely(search)),
        /^\d{1,3}$/.test(search) ? eq(readTable.length, Number(search)) : undefined,
      )
    : undefined;
  const rows = await app.db
    .select({
      read: readTable,
      reader: nameEvenGone(readerTable.name, readTable.readerId),
      event: eventTable,
    })
    .from(readTable)
    .leftJoin(readerTable, eq(readerTable.id, readTable.readerId))
    .leftJoin(eventTable, ofRead)
    .where(and(eq(readTable.siteId, site), query.before ? lt(readTable.at, new Date(query.before)) : undefined, match))
    .orderBy(desc(readTable.at), desc(readTable.id))
    .limit(query.limit);
  return rows.map(({ read, reader, event }) => {
    const { readerId } = read;
    return describeRead({ read, reader: readerId === null ? null : { id: readerId, name: reader ?? readerId }, event });
  });
});

const pasted = (site: string, { bits: digits, notation }: Body<typeof readApi.add>, at: Date) => {
  const bits = Bits.fromBinary(digits);
  return {
    id: newId(),
    siteId: site,
    at,
    bits: digits,
    hex: bits.toHex(),
    length: bits.length,
    source: 'paste',
    notation,
    readerId: null,
  };
};

const add = handle(readApi.add, ({ app, operator, site, body }) =>
  change(app, operator, site, async (tx, record) => {
    const read = pasted(site, body, new Date());
    await tx.insert(readTable).values(read);
    const described = describeRead({ read, reader: null, event: null });
    record.trail({
      action: 'read pasted',
      subject: `read of ${read.length} bits`,
      after: { id: read.id, hex: read.hex, notation: body.notation },
    });
    record.announce('read', described);
    return described;
  }),
);

/** The last line is the newest read; of many only the newest are told at once, the others are there when they are asked for. */
const addMany = handle(readApi.addMany, ({ app, operator, site, body }) =>
  change(app, operator, site, async (tx, record) => {
    const now = Date.now();
    const { length } = body.reads;
    const reads = body.reads.map((one, i) => pasted(site, one, new Date(now - (length - 1 - i))));
    for (let from = 0; from < length; from += A_STATEMENT)
      await tx.insert(readTable).values(reads.slice(from, from + A_STATEMENT));
    record.trail({ action: 'reads pasted', subject: `${length} reads`, after: { reads: length } });
    for (const read of reads.slice(-TOLD)) record.announce('read', describeRead({ read, reader: null, event: null }));
    return { kept: length };
  }),
);
const A_STATEMENT = 500;
const TOLD = 60;

export const readRoutes = [list, add, addMany];
