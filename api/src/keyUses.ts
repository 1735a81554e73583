/** What the keys of a site may be used for, what waits for a custodian's agreement, and how it is widened and narrowed. */
import { z } from 'zod';
import { idSchema, instant, name } from './parts.ts';
import { route } from './route.ts';

const agreed = { by: name, at: instant };
export const keyUseShownSchema = z.object({
  keyId: idSchema,
  /** Whether it may be put on cards as it is, the same on all. */
  asItIs: z.boolean(),
  toReaders: z.boolean(),
  plans: z.array(z.object({ planId: idSchema, plan: z.string(), version: z.number().int(), ...agreed })),
  readers: z.array(z.object({ readerId: idSchema, reader: z.string(), hostId: idSchema, host: z.string(), ...agreed })),
  hosts: z.array(z.object({ hostId: idSchema, host: z.string(), ...agreed })),
  /** Why nothing is done with it; null where all of it is as Raw Bits wrote it. */
  problem: z.string().nullable(),
});
export type KeyUseShown = z.infer<typeof keyUseShownSchema>;

export const KEY_USE_REQUESTS = ['plan', 'reader', 'widen', 'accept'] as const;
export const keyUseRequestSchema = z.object({
  id: idSchema,
  kind: z.enum(KEY_USE_REQUESTS),
  /** What is asked for, as a sentence. */
  what: z.string(),
  /** What each key will be exposed to: a line a place. */
  exposure: z.array(z.object({ key: z.string(), places: z.array(z.string()) })),
  /** What whoever has one of the keys can do to a card then, a key after the other. */
  reach: z.array(z.object({ key: z.string(), can: z.array(z.string()) })),
  /** What else whoever agrees has to know. */
  notes: z.array(z.string()),
  /** Hosts over whose pads the keys go, or that the reader belongs to. */
  hosts: z.array(z.string()),
  askedBy: name,
  askedAt: instant,
  /** Whether whoever reads this may not be the one who agrees, and why; null where they may. */
  notYou: z.string().nullable(),
  /** Of all that is shown here: sent back with the agreement, so that it is to this and nothing else. */
  digest: z.string(),
});
export type KeyUseRequest = z.infer<typeof keyUseRequestSchema>;

/** What a custodian asks another for. */
export const askKeyUseSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('widen'),
    keyId: idSchema,
    asItIs: z.boolean().default(false),
    toReaders: z.boolean().default(false),
  }),
  z.strictObject({ kind: z.literal('accept'), what: z.enum(['key', 'plan']), id: idSchema }),
]);

const atUses = '/sites/{site}/key-uses';
const atRequests = '/sites/{site}/key-use-requests';

export const keyUseApi = {
  list: route({
    method: 'get',
    path: atUses,
    summary: 'What each key may be used for',
    needs: 'see the site',
    answers: z.array(keyUseShownSchema),
  }),
  narrow: route({
    method: 'post',
    path: '/sites/{site}/keys/{id}/use/narrow',
    summary: 'Take a use of a key away, by one custodian',
    needs: 'hold keys',
    body: z.strictObject({
      /** Taken away where they are named. */
      asItIs: z.literal(false).optional(),
      toReaders: z.literal(false).optional(),
      plans: z
        .array(z.strictObject({ planId: idSchema, version: z.number().int() }))
        .max(200)
        .default([]),
      readers: z.array(idSchema).max(200).default([]),
      hosts: z.array(idSchema).max(200).default([]),
    }),
    answers: keyUseShownSchema,
  }),
  requests: route({
    method: 'get',
    path: atRequests,
    summary: 'New uses of keys that wait for a custodian',
    needs: 'see the site',
    answers: z.array(keyUseRequestSchema),
  }),
  ask: route({
    method: 'post',
    path: atRequests,
    summary:
      'Ask another custodian to widen what a key may be used for, or to accept a key or plan as it stands in the database',
    needs: 'hold keys',
    body: askKeyUseSchema,
    answers: keyUseRequestSchema,
  }),
  agree: route({
    method: 'post',
    path: `${atRequests}/{id}/agree`,
    summary: 'Agree to a new use of keys, as a custodian who did not ask for it',
    needs: 'hold keys',
    body: z.strictObject({ digest: z.string().max(64) }),
    answers: z.object({}),
  }),
  refuse: route({
    method: 'post',
    path: `${atRequests}/{id}/refuse`,
    summary: 'Refuse it, as a custodian; or withdraw what one asked for oneself',
    needs: 'see the site',
    answers: z.object({}),
  }),
};
