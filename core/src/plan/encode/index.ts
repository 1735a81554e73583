/** From a plan to a card. */
export { encodePlan, factoryKey, type KeyBytes, keyOf, settingsByte, wayOf } from './encode.ts';
export { standInCard, standInKey, standInKeys } from './standIn.ts';
