/**
 * Who may pass which doors, and when: a door says whether everybody with an active card may pass it or only whom an access
 * group lets in; a group lets its members pass some doors, each in or out or both, while a schedule holds.
 */
import { z } from 'zod';
import { type Holiday, holidaySchema, type Schedule } from '../schedule/index.ts';

export const waySchema = z.enum(['in', 'out']);
export type Way = z.infer<typeof waySchema>;
export const WAYS: readonly Way[] = ['in', 'out'];

export const accessGroupSchema = z.strictObject({
  id: z.string().min(1).max(40),
  name: z.string().trim().min(1).max(120),
  rights: z
    .array(
      z.strictObject({
        doors: z
          .array(z.strictObject({ door: z.string().max(40), ways: z.array(waySchema).min(1).max(2) }))
          .min(1)
          .max(1000),
        schedule: z.string().max(40),
      }),
    )
    .max(60),
});
export type AccessGroup = z.infer<typeof accessGroupSchema>;

/** A door as its controller knows it, with the readers on either side of it by the names of their devices. */
export const guardedDoorSchema = z.strictObject({
  id: z.string().min(1).max(40),
  name: z.string().trim().min(1).max(120),
  /** Whether only the access groups of a card let it pass; any active card does otherwise. */
  byGroups: z.boolean(),
  readers: z.array(z.strictObject({ reader: z.string().max(60), way: waySchema })).max(20),
});
export type GuardedDoor = z.infer<typeof guardedDoorSchema>;

/** By which days and clocks schedules hold. */
export const calendarSchema = z.strictObject({
  /** A zone of the IANA time zone database. */
  zone: z.string().max(60),
  holidays: z.array(holidaySchema).max(1000),
});
export type Calendar = z.infer<typeof calendarSchema>;

/** What lets people through at a site. */
export interface Rights {
  groups: readonly AccessGroup[];
  schedules: readonly Schedule[];
  holidays: readonly Holiday[];
  /** The doors that anybody with an active card passes at any time. */
  open?: ReadonlySet<string>;
  /** By doors, the ways for which they have a reader: nobody passes another way. A door that is not listed has both. */
  ways?: ReadonlyMap<string, readonly Way[]>;
}

/** Whether a door has a reader for a way. */
export const hasReader = ({ ways }: Rights, door: string, way: Way): boolean => ways?.get(door)?.includes(way) ?? true;

/** The schedules by which some groups let through a door one way, each with the group. Costs the rights of those groups. */
export function openedBy(
  groups: Iterable<AccessGroup>,
  door: string,
  way: Way,
): { group: AccessGroup; schedule: string }[] {
  const found: { group: AccessGroup; schedule: string }[] = [];
  for (const group of groups)
    for (const { doors, schedule } of group.rights)
      if (doors.some((right) => right.door === door && right.ways.includes(way))) found.push({ group, schedule });
  return found;
}
