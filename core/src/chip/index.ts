/** Chips: simulated contactless cards by their memory and the commands of their kind. */
export { crc32, crcA } from './field/crc.ts';
export { cascadeLevels, checkByte, randomUid, type Selected, selectIn } from './field/identity.ts';
export * from './files/index.ts';
export * from './keeping/index.ts';
export * from './sectors/index.ts';
export * from './selection/index.ts';
