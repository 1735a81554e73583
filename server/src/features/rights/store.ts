/** Reading and writing what a site keeps of who may pass what; costs groups and schedules, however many people there are. */
import type { AccessGroup } from '@rawbits/core/access/rights';
import type { Holiday, Schedule } from '@rawbits/core/access/schedule';
import { asc, eq, inArray, sql } from 'drizzle-orm';
import { derivedId, type Queryable } from '../../platform/database/index.ts';
import { accessGroupTable, calendarTable, groupSetTable, scheduleTable } from './tables.ts';

/**
 * Waits until no other change of a site's rights is under way, on whatever server. To be called before anything is read in
 * the transaction.
 */
export const takeTurn = (tx: Queryable, siteId: string) =>
  tx
    .insert(calendarTable)
    .values({ siteId, holidays: [] })
    .onDuplicateKeyUpdate({ set: { guard: sql`guard + 1` } });

export interface SitesRights {
  groups: (AccessGroup & { revision: number })[];
  schedules: (Schedule & { revision: number })[];
  holidays: Holiday[];
  /** Of the holidays. */
  revision: number;
}

export async function sitesRights(db: Queryable, siteId: string): Promise<SitesRights> {
  const [calendar] = await db.select().from(calendarTable).where(eq(calendarTable.siteId, siteId));
  const schedules = await db
    .select()
    .from(scheduleTable)
    .where(eq(scheduleTable.siteId, siteId))
    .orderBy(asc(scheduleTable.name));
  const groups = await db
    .select()
    .from(accessGroupTable)
    .where(eq(accessGroupTable.siteId, siteId))
    .orderBy(asc(accessGroupTable.name));
  return {
    holidays: (calendar?.holidays ?? []) as Holiday[],
    revision: calendar?.revision ?? 1,
    schedules: schedules.map(({ id, name, periods, onHolidays, revision }) => ({
      id,
      name,
      periods: periods as Schedule['periods'],
      onHolidays: onHolidays as Schedule['onHolidays'],
      revision,
    })),
    groups: groups.map(({ id, name, rights, revision }) => ({
      id,
      name,
      rights: JSON.parse(rights) as AccessGroup['rights'],
      revision,
    })),
  };
}

/** The row that stands for a set of groups; null for the empty one. */
export async function groupSetOf(tx: Queryable, siteId: string, groups: readonly string[]): Promise<string | null> {
  const set = [...new Set(groups)].sort();
  if (set.length === 0) return null;
  const id = derivedId(siteId, `groups ${set.join()}`);
  await tx.insert(groupSetTable).ignore().values({ id, siteId, groups: set });
  return id;
}

/** The sets of a site that have a group; costs its sets. */
export async function setsWith(db: Queryable, siteId: string, group: string): Promise<string[]> {
  const sets = await db.select().from(groupSetTable).where(eq(groupSetTable.siteId, siteId));
  return sets.flatMap(({ id, groups }) => ((groups as string[]).includes(group) ? [id] : []));
}

/** The groups of some sets, by the sets. */
export async function groupsIn(db: Queryable, sets: readonly (string | null)[]): Promise<Map<string, string[]>> {
  const ids = [...new Set(sets.flatMap((set) => set ?? []))];
  if (ids.length === 0) return new Map();
  const rows = await db.select().from(groupSetTable).where(inArray(groupSetTable.id, ids));
  return new Map(rows.map(({ id, groups }) => [id, groups as string[]]));
}
