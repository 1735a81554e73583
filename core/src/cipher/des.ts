/**
 * DES and triple DES (FIPS 46-3; triple as in NIST SP 800-67 §3: encipher under the first key, decipher under the second,
 * encipher under the third). Bits are numbered as there, from 1, the most significant first. Parity bits are not looked at.
 */
import type { BlockCipher } from './block.ts';

/** FIPS 46-3, Appendix 1: the rows of each S-box, a hex digit a value. */
const S_BOXES = [
  'e4d12fb83a6c5907 0f74e2d1a6cb9538 41e8d62bfc973a50 fc8249175b3ea06d',
  'f18e6b34972dc05a 3d47f28ec01a69b5 0e7ba4d158c6932f d8a13f42b67c05e9',
  'a09e63f51dc7b428 d709346a285ecbf1 d6498f30b12c5ae7 1ad069874fe3b52c',
  '7de3069a1285bc4f d8b56f03472c1ae9 a690cb7df13e5284 3f06a1d8945bc72e',
  '2c417ab6853fd0e9 eb2c47d150fa3986 421bad78f9c5630e b8c71e2d6f09a453',
  'c1af92680d34e75b af427c9561de0b38 9ef528c3704a1db6 432c95fabe17608d',
  '4b2ef08d3c975a61 d0b7491ae35c2f86 14bdc37eaf680592 6bd814a7950fe23c',
  'd2846fb1a93e50c7 1fd8a374c56b0e92 7b419ce206adf358 21e74a8dfc90356b',
];
const P = [
  16, 7, 20, 21, 29, 12, 28, 17, 1, 15, 23, 26, 5, 18, 31, 10, 2, 8, 24, 14, 32, 27, 3, 9, 19, 13, 30, 6, 22, 11, 4, 25,
];
const PC1 = [
  57, 49, 41, 33, 25, 17, 9, 1, 58, 50, 42, 34, 26, 18, 10, 2, 59, 51, 43, 35, 27, 19, 11, 3, 60, 52, 44, 36, 63, 55,
  47, 39, 31, 23, 15, 7, 62, 54, 46, 38, 30, 22, 14, 6, 61, 53, 45, 37, 29, 21, 13, 5, 28, 20, 12, 4,
];
const PC2 = [
  14, 17, 11, 24, 1, 5, 3, 28, 15, 6, 21, 10, 23, 19, 12, 4, 26, 8, 16, 7, 27, 20, 13, 2, 41, 52, 31, 37, 47, 55, 30,
  40, 51, 45, 33, 48, 44, 49, 39, 56, 34, 53, 46, 42, 50, 36, 29, 32,
];
const SHIFTS = [1, 1, 2, 2, 2, 2, 2, 2, 1, 2, 2, 2, 2, 2, 2, 1];

/** What each S-box makes of six bits, already permuted by P. */
const SP = S_BOXES.map((box, index) => {
  const rows = box.split(' ');
  return Uint32Array.from({ length: 64 }, (_, six) => {
    const row = ((six >> 4) & 2) | (six & 1);
    const four = Number.parseInt(rows[row]![(six >> 1) & 15]!, 16);
    let out = 0;
    for (const [to, from] of P.entries()) {
      const bit = from - 1 - 4 * index;
      if (bit >= 0 && bit < 4 && (four >> (3 - bit)) & 1) out |= 1 << (31 - to);
    }
    return out >>> 0;
  });
}) as [Uint32Array, Uint32Array, Uint32Array, Uint32Array, Uint32Array, Uint32Array, Uint32Array, Uint32Array];

/** Sixteen round keys of eight times six bits each, in the order of enciphering. */
function schedule(key: Uint8Array): Uint8Array {
  const bit = (n: number): number => (key[(n - 1) >> 3]! >> (7 - ((n - 1) & 7))) & 1;
  let halves = PC1.map(bit);
  const rounds = new Uint8Array(16 * 8);
  for (const [round, shift] of SHIFTS.entries()) {
    const [c, d] = [halves.slice(0, 28), halves.slice(28)];
    halves = [...c.slice(shift), ...c.slice(0, shift), ...d.slice(shift), ...d.slice(0, shift)];
    for (const [i, from] of PC2.entries()) rounds[8 * round + Math.floor(i / 6)]! |= halves[from - 1]! << (5 - (i % 6));
  }
  return rounds;
}

