/** Keys of a site, kept in its vault. */
export { moveCards } from './carriers.ts';
export { endHoldings, noteReaderHolds } from './holdings.ts';
export { currentVersions, type KeyMaterial, type KeyWanted, materialOf } from './material.ts';
export { forgetUnanswered as forgetUnansweredKeyRequests } from './requests.ts';
export { keyRoutes } from './routes.ts';
