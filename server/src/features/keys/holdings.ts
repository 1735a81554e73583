/** Who holds what: noted by itself where the store shows or takes in a key or component, by hand for readers and partners. */
import { type KeyHolding, keyHoldingApi } from '@rawbits/api';
import { and, asc, eq, isNull } from 'drizzle-orm';
import { newId, type Queryable } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { notFound } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { readerTable } from '../doors/index.ts';
import type { KeyRow } from './describe.ts';
import { calledIn, holdKey, readyVersionOf } from './rows.ts';
import { keyHoldingTable } from './tables.ts';

type Row = typeof keyHoldingTable.$inferSelect;
type Noted = Pick<KeyHolding, 'kind' | 'holderId' | 'holder' | 'what' | 'how'>;

const describe = ({ siteId: _site, since, until, ...row }: Row): KeyHolding => ({
  ...row,
  kind: row.kind as KeyHolding['kind'],
  what: row.what as KeyHolding['what'],
  since: since.toISOString(),
  until: until?.toISOString() ?? null,
});

export async function noteHolding(tx: Queryable, key: KeyRow, version: number, noted: Noted): Promise<KeyHolding> {
  const row: Row = {
    id: newId(),
    siteId: key.siteId,
    keyId: key.id,
    version,
    ...noted,
    since: new Date(),
    until: null,
  };
  await tx.insert(keyHoldingTable).values(row);
  return describe(row);
}

/** A reader has been given a version of a key, and holds it from now on. */
export async function noteReaderHolds(
  tx: Queryable,
  site: string,
  keyId: string,
  version: number,
  reader: { id: string; name: string },
): Promise<void> {
  const key = await holdKey(tx, site, keyId);
  const noted = {
    kind: 'reader',
    holderId: reader.id,
    holder: reader.name,
    what: 'whole',
    how: 'set up by a plan',
  } as const;
  await noteHolding(tx, key, version, noted);
}

/** What a reader was given by plans before, it has no more: it was set up anew. */
export async function endHoldings(tx: Queryable, site: string, readerId: string): Promise<void> {
  await tx
    .update(keyHoldingTable)
    .set({ until: new Date() })
    .where(
      and(
        eq(keyHoldingTable.siteId, site),
        eq(keyHoldingTable.holderId, readerId),
        eq(keyHoldingTable.how, 'set up by a plan'),
        isNull(keyHoldingTable.until),
      ),
    );
}

const list = handle(keyHoldingApi.list, async ({ app, site }) =>
  (
    await app.db
      .select()
      .from(keyHoldingTable)
      .where(eq(keyHoldingTable.siteId, site))
      .orderBy(asc(keyHoldingTable.since))
      .limit(5000)
  ).map(describe),
);

const add = handle(keyHoldingApi.add, ({ app, operator, site, body }) =>
  change(app, operator, site, async (tx, record) => {
    const key = await holdKey(tx, site, body.keyId);
    await readyVersionOf(tx, key.id, body.version);
    const noted: Noted =
      body.kind === 'partner'
        ? { kind: 'partner', holderId: '', holder: body.partner, what: 'whole', how: 'was given it' }
        : { kind: 'reader', ...(await readerOf(tx, site, body.reader)), what: 'whole', how: 'carries it' };
    const holding = await noteHolding(tx, key, body.version, noted);
    record.trail({
      action: 'key handed on',
      subject: calledIn(key.set, key.name, body.version),
      after: { [noted.kind]: noted.holder },
    });
    record.announce('keys');
    return holding;
  }),
);

async function readerOf(tx: Queryable, site: string, id: string) {
  const [reader] = await tx
    .select()
    .from(readerTable)
    .where(and(eq(readerTable.id, id), eq(readerTable.siteId, site)));
  if (!reader) throw notFound('reader');
  return { holderId: reader.id, holder: reader.name };
}

const end = handle(keyHoldingApi.end, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    const own = and(eq(keyHoldingTable.id, params.id!), eq(keyHoldingTable.siteId, site));
    const [row] = await tx.select().from(keyHoldingTable).where(own).for('update');
    if (!row) throw notFound('holding');
    const key = await holdKey(tx, site, row.keyId);
    await tx
      .update(keyHoldingTable)
      .set({ until: new Date() })
      .where(and(own, isNull(keyHoldingTable.until)));
    if (!row.until)
      record.trail({
        action: 'key held no more',
        subject: calledIn(key.set, key.name, row.version),
        before: { [row.kind]: row.holder },
      });
    record.announce('keys');
    const [now] = await tx.select().from(keyHoldingTable).where(own);
    return describe(now!);
  }),
);

export const holdingRoutes = [list, add, end];
