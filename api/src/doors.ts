/** Controllers, their readers, and loading. */

import { STEPS } from '@rawbits/core/access';
import { waySchema } from '@rawbits/core/access/rights';
import { z } from 'zod';
import { bitsSchema, idSchema, instant, name } from './parts.ts';
import { route } from './route.ts';

export const loadSchema = z.object({
  id: idSchema,
  state: z.enum(['running', 'done', 'failed', 'cancelled']),
  done: z.number().int(),
  total: z.number().int(),
  message: z.string(),
  startedAt: instant,
});

export type Load = z.infer<typeof loadSchema>;

/** `no answer`: nothing waits to be loaded, but what the controller holds cannot be asked. */
export const LOAD_STATES = ['current', 'changes waiting', 'never loaded', 'differs', 'no answer'] as const;

export const controllerSchema = z.object({
  id: idSchema,
  name,
  device: z.string(),
  comparesFacility: z.boolean(),
  wantedFormats: z.array(idSchema),
  loadedFormats: z.array(idSchema),
  wantedCards: z.number().int(),
  loadedCards: z.number().int(),
  standing: z.enum(LOAD_STATES),
  /** What loading would add, change and remove, one line each, the first of them; `waitingCount` counts all. */
  waiting: z.array(z.object({ change: z.enum(['add', 'change', 'remove']), what: z.string() })),
  waitingCount: z.number().int(),
  /** Set where more wait than are counted: `waitingCount` is then the number up to which they were. */
  waitingMore: z.boolean(),
  loadedAt: instant.nullable(),
  readers: z.array(z.object({ id: idSchema, name })),
  /** The load under way, or the last one. */
  load: loadSchema.nullable(),
  /** Whether the device answers at the moment. */
  answers: z.boolean(),
});

export type Controller = z.infer<typeof controllerSchema>;

/** How a device is called at its site: it goes into addresses, so nothing else is let through. */
export const deviceSchema = z
  .string()
  .regex(/^[a-z0-9][a-z0-9-]{0,39}$/, 'A device has 1 to 40 lower-case letters, digits and hyphens.');

export const newControllerSchema = z.strictObject({
  name,
  device: deviceSchema,
  comparesFacility: z.boolean().default(true),
});

export const wantedFormatsSchema = z.strictObject({ formats: z.array(idSchema).max(200) });

export const readerSchema = z.object({
  id: idSchema,
  name,
  kind: z.enum(['door', 'enrolment']),
  device: z.string(),
  controllerId: idSchema.nullable(),
  /** The door that it is at, and on which side; null where it is for enrolment. */
  doorId: idSchema.nullable(),
  way: waySchema,
});

export type Reader = z.infer<typeof readerSchema>;

export const newReaderSchema = z.strictObject({
  name,
  kind: z.enum(['door', 'enrolment']),
  device: deviceSchema,
  controllerId: idSchema.nullable().default(null),
  /** The door whose other reader it is; a door of its own is made where it names none. */
  doorId: idSchema.nullable().default(null),
  way: waySchema.default('in'),
});

/** What is left out stays. Another device has to be loaded anew, as it may hold anything. */
export const changedControllerSchema = z.strictObject({ name: name.optional(), device: deviceSchema.optional() });

/**
 * What is left out stays. At another controller a reader takes its door with it, with the other reader of the door and the
 * rights; another device has to be set up by its plan again.
 */
export const changedReaderSchema = z.strictObject({
  name: name.optional(),
  device: deviceSchema.optional(),
  controllerId: idSchema.optional(),
});

/** What goes when a controller or a reader is removed, and what stays outside. */
export const removalSchema = z.object({
  name,
  /** Readers and doors that are removed, too. */
  readers: z.array(z.object({ id: idSchema, name })),
  doors: z.array(z.object({ id: idSchema, name })),
  /** Access groups that lose a door. */
  groups: z.array(z.object({ id: idSchema, name })),
  /** Assertions that name a door no more, and those that are removed as they name no other. */
  assertions: z.array(z.object({ id: idSchema, name, removed: z.boolean() })),
  /** What Raw Bits cannot remove: cards in a controller, keys in a reader. */
  stays: z.array(z.string()),
  /** Sent back when it is removed: only what was shown is. */
  digest: z.string(),
});
export type Removal = z.infer<typeof removalSchema>;
const removeSchema = z.strictObject({ seen: z.string().max(64) });

