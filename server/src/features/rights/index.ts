/** Who may pass what, and when, as it is kept: calendar, schedules, groups, sets of groups, assertions. */
export { groupSetOf, groupsIn, type SitesRights, setsWith, sitesRights, takeTurn } from './store.ts';
export { accessGroupTable, assertionTable, calendarTable, groupSetTable, scheduleTable } from './tables.ts';
