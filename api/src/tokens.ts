/** Tokens for scripts: each for one site, some permissions and a time. */
import { z } from 'zod';
import { idSchema, instant, name } from './parts.ts';
import { permissionSchema } from './permissions.ts';
import { route } from './route.ts';

export const tokenSchema = z.object({
  id: idSchema,
  name,
  permissions: z.array(permissionSchema),
  madeBy: name,
  madeAt: instant,
  endsAt: instant,
  revokedAt: instant.nullable(),
  usedAt: instant.nullable(),
});
export type ApiToken = z.infer<typeof tokenSchema>;

/** What a token can never be given: a script makes no operators, no sites and no tokens, and holds no keys. */
export const NEVER_FOR_TOKENS = [
  'hold keys',
  'agree on custodians',
  'manage operators',
  'manage sites',
  'manage tokens',
] as const;

export const newTokenSchema = z.strictObject({
  name,
  permissions: z.array(permissionSchema.exclude(NEVER_FOR_TOKENS)).min(1, 'Choose what the token allows.').max(20),
  /** For how many days it is good. */
  days: z.number().int().min(1).max(400),
});

export const tokenApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/tokens',
    summary: 'The tokens of a site, without their secrets',
    needs: 'manage tokens',
    answers: z.array(tokenSchema),
  }),
  make: route({
    method: 'post',
    path: '/sites/{site}/tokens',
    summary: 'A new token; its text is in this answer and nowhere else',
    needs: 'manage tokens',
    body: newTokenSchema,
    secret: true,
    answers: z.object({ token: tokenSchema, text: z.string() }),
  }),
  revoke: route({
    method: 'post',
    path: '/sites/{site}/tokens/{id}/revoke',
    summary: 'Make a token good for nothing',
    needs: 'manage tokens',
    answers: tokenSchema,
  }),
};
