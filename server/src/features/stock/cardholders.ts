/** Cardholders: the people who hold cards. */

import { cardholderApi } from '@rawbits/api';
import { asc, count, eq } from 'drizzle-orm';
import { newId } from '../../platform/database/index.ts';
import { handle } from '../../platform/http/app.ts';
import { change } from '../../platform/trail/change.ts';
import { cardholderTable, cardTable } from '../cards/index.ts';

const list = handle(cardholderApi.list, async ({ app, site }) =>
  app.db
    .select({
      id: cardholderTable.id,
      name: cardholderTable.name,
      department: cardholderTable.department,
      cards: count(cardTable.id),
    })
    .from(cardholderTable)
    .leftJoin(cardTable, eq(cardTable.holderId, cardholderTable.id))
    .where(eq(cardholderTable.siteId, site))
    .groupBy(cardholderTable.id)
    .orderBy(asc(cardholderTable.name)),
);

const add = handle(cardholderApi.add, ({ app, operator, site, body }) =>
  change(app, operator, site, async (tx, record) => {
    const id = newId();
    await tx.insert(cardholderTable).values({ id, siteId: site, ...body });
    record.trail({ action: 'cardholder added', subject: `cardholder ${body.name}`, after: { id, ...body } });
    record.announce('cards');
    return { id, ...body, cards: 0 };
  }),
);

export const cardholderRoutes = [list, add];
