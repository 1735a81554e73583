/** Signing in and out, one’s own password, and the very first operator. */

import { z } from 'zod';
import { idSchema, name, secret } from './parts.ts';
import { permissionSchema, rolesSchema } from './permissions.ts';
import { route } from './route.ts';
import { newSiteSchema, siteSchema } from './sites.ts';

export const loginSchema = z
  .string()
  .trim()
  .toLowerCase()
  .regex(/^[a-z0-9][a-z0-9._-]{1,39}$/, 'A sign-in name has 2 to 40 letters, digits, dots or hyphens.');

export const passwordSchema = secret(z.string().min(12, 'A password has at least 12 characters.').max(200));

export const signInSchema = z.strictObject({ login: z.string().max(80), password: secret(z.string().max(200)) });

export const sessionSchema = z.object({
  operator: z.object({ id: idSchema, login: z.string(), name, mustChangePassword: z.boolean() }),
  sites: z.array(siteSchema.extend({ roles: rolesSchema, permissions: z.array(permissionSchema) })),
});

export type Session = z.infer<typeof sessionSchema>;

export const changePasswordSchema = z.strictObject({ current: secret(z.string().max(200)), next: passwordSchema });

export const setupSchema = z.strictObject({
  token: secret(z.string().trim().min(1, 'Give the code.').max(200)),
  login: loginSchema,
  name,
  password: passwordSchema,
  site: newSiteSchema.extend({ hasRig: z.boolean().default(false) }),
});

export const sessionApi = {
  signIn: route({
    method: 'post',
    path: '/session',
    summary: 'Sign in',
    needs: 'nothing',
    body: signInSchema,
    limits: { bytes: 4000, entries: 20 },
    answers: sessionSchema,
  }),
  signOut: route({
    method: 'delete',
    path: '/session',
    summary: 'Sign out',
    needs: 'signed in',
    answers: z.object({}),
  }),
  whoAmI: route({
    method: 'get',
    path: '/session',
    summary: 'Who is signed in, and at which sites',
    needs: 'signed in',
    answers: sessionSchema,
  }),
  changePassword: route({
    method: 'post',
    path: '/session/password',
    summary: 'Change one’s own password; ends all other sessions',
    needs: 'signed in',
    body: changePasswordSchema,
    answers: sessionSchema,
  }),
  setupState: route({
    method: 'get',
    path: '/setup',
    summary: 'Whether the first operator is still to be set up',
    needs: 'nothing',
    answers: z.object({ open: z.boolean() }),
  }),
  setup: route({
    method: 'post',
    path: '/setup',
    summary:
      'The first operator and the first site, with the token that the start command made; only while there are none',
    needs: 'nothing',
    body: setupSchema,
    limits: { bytes: 4000, entries: 20 },
    answers: z.object({ siteId: z.string(), operatorId: z.string() }),
  }),
};
