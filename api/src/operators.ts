/** Operators: who may work at a site, and as what. */

import { z } from 'zod';
import { idSchema, instant, name } from './parts.ts';
import { roleSchema } from './roles.ts';
import { route } from './route.ts';
import { loginSchema, passwordSchema } from './session.ts';

export const operatorSchema = z.object({
  id: idSchema,
  login: z.string(),
  name,
  role: roleSchema,
  /** The names of the sites that the asking administrator may also see. */
  sites: z.array(z.object({ id: idSchema, name, role: roleSchema })),
  mustChangePassword: z.boolean(),
  closedAt: instant.nullable(),
});

export type Operator = z.infer<typeof operatorSchema>;

export const newOperatorSchema = z.strictObject({
  login: loginSchema,
  name,
  role: roleSchema,
  password: passwordSchema,
});

export const operatorSitesSchema = z.strictObject({
  /** A role at each site to be held; null takes the site away. Sites not named stay as they are. */
  roles: z.record(idSchema, roleSchema.nullable()),
});

export const resetPasswordSchema = z.strictObject({ password: passwordSchema });

export const operatorApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/operators',
    summary: 'The operators of a site',
    needs: 'administrator',
    answers: z.array(operatorSchema),
  }),
  add: route({
    method: 'post',
    path: '/sites/{site}/operators',
    summary: 'A new operator at the site, with a first password that has to be changed',
    needs: 'administrator',
    body: newOperatorSchema,
    answers: operatorSchema,
  }),
  setRoles: route({
    method: 'patch',
    path: '/sites/{site}/operators/{id}',
    summary: 'Role and sites of an operator, at sites that one administers oneself',
    needs: 'administrator',
    body: operatorSitesSchema,
    answers: operatorSchema.nullable(),
  }),
  reset: route({
    method: 'post',
    path: '/sites/{site}/operators/{id}/password',
    summary: 'Give an operator a new first password; ends their sessions',
    needs: 'administrator',
    body: resetPasswordSchema,
    answers: operatorSchema,
  }),
  close: route({
    method: 'post',
    path: '/sites/{site}/operators/{id}/close',
    summary: 'Close an operator’s account; ends their sessions',
    needs: 'administrator',
    answers: operatorSchema,
  }),
  reopen: route({
    method: 'post',
    path: '/sites/{site}/operators/{id}/reopen',
    summary: 'Open a closed account again',
    needs: 'administrator',
    answers: operatorSchema,
  }),
};
