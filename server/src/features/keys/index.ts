/** Keys of a site, kept in its vault. */

export { type Destination, lackingOf, neverFor, planChanged } from './allowed.ts';
export { askWithPlan, materialFor, type ReaderDestination } from './asking.ts';
export { moveCards } from './carriers.ts';
export { endHoldings, noteReaderHolds } from './holdings.ts';
export { type KeyMaterial, type Material, materialOf } from './material.ts';
export {
  checkKeysThere,
  currentVersions,
  exposureOf,
  type KeyWanted,
  keysInPlan,
  markOfPlan,
  markOfVersion,
  type PlanAt,
} from './planKeys.ts';
export { forgetUnanswered as forgetUnansweredKeyRequests } from './requests.ts';
export { keyRoutes } from './routes.ts';
export { calledIn } from './rows.ts';
export { keyUseRequestTable } from './tables.ts';
export {
  changeKey,
  checkedUse,
  type KeyFacts,
  type KeyUse,
  keyFacts,
  markKey,
  markProblem,
  newUse,
  steadily,
  writeUse,
} from './use.ts';
export {
  type About,
  aboutSchema,
  describeRequest,
  digestOf,
  dropRequestsOf,
  notWhoAgrees,
  openRequests,
  putRequest,
  type Reach,
  type RequestRow,
  reachOfKeys,
  settleRequest,
} from './useRequests.ts';
