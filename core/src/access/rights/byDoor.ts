/** Rights in order of the doors that they are to, so that a question about some doors costs the rights to those doors. */
import type { Rights, Way } from './groups.ts';

/** One right of a group to one door, one way; `order` says where it stands among all. */
export interface DoorRight {
  group: string;
  schedule: string;
  door: string;
  /** Of the group among the groups, of the right among its rights, and of the door among its doors. */
  order: readonly [group: number, right: number, door: number];
}

export const keyAt = (door: string, way: Way): string => `${way} ${door}`;

const known = new WeakMap<Rights, ReadonlyMap<string, readonly DoorRight[]>>();

/** Every right by door and way (`keyAt`), worked out once for some rights: costs them all, once. */
export function rightsByDoor(rights: Rights): ReadonlyMap<string, readonly DoorRight[]> {
  const before = known.get(rights);
  if (before) return before;
  const found = new Map<string, DoorRight[]>();
  for (const [g, { id: group, rights: own }] of rights.groups.entries())
    for (const [r, { doors, schedule }] of own.entries())
      for (const [d, { door, ways }] of doors.entries())
        for (const way of ways) {
          const key = keyAt(door, way);
          const there = found.get(key);
          const one: DoorRight = { group, schedule, door, order: [g, r, d] };
          if (there) there.push(one);
          else found.set(key, [one]);
        }
  known.set(rights, found);
  return found;
}

/** By groups, the doors and ways that each has a right to, with the schedules by which: costs all rights, once. */
export function rightsByGroup({ groups }: Rights): ReadonlyMap<string, ReadonlyMap<string, ReadonlySet<string>>> {
  return new Map(
    groups.map(({ id, rights }) => {
      const keys = new Map<string, Set<string>>();
      for (const { doors, schedule } of rights)
        for (const { door, ways } of doors)
          for (const way of ways) {
            const key = keyAt(door, way);
            const there = keys.get(key);
            if (there) there.add(schedule);
            else keys.set(key, new Set([schedule]));
          }
      return [id, keys];
    }),
  );
}
