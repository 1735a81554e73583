/** Operators: who may work at a site, and as what. */

import { z } from 'zod';
import { awaitingSchema } from './approvals.ts';
import { idSchema, instant, name } from './parts.ts';
import { rolesSchema } from './permissions.ts';
import { route } from './route.ts';
import { loginSchema, passwordSchema } from './session.ts';

export const operatorSchema = z.object({
  id: idSchema,
  login: z.string(),
  name,
  /** At this site. */
  roles: rolesSchema,
  /** The names of the sites that the asking administrator may also see. */
  sites: z.array(z.object({ id: idSchema, name, roles: rolesSchema })),
  mustChangePassword: z.boolean(),
  closedAt: instant.nullable(),
});

export type Operator = z.infer<typeof operatorSchema>;

export const newOperatorSchema = z.strictObject({
  login: loginSchema,
  name,
  roles: rolesSchema.min(1, 'Choose at least one role.'),
  password: passwordSchema,
});

export const operatorSitesSchema = z.strictObject({
  /** The roles to be held at each site; none takes the site away. Sites not named stay as they are. */
  roles: z.record(idSchema, rolesSchema),
});

export const resetPasswordSchema = z.strictObject({ password: passwordSchema });

/** Where a key custodian is concerned the answer is that it waits for a second person. */
export const operatorApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/operators',
    summary: 'The operators of a site',
    needs: 'manage operators',
    answers: z.array(operatorSchema),
  }),
  add: route({
    method: 'post',
    path: '/sites/{site}/operators',
    summary: 'A new operator at the site, with a first password that has to be changed',
    needs: 'manage operators',
    body: newOperatorSchema,
    answers: z.union([operatorSchema, awaitingSchema]),
  }),
  setRoles: route({
    method: 'patch',
    path: '/sites/{site}/operators/{id}',
    summary: 'Role and sites of an operator, at sites that one administers oneself',
    needs: 'manage operators',
    body: operatorSitesSchema,
    answers: z.union([operatorSchema, awaitingSchema]).nullable(),
  }),
  reset: route({
    method: 'post',
    path: '/sites/{site}/operators/{id}/password',
    summary: 'Give an operator a new first password; ends their sessions',
    needs: 'manage operators',
    body: resetPasswordSchema,
    answers: z.union([operatorSchema, awaitingSchema]),
  }),
  close: route({
    method: 'post',
    path: '/sites/{site}/operators/{id}/close',
    summary: 'Close an operator’s account; ends their sessions',
    needs: 'manage operators',
    answers: z.union([operatorSchema, awaitingSchema]),
  }),
  reopen: route({
    method: 'post',
    path: '/sites/{site}/operators/{id}/reopen',
    summary: 'Open a closed account again',
    needs: 'manage operators',
    answers: z.union([operatorSchema, awaitingSchema]),
  }),
};
