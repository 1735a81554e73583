/** Badges: what is printed on the front of a card, and the marks of organisations that stand on it. */
import { z } from 'zod';
import { cardholderFields, cardholderSchema } from './cardholders.ts';
import { cardSchema } from './cards.ts';
import { idSchema } from './parts.ts';
import { route } from './route.ts';

/** So many badges are asked for at once. */
export const MOST_BADGES = 500;
/** Kept small: what is larger was not made smaller on screen. */
export const MOST_MARK = 80_000;

export const markSchema = z.strictObject({
  /** Empty for the mark of the site itself. */
  organisation: cardholderFields.organisation,
  /** A PNG in base64 (RFC 4648 §4). */
  data: z.base64().min(1).max(MOST_MARK, 'The picture is too large: take a smaller one.'),
});
export type Mark = z.infer<typeof markSchema>;

export const badgeSchema = z.object({
  holder: cardholderSchema.omit({ cards: true }).extend({ hasPhotograph: z.boolean() }),
  /** What they hold, the one in use first. */
  cards: z.array(
    cardSchema.pick({ id: true, facility: true, number: true, printed: true, state: true, validTo: true }),
  ),
});
export type Badge = z.infer<typeof badgeSchema>;

export const badgeApi = {
  of: route({
    method: 'post',
    path: '/sites/{site}/badges',
    summary: 'What stands on the badges of some cardholders; photographs are asked for one by one',
    needs: 'see the site',
    body: z.strictObject({ holders: z.array(idSchema).min(1).max(MOST_BADGES) }),
    /** In the order that was asked for. */
    answers: z.array(badgeSchema),
  }),
  marks: route({
    method: 'get',
    path: '/sites/{site}/marks',
    summary: 'The marks of organisations that stand on badges',
    needs: 'see the site',
    answers: z.array(markSchema),
  }),
  setMark: route({
    method: 'put',
    path: '/sites/{site}/marks',
    summary: 'Keep the mark of an organisation, or with null none any more',
    needs: 'keep cards',
    body: markSchema.extend({ data: markSchema.shape.data.nullable() }),
    answers: z.object({}),
  }),
};
