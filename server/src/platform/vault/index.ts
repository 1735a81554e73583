/** The vault: what is secret of a site, under a key that is there only while its store is open. */
export type { Bound } from './envelope.ts';
export { macHolds, macOf } from './handover.ts';
export { type Open, type StoreState, Vault } from './vault.ts';
