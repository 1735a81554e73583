/** Passage: whether a card's access groups let it through at a reader, at an instant; all that a controller needs for it. */
import { ALWAYS, dayKinds, holdsAt, type Schedule, wallClock } from '../schedule/index.ts';
import { type AccessGroup, type Calendar, type GuardedDoor, openedBy, type Way } from './groups.ts';
import { wallInWords } from './words.ts';

/** How far a card comes: `group` where none of its groups has the door, `schedule` where none holds now. */
export type Standing = 'passes' | 'group' | 'schedule';

/** Of a card, what passing asks of it. */
export interface Carrier {
  groups?: readonly string[] | undefined;
  holder: string | null;
}

/** What is asked of each card that is presented at one reader at one instant. */
export interface Passing {
  standing(card: Carrier): Standing;
  /** Why it is so, in words. */
  inWords(card: Carrier): string;
}

/** Nobody asks after groups: any active card passes. */
export const EVERYBODY: Passing = { standing: () => 'passes', inWords: () => '' };

export interface Guarding {
  doors: readonly GuardedDoor[];
  groups: readonly AccessGroup[];
  schedules: readonly Schedule[];
  calendar: Calendar | undefined;
}

/**
 * What holds at a reader (the name of its device) at an instant (milliseconds since 1970). A reader that is at no door
 * lets everybody pass, as does a door that is not by groups. Building it costs what is guarded; asking, the groups of a card.
 */
export function passages({ doors, groups, schedules, calendar }: Guarding): (reader: string, atMs: number) => Passing {
  const atReader = new Map<string, { door: GuardedDoor; way: Way }>();
  for (const door of doors) for (const { reader, way } of door.readers) atReader.set(reader, { door, way });
  const groupOf = new Map(groups.map((group) => [group.id, group]));
  // `ALWAYS` is there without anybody having loaded it.
  const scheduleOf = new Map([ALWAYS, ...schedules].map((schedule) => [schedule.id, schedule]));
  const clock = calendar && wallClock(calendar.zone);
  const kindOf = dayKinds(calendar?.holidays ?? []);
  return (reader, atMs) => {
    const here = atReader.get(reader);
    if (!here?.door.byGroups) return EVERYBODY;
    const { door, way } = here;
    const now = clock?.(atMs);
    const rightsOf = (card: Carrier) =>
      openedBy(
        (card.groups ?? []).flatMap((id) => groupOf.get(id) ?? []),
        door.id,
        way,
      );
    const holds = (id: string): boolean => {
      const schedule = scheduleOf.get(id);
      return now !== undefined && schedule !== undefined && holdsAt(schedule, kindOf, now);
    };
    return {
      standing(card) {
        const rights = rightsOf(card);
        if (rights.length === 0) return 'group';
        return rights.some(({ schedule }) => holds(schedule)) ? 'passes' : 'schedule';
      },
      inWords(card) {
        const rights = rightsOf(card);
        const who = card.holder ?? 'this card';
        const through = `${door.name}, ${way}`;
        if (rights.length === 0)
          return (card.groups ?? []).length === 0
            ? `${through}: only access groups let anybody pass, and ${who} is in none.`
            : `${through}: no access group of ${who} has this door.`;
        const open = rights.find(({ schedule }) => holds(schedule));
        const named = ({ group, schedule }: (typeof rights)[number]) =>
          `${group.name}, by ${scheduleOf.get(schedule)?.name ?? 'a schedule that is not loaded'}`;
        if (open) return `${through}: ${named(open)}.`;
        const when = now ? `now, ${wallInWords(now)}` : 'without a calendar';
        return `${through}: ${rights.map(named).join('; ')}, does not hold ${when}.`;
      },
    };
  };
}
