/** Who may pass which doors, and when: doors, schedules, holidays, access groups and their members, assertions. */
import { accessAssertionSchema, accessGroupSchema, waySchema } from '@rawbits/core/access/rights';
import { holidaySchema, scheduleSchema } from '@rawbits/core/access/schedule';
import { z } from 'zod';
import { idSchema, instant, name } from './parts.ts';
import { route } from './route.ts';

const revision = z.number().int();
const minutes = z.array(z.object({ from: z.number().int(), to: z.number().int() }));
const date = z.string().regex(/^\d{4}-\d{2}-\d{2}$/, 'Write a day as 2026-12-25.');

export const doorSchema = z.object({
  id: idSchema,
  name,
  controllerId: idSchema,
  /** Whether access groups say who passes; anybody with an active card does otherwise. */
  byGroups: z.boolean(),
  readers: z.array(z.object({ id: idSchema, name, way: waySchema })),
  revision,
});
export type Door = z.infer<typeof doorSchema>;

/** What breaks an assertion: somebody, the door, and the first minute. */
export const brokenSchema = z.object({
  person: z.string(),
  /** How many pass so with an active card. */
  people: z.number().int(),
  /** How many more would, once a card of theirs is active. */
  later: z.number().int(),
  group: z.string().nullable(),
  door: z.string(),
  schedule: z.string().nullable(),
  date: z.string(),
  time: z.string(),
});

export const accessSchema = z.object({
  zone: z.string(),
  doors: z.array(doorSchema),
  calendar: z.object({ holidays: z.array(holidaySchema), revision }),
  schedules: z.array(scheduleSchema.extend({ revision })),
  groups: z.array(accessGroupSchema.extend({ revision, members: z.number().int() })),
  assertions: z.array(accessAssertionSchema.extend({ id: idSchema, revision, broken: z.array(brokenSchema) })),
});
export type Access = z.infer<typeof accessSchema>;

/** A change of what lets people through; one that makes something new has no id. */
const rightsChangeSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('schedule'),
    id: idSchema.nullable(),
    revision: revision.optional(),
    ...scheduleSchema.pick({ name: true, periods: true, onHolidays: true }).shape,
  }),
  z.strictObject({ kind: z.literal('remove schedule'), id: idSchema }),
  z.strictObject({
    kind: z.literal('holidays'),
    revision: revision.optional(),
    holidays: z.array(holidaySchema).max(1000),
  }),
  z.strictObject({
    kind: z.literal('group'),
    id: idSchema.nullable(),
    revision: revision.optional(),
    ...accessGroupSchema.pick({ name: true, rights: true }).shape,
  }),
  z.strictObject({ kind: z.literal('remove group'), id: idSchema }),
  z.strictObject({
    kind: z.literal('door'),
    id: idSchema,
    revision: revision.optional(),
    name,
    byGroups: z.boolean(),
    /** One or two, in or out; of the same controller. A door that has none left is taken off the file. */
    readers: z
      .array(z.strictObject({ id: idSchema, way: waySchema }))
      .min(1)
      .max(2),
  }),
]);

/** A change of who is in groups. */
const membersChangeSchema = z.discriminatedUnion('kind', [
  /** People who come into groups, or leave them. */
  z.strictObject({
    kind: z.literal('members'),
    add: z.array(idSchema).max(60).default([]),
    remove: z.array(idSchema).max(60).default([]),
    holders: z.array(idSchema).min(1).max(1000),
  }),
  /** Groups that hang on one card, beside its holder's. */
  z.strictObject({ kind: z.literal('card'), id: idSchema, groups: z.array(idSchema).max(60) }),
]);

export const accessChangeSchema = z.discriminatedUnion('kind', [
  ...rightsChangeSchema.options,
  ...membersChangeSchema.options,
]);
export type AccessChange = z.infer<typeof accessChangeSchema>;

const movedSchema = z.object({
  door: z.string(),
  way: waySchema,
  /** How many people with an active card. */
  people: z.number().int(),
  /** How many more, who have no active card yet. */
  later: z.number().int(),
  /** The first of them by name, those with an active card before the others. */
  names: z.array(z.string()),
  /** The groups that they are in afterwards. */
  groups: z.array(z.string()),
  when: z.string(),
  first: z.string(),
});
export const accessReviewSchema = z.object({
  gains: z.array(movedSchema),
  losses: z.array(movedSchema),
  /** Assertions that hold today and would not any more. */
  breaks: z.array(z.object({ id: idSchema, name, broken: z.array(brokenSchema) })),
  /** Controllers that would have something to be loaded. */
  controllers: z.array(z.string()),
  /** Stands for all this: a change is saved with what was seen. */
  seen: z.string(),
});
export type AccessReview = z.infer<typeof accessReviewSchema>;

