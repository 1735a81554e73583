/** Cardholders: the people who hold cards. */
import { cardholderSchema, newCardholderSchema } from '@rawbits/core/api';
import { asc, count, eq } from 'drizzle-orm';
import { z } from 'zod';
import { newId, tables } from '../database/index.ts';
import { route } from '../http/app.ts';
import { change } from '../trail/change.ts';

const list = route({
  method: 'get',
  path: '/sites/{site}/cardholders',
  summary: 'The cardholders of a site, with how many cards each holds',
  needs: 'viewer',
  answers: z.array(cardholderSchema),
  handle: async ({ app, site }) =>
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
});

const add = route({
  method: 'post',
  path: '/sites/{site}/cardholders',
  summary: 'A new cardholder',
  needs: 'technician',
  body: newCardholderSchema,
  answers: cardholderSchema,
  handle: ({ app, operator, site, body }) =>
    change(app, operator, site, async (tx, record) => {
      const id = newId();
      await tx.insert(tables.cardholders).values({ id, siteId: site, ...body });
      record.trail({ action: 'cardholder added', subject: `cardholder ${body.name}`, after: { id, ...body } });
      record.announce('cards');
      return { id, ...body, cards: 0 };
    }),
});

export const cardholderRoutes = [list, add];
