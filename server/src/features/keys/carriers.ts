/** Which cards carry which version of a key: noted for cards that came keyed, by the range on their box. */
import { keyApi } from '@rawbits/api';
import { and, eq, inArray, sql } from 'drizzle-orm';
import { handle } from '../../platform/http/app.ts';
import { conflict, invalid } from '../../platform/problem/problem.ts';
import { change } from '../../platform/trail/change.ts';
import { cardTable, numberKey } from '../cards/index.ts';
import { calledIn, holdKey, readyVersionOf, versionIn } from './rows.ts';
import { cardKeyTable, keyVersionTable } from './tables.ts';

const MOST = 5000;

const carriers = handle(keyApi.carriers, ({ app, operator, site, params, body }) =>
  change(app, operator, site, async (tx, record) => {
    if (BigInt(body.from) > BigInt(body.to)) throw invalid('to', 'The range ends before it begins.');
    const key = await holdKey(tx, site, params.id!);
    const { version } = await readyVersionOf(tx, key.id, versionIn(params.version));
    const cards = await tx
      .select({ id: cardTable.id })
      .from(cardTable)
      .where(
        and(
          eq(cardTable.siteId, site),
          eq(cardTable.formatId, body.formatId),
          eq(cardTable.facility, body.facility ?? ''),
          sql`${cardTable.numberKey} BETWEEN ${numberKey(body.from)} AND ${numberKey(body.to)}`,
        ),
      )
      .limit(MOST + 1);
    if (cards.length > MOST)
      throw conflict('many', `More than ${MOST} cards are in this range.`, 'Take it in parts.', 'to');
    if (cards.length === 0)
      throw invalid('from', 'No card on file is in this range.', 'Enter the cards in Stock first.');
    const ids = cards.map(({ id }) => id);
    await moveCards(tx, site, key.id, version, ids);
    record.trail({
      action: 'cards carry a key',
      subject: calledIn(key.set, key.name, version),
      after: { cards: ids.length, from: body.from, to: body.to },
    });
    record.announce('keys');
    return { cards: ids.length };
  }),
);

type Tx = Parameters<Parameters<typeof change>[3]>[0];

/** Notes that cards carry a version now, whichever they carried before; the counts go with them. */
export async function moveCards(tx: Tx, siteId: string, keyId: string, version: number, ids: string[]): Promise<void> {
  const before = await tx
    .select({ version: cardKeyTable.version, cards: sql<number>`COUNT(*)`.mapWith(Number) })
    .from(cardKeyTable)
    .where(and(eq(cardKeyTable.keyId, keyId), inArray(cardKeyTable.cardId, ids)))
    .groupBy(cardKeyTable.version);
  const at = new Date();
  await tx
    .insert(cardKeyTable)
    .values(ids.map((cardId) => ({ cardId, keyId, version, siteId, at })))
    .onDuplicateKeyUpdate({ set: { version, at } });
  const count = (of: number, more: number) =>
    tx
      .update(keyVersionTable)
      .set({ cards: sql`${keyVersionTable.cards} + ${more}` })
      .where(and(eq(keyVersionTable.keyId, keyId), eq(keyVersionTable.version, of)));
  for (const { version: of, cards } of before) await count(of, -cards);
  await count(version, ids.length);
}

export const carrierRoutes = [carriers];