const withReview = {
  /** The review that was looked at; needed where somebody loses something, or an assertion breaks. */
  seen: z.string().max(100).optional(),
  /** Set where an assertion is to be broken knowingly. */
  breaking: z.boolean().default(false),
};
export const savedRightsSchema = z.strictObject({ change: rightsChangeSchema, ...withReview });
export const savedMembersSchema = z.strictObject({ change: membersChangeSchema, ...withReview });

export const savedAssertionSchema = z.strictObject({
  id: idSchema.nullable(),
  revision: revision.optional(),
  ...accessAssertionSchema.shape,
});

const weekDaySchema = z.object({
  date: z.string(),
  weekday: z.number().int(),
  holiday: z.string().nullable(),
  holds: minutes,
  twice: minutes,
  never: minutes,
});
const throughSchema = z.object({ group: z.string(), schedule: z.string(), when: z.string() });

/** A week of one door, one way: as somebody may pass it, or as a group lets people through. */
export const passageSchema = z.object({
  door: z.object({ id: idSchema, name }),
  way: waySchema,
  /** Empty where anybody with an active card passes. */
  through: z.array(throughSchema),
  open: z.boolean(),
  week: z.array(weekDaySchema),
  /** At the instant that was asked for. */
  now: z.boolean(),
});
export type Passage = z.infer<typeof passageSchema>;

const weekQuery = {
  /** The first day of the week that is drawn; today's Monday without. */
  from: date.optional(),
  /** The instant that `now` is about. */
  at: instant.optional(),
};

export const memberSchema = z.object({ id: idSchema, name, department: z.string(), groups: z.array(idSchema) });

export const accessApi = {
  all: route({
    method: 'get',
    path: '/sites/{site}/access',
    summary: 'Doors, schedules, holidays, access groups, and assertions with whether they hold',
    needs: 'see the site',
    answers: accessSchema,
  }),
  review: route({
    method: 'post',
    path: '/sites/{site}/access/reviews',
    summary: 'What a change would do: who gains and who loses which doors, and when; which assertions it breaks',
    needs: 'see the site',
    body: z.strictObject({ change: accessChangeSchema }),
    answers: accessReviewSchema,
  }),
  save: route({
    method: 'post',
    path: '/sites/{site}/access/changes',
    summary: 'Save a change of what lets people through; it reaches the doors with the next load',
    needs: 'set up doors',
    body: savedRightsSchema,
    /** What was made or changed; null of the holidays. */
    answers: z.object({ id: idSchema.nullable() }),
  }),
  saveMembers: route({
    method: 'post',
    path: '/sites/{site}/access/memberships',
    summary: 'Save who is in which groups, or which groups hang on a card; it reaches the doors with the next load',
    needs: 'keep cards',
    body: savedMembersSchema,
    answers: z.object({}),
  }),
  assert: route({
    method: 'post',
    path: '/sites/{site}/access/assertions',
    summary: 'Put an assertion on file, or change it: nobody but some groups may pass some doors while something holds',
    needs: 'set up doors',
    body: savedAssertionSchema,
    answers: z.object({ id: idSchema }),
  }),
  withdraw: route({
    method: 'delete',
    path: '/sites/{site}/access/assertions/{id}',
    summary: 'Take an assertion off the file',
    needs: 'set up doors',
    answers: z.object({}),
  }),
  members: route({
    method: 'get',
    path: '/sites/{site}/access/groups/{id}/members',
    summary: 'Who is in an access group, by name, page by page',
    needs: 'see the site',
    query: z.object({
      after: z.string().max(400).optional(),
      limit: z.coerce.number().int().min(1).max(500).default(100),
    }),
    answers: z.object({ members: z.array(memberSchema), next: z.string().nullable() }),
  }),
  ofHolder: route({
    method: 'get',
    path: '/sites/{site}/cardholders/{id}/access',
    summary: 'Which doors somebody may pass, through which groups, as a week and at an instant',
    needs: 'see the site',
    query: z.object(weekQuery),
    answers: z.object({ groups: z.array(idSchema), passages: z.array(passageSchema) }),
  }),
  ofDoor: route({
    method: 'get',
    path: '/sites/{site}/access/doors/{id}',
    summary: 'Who may pass a door, group by group, as a week and at an instant',
    needs: 'see the site',
    query: z.object({ ...weekQuery, way: waySchema.default('in') }),
    answers: z.object({
      open: z.boolean(),
      groups: z.array(
        z.object({
          id: idSchema,
          name,
          members: z.number().int(),
          through: z.array(throughSchema),
          week: z.array(weekDaySchema),
          now: z.boolean(),
        }),
      ),
    }),
  }),
};
