/** What waits for a second person: nobody alone makes, changes or closes a key custodian. */
import { z } from 'zod';
import { idSchema, instant, name } from './parts.ts';
import { route } from './route.ts';

export const approvalSchema = z.object({
  id: idSchema,
  /** What is to be done, as a sentence. */
  what: z.string(),
  askedBy: name,
  askedAt: instant,
  /** After this it can be agreed to no more. */
  endsAt: instant,
  /** Whether whoever asks this now may agree: neither who asked for it nor whom it is about may. */
  mayAgree: z.boolean(),
});
export type Approval = z.infer<typeof approvalSchema>;

/** The answer to a change that waits for a second person. */
export const awaitingSchema = z.object({ awaiting: approvalSchema });

export const approvalApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/approvals',
    summary: 'What waits for a second person',
    needs: 'agree on custodians',
    answers: z.array(approvalSchema),
  }),
  agree: route({
    method: 'post',
    path: '/sites/{site}/approvals/{id}/agree',
    summary: 'Agree, as the second person: it is done',
    needs: 'agree on custodians',
    answers: z.object({}),
  }),
  refuse: route({
    method: 'post',
    path: '/sites/{site}/approvals/{id}/refuse',
    summary: 'Refuse it, or take back what one asked for oneself',
    needs: 'agree on custodians',
    answers: z.object({}),
  }),
};
