/** Cardholders: the people who hold cards. */
import { cardholderApi } from '@rawbits/api';
import { asc, count, eq } from 'drizzle-orm';
import { newId, tables } from '../database/index.ts';
import { handle } from '../http/app.ts';
import { change } from '../trail/change.ts';

const list = handle(cardholderApi.list, async ({ app, site }) =>
  app.db
    .select({
      id: tables.cardholders.id,
      name: tables.cardholders.name,
      department: tables.cardholders.department,
      cards: count(tables.cards.id),
    })
    .from(tables.cardholders)
    .leftJoin(tables.cards, eq(tables.cards.holderId, tables.cardholders.id))
    .where(eq(tables.cardholders.siteId, site))
    .groupBy(tables.cardholders.id)
    .orderBy(asc(tables.cardholders.name)),
);

const add = handle(cardholderApi.add, ({ app, operator, site, body }) =>
  change(app, operator, site, async (tx, record) => {
    const id = newId();
    await tx.insert(tables.cardholders).values({ id, siteId: site, ...body });
    record.trail({ action: 'cardholder added', subject: `cardholder ${body.name}`, after: { id, ...body } });
    record.announce('cards');
    return { id, ...body, cards: 0 };
  }),
);

export const cardholderRoutes = [list, add];
