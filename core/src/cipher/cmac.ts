/** CMAC (NIST SP 800-38B §6), under one key that is kept with its two subkeys; also going on from a vector, as chips do. */
import type { BlockCipher } from './block.ts';

/** The constant that a doubling past the top bit is reduced by (SP 800-38B §5.3). */
const REDUCTION = { 8: 0x1b, 16: 0x87 } as Record<number, number>;

export class Cmac {
  /** For a last block that is whole. */
  readonly k1: Uint8Array;
  /** For one that was padded. */
  readonly k2: Uint8Array;

  constructor(readonly cipher: BlockCipher) {
    const zero = new Uint8Array(cipher.size);
    cipher.encrypt(zero);
    this.k1 = doubled(zero);
    this.k2 = doubled(this.k1);
  }

  /** The whole MAC of a message, of one block; from zero, or from the vector that `from` is. */
  of(message: Uint8Array, from?: Uint8Array): Uint8Array {
    const { size } = this.cipher;
    const blocks = Math.max(1, Math.ceil(message.length / size));
    const state = from ? new Uint8Array(from) : new Uint8Array(size);
    for (let block = 0; block < blocks; block++) {
      const at = block * size;
      const end = Math.min(message.length, at + size);
      for (let i = at; i < end; i++) state[i - at]! ^= message[i]!;
      if (block === blocks - 1) {
        const whole = end - at === size;
        if (!whole) state[end - at]! ^= 0x80;
        const last = whole ? this.k1 : this.k2;
        for (let i = 0; i < size; i++) state[i]! ^= last[i]!;
      }
      this.cipher.encrypt(state);
    }
    return state;
  }
}

/** Twice a value in the field of the block's size. */
export function doubled(value: Uint8Array): Uint8Array {
  const bytes = new Uint8Array(value.length);
  for (let i = 0; i < value.length; i++) bytes[i] = ((value[i]! << 1) | ((value[i + 1] ?? 0) >>> 7)) & 255;
  if (value[0]! & 0x80) bytes[value.length - 1]! ^= REDUCTION[value.length]!;
  return bytes;
}
