/**
 * API: what crosses between server, web, rig, demo and files, one file a feature with its schemas and its routes. The
 * OpenAPI document, the server's handlers, the web's endpoints and the demo's client are all derived from these. Instants
 * are ISO 8601 in UTC; numbers that can pass 2^53 are decimal strings; bits are binary digits.
 */

export * from './access.ts';
export * from './approvals.ts';
export * from './arming.ts';
export * from './badges.ts';
export * from './boxes.ts';
export * from './cardholders.ts';
export * from './cards.ts';
export * from './cases.ts';
export * from './doors.ts';
export * from './dryRuns.ts';
export * from './events.ts';
export * from './exchanges.ts';
export * from './facilityCodes.ts';
export * from './failure.ts';
export * from './formats.ts';
export * from './hosts.ts';
export * from './keyFile.ts';
export * from './keyStore.ts';
export * from './keys.ts';
export * from './keyUses.ts';
export * from './live.ts';
export * from './numbers.ts';
export * from './operators.ts';
export * from './pad.ts';
export { bitsSchema, idSchema } from './parts.ts';
export * from './peopleSheets.ts';
export * from './permissions.ts';
export * from './plans.ts';
export * from './readerPlans.ts';
export * from './reads.ts';
export * from './rig.ts';
export * from './route.ts';
export * from './runKinds.ts';
export * from './runs.ts';
export * from './session.ts';
export * from './sheets.ts';
export * from './siteFile.ts';
export * from './sites.ts';
export * from './tokens.ts';
export * from './trail.ts';
export * from './transfer.ts';
export * from './translations.ts';
export * from './wholeCards.ts';
export * from './wire.ts';
export * from './work.ts';