/** By their names, in order; `answers` is false where no host of the site answers, so that nothing is known. */
export const offeredDevicesSchema = z.object({
  answers: z.boolean(),
  controllers: z.array(z.string()),
  readers: z.array(z.string()),
});

/** What would be decided on some bits at a reader now, by what its controller holds. */
export const decisionNowSchema = z.object({
  reader: z.object({ id: idSchema, name }),
  door: z.object({ id: idSchema, name }),
  controller: z.object({ id: idSchema, name }),
  outcome: z.enum(['opened', 'refused']),
  stoppedAt: z.enum(STEPS).nullable(),
  reason: z.string(),
});
export type DecisionNow = z.infer<typeof decisionNowSchema>;

export const doorApi = {
  decideNow: route({
    method: 'get',
    path: '/sites/{site}/decisions',
    summary:
      'What each door would decide on some bits now, by what its controller was loaded with; of controllers that were',
    needs: 'see the site',
    query: z.object({ bits: bitsSchema }),
    answers: z.array(decisionNowSchema),
  }),

  list: route({
    method: 'get',
    path: '/sites/{site}/controllers',
    summary: 'The controllers of a site: wanted against loaded',
    needs: 'see the site',
    answers: z.array(controllerSchema),
  }),
  one: route({
    method: 'get',
    path: '/sites/{site}/controllers/{id}',
    summary: 'One controller',
    needs: 'see the site',
    answers: controllerSchema,
  }),
  add: route({
    method: 'post',
    path: '/sites/{site}/controllers',
    summary: 'A new controller',
    needs: 'set up doors',
    body: newControllerSchema,
    answers: controllerSchema,
  }),
  change: route({
    method: 'patch',
    path: '/sites/{site}/controllers/{id}',
    summary: 'Rename a controller, or put another device in its place',
    needs: 'set up doors',
    body: changedControllerSchema,
    answers: controllerSchema,
  }),
  removal: route({
    method: 'get',
    path: '/sites/{site}/controllers/{id}/removal',
    summary: 'What would go with a controller, and what stays outside',
    needs: 'set up doors',
    answers: removalSchema,
  }),
  remove: route({
    method: 'post',
    path: '/sites/{site}/controllers/{id}/removal',
    summary: 'Remove a controller with its readers and doors, as it was shown',
    needs: 'set up doors',
    body: removeSchema,
    answers: removalSchema,
  }),
  setFormats: route({
    method: 'put',
    path: '/sites/{site}/controllers/{id}/formats',
    summary: 'Which adopted formats the controller is to accept; reaches it with the next load',
    needs: 'set up doors',
    body: wantedFormatsSchema,
    answers: controllerSchema,
  }),
  load: route({
    method: 'post',
    path: '/sites/{site}/controllers/{id}/loads',
    summary: 'Load the controller with what it should have',
    needs: 'load doors',
    answers: loadSchema,
  }),
  cancelLoad: route({
    method: 'post',
    path: '/sites/{site}/controllers/{id}/loads/cancel',
    summary: 'Stop a load that is being sent; what the controller has stays as it is',
    needs: 'load doors',
    answers: controllerSchema,
  }),
  readers: route({
    method: 'get',
    path: '/sites/{site}/readers',
    summary: 'The readers of a site',
    needs: 'see the site',
    answers: z.array(readerSchema),
  }),
  addReader: route({
    method: 'post',
    path: '/sites/{site}/readers',
    summary: 'A new reader, at a door of a controller or for enrolment',
    needs: 'set up doors',
    body: newReaderSchema,
    answers: readerSchema,
  }),
  offered: route({
    method: 'get',
    path: '/sites/{site}/offered-devices',
    summary: 'The devices that hosts of the site offer now, and that are no controller or reader yet',
    needs: 'set up doors',
    answers: offeredDevicesSchema,
  }),
  changeReader: route({
    method: 'patch',
    path: '/sites/{site}/readers/{id}',
    summary: 'Rename a reader, put another device in its place, or move it with its door to another controller',
    needs: 'set up doors',
    body: changedReaderSchema,
    answers: readerSchema,
  }),
  readerRemoval: route({
    method: 'get',
    path: '/sites/{site}/readers/{id}/removal',
    summary: 'What would go with a reader, and what stays outside',
    needs: 'set up doors',
    answers: removalSchema,
  }),
  removeReader: route({
    method: 'post',
    path: '/sites/{site}/readers/{id}/removal',
    summary: 'Remove a reader, and its door where it is the last there, as it was shown',
    needs: 'set up doors',
    body: removeSchema,
    answers: removalSchema,
  }),
};
