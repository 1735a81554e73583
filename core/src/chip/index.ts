/** Chips: simulated contactless cards by their memory and the commands of their kind. */
export { crc32, crcA } from './crc.ts';
export * from './files/index.ts';
export { cascadeLevels, checkByte, randomUid, type Selected, selectIn } from './identity.ts';
export * from './sectors/index.ts';
