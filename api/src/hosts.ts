/** Device hosts of a site: what offers its devices, and the token with which it dials in. */
import { z } from 'zod';
import { idSchema, instant, name } from './parts.ts';
import { route } from './route.ts';

/** The sorts of devices that a host can offer. */
export const deviceSorts = ['pads', 'readers', 'controllers'] as const;
export type DeviceSort = (typeof deviceSorts)[number];

export const deviceHostSchema = z.object({
  id: idSchema,
  name: z.string(),
  kind: z.enum(['rig', 'desk']),
  /** Whether it is the rig that runs beside a server: it has the token that it was started with, which nobody revokes. */
  beside: z.boolean(),
  /** Whether it is connected to any server at the moment. */
  connected: z.boolean(),
  heardAt: instant.nullable(),
  /** What its token was made for: whatever else it offers is passed over. */
  allows: z.array(z.enum(deviceSorts)),
  devices: z.array(z.string()),
  madeBy: z.string(),
  madeAt: instant,
  revokedAt: instant.nullable(),
});
export type DeviceHost = z.infer<typeof deviceHostSchema>;

export const newHostSchema = z.strictObject({
  name,
  kind: z.enum(['rig', 'desk']).default('desk'),
  /** What it may offer: all of a rig, pads and readers of a desk unless said otherwise. */
  allows: z.array(z.enum(deviceSorts)).min(1, 'Say what it may offer.').max(deviceSorts.length).optional(),
});

export const hostApi = {
  list: route({
    method: 'get',
    path: '/sites/{site}/hosts',
    summary: 'The device hosts of a site, and whether they are connected',
    needs: 'manage sites',
    answers: z.array(deviceHostSchema),
  }),
  add: route({
    method: 'post',
    path: '/sites/{site}/hosts',
    summary: 'Add a device host: the token with which it dials in is shown once',
    needs: 'manage sites',
    body: newHostSchema,
    secret: true,
    answers: z.object({ host: deviceHostSchema, token: z.string() }),
  }),
  revoke: route({
    method: 'post',
    path: '/sites/{site}/hosts/{id}/revoke',
    summary: 'Revoke the token of a device host: its line is closed at once',
    needs: 'manage sites',
    answers: deviceHostSchema,
  }),
};
