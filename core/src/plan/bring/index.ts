/** From a plan to a card, and to a card that is there already. */
export { type Bringing, type Brought, bringCard, type CardStep, compareCard } from './bring.ts';
export { type Freeing, freeCard } from './free.ts';
export { freeByGrant, type Grant, grantsOf } from './grant.ts';
export { factoryKey, type KeyBytes, keyOf, settingsByte, wayOf } from './keys.ts';
export { type ReadableField, readableFields } from './readable.ts';
export { type Ring, type RingKey, ringOf } from './ring.ts';
export { standInBlank, standInCard, standInKey, standInKeys } from './standIn.ts';
