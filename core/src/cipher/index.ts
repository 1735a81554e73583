/**
 * Ciphers: AES and triple DES as blocks under keys that are kept, chaining, and CMAC. What chips and keys are made of;
 * nothing here is a protocol.
 */
export { Aes } from './aes.ts';
export type { BlockCipher } from './block.ts';
export {
  bytesOf,
  fromLittleEndian,
  hexOf,
  joined,
  littleEndian,
  rotatedLeft,
  sameBytes,
  wordOf,
  xored,
} from './bytes.ts';
export { cbcDecrypt, cbcEncrypt } from './cbc.ts';
export { Cmac, doubled } from './cmac.ts';
export { TripleDes } from './des.ts';