/** The same rounds, the last one first: deciphering. */
function backwards(rounds: Uint8Array): Uint8Array {
  const reversed = new Uint8Array(rounds.length);
  for (let round = 0; round < 16; round++) reversed.set(rounds.subarray(8 * round, 8 * round + 8), 8 * (15 - round));
  return reversed;
}

export class TripleDes implements BlockCipher {
  readonly size = 8;
  private readonly forward: Uint8Array[];
  private readonly backward: Uint8Array[];

  /** `key` has 8 bytes (DES alone), 16 (two-key: the first again in third place) or 24. Throws where it has not. */
  constructor(key: Uint8Array) {
    if (![8, 16, 24].includes(key.length)) throw new Error(`a DES key has 8, 16 or 24 bytes, not ${key.length}`);
    const parts = [];
    for (let at = 0; at < key.length; at += 8) parts.push(schedule(key.subarray(at, at + 8)));
    const [first, second = first!, third = first!] = parts;
    this.forward = key.length === 8 ? [first!] : [first!, backwards(second!), third!];
    this.backward = this.forward.map(backwards).reverse();
  }

  encrypt(bytes: Uint8Array, at = 0): void {
    through(this.forward, bytes, at);
  }

  decrypt(bytes: Uint8Array, at = 0): void {
    through(this.backward, bytes, at);
  }
}

/** One block through several times sixteen rounds; between them the last and the first permutation undo each other. */
function through(stages: readonly Uint8Array[], bytes: Uint8Array, at: number): void {
  let l = word(bytes, at);
  let r = word(bytes, at + 4);
  let t: number;
  // The initial permutation, by exchanging groups of bits between the halves.
  t = ((l >>> 4) ^ r) & 0x0f0f0f0f;
  r ^= t;
  l ^= t << 4;
  t = ((l >>> 16) ^ r) & 0x0000ffff;
  r ^= t;
  l ^= t << 16;
  t = ((r >>> 2) ^ l) & 0x33333333;
  l ^= t;
  r ^= t << 2;
  t = ((r >>> 8) ^ l) & 0x00ff00ff;
  l ^= t;
  r ^= t << 8;
  t = ((l >>> 1) ^ r) & 0x55555555;
  r ^= t;
  l ^= t << 1;
  for (const keys of stages) {
    for (let k = 0; k < 128; k += 8) {
      t = l ^ round(r, keys, k);
      l = r;
      r = t;
    }
    t = l;
    l = r;
    r = t;
  }
  t = ((l >>> 1) ^ r) & 0x55555555;
  r ^= t;
  l ^= t << 1;
  t = ((r >>> 8) ^ l) & 0x00ff00ff;
  l ^= t;
  r ^= t << 8;
  t = ((r >>> 2) ^ l) & 0x33333333;
  l ^= t;
  r ^= t << 2;
  t = ((l >>> 16) ^ r) & 0x0000ffff;
  r ^= t;
  l ^= t << 16;
  t = ((l >>> 4) ^ r) & 0x0f0f0f0f;
  r ^= t;
  l ^= t << 4;
  put(bytes, at, l);
  put(bytes, at + 4, r);
}

const [S1, S2, S3, S4, S5, S6, S7, S8] = SP;

/** The function f: each S-box takes six bits of the half, those at its edges shared with its neighbours. */
const round = (half: number, keys: Uint8Array, k: number): number =>
  S1[(((half & 1) << 5) | (half >>> 27)) ^ keys[k]!]! ^
  S2[((half >>> 23) & 63) ^ keys[k + 1]!]! ^
  S3[((half >>> 19) & 63) ^ keys[k + 2]!]! ^
  S4[((half >>> 15) & 63) ^ keys[k + 3]!]! ^
  S5[((half >>> 11) & 63) ^ keys[k + 4]!]! ^
  S6[((half >>> 7) & 63) ^ keys[k + 5]!]! ^
  S7[((half >>> 3) & 63) ^ keys[k + 6]!]! ^
  S8[(((half << 1) & 62) | (half >>> 31)) ^ keys[k + 7]!]!;

const word = (bytes: Uint8Array, at: number): number =>
  (bytes[at]! << 24) | (bytes[at + 1]! << 16) | (bytes[at + 2]! << 8) | bytes[at + 3]!;

function put(bytes: Uint8Array, at: number, value: number): void {
  bytes[at] = value >>> 24;
  bytes[at + 1] = (value >>> 16) & 255;
  bytes[at + 2] = (value >>> 8) & 255;
  bytes[at + 3] = value & 255;
}
