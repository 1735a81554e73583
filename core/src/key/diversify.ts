/**
 * Keys of one card made from a key of all cards (NXP AN10922, rev. 2: §2.2 AES-128, §2.3 two-key and §2.4 three-key triple
 * DES). Each part of the key is the last block of an enciphering of its constant and the card's data, padded to two blocks;
 * the data are UID, application and system identifier, one after the other.
 */
import { Aes, type BlockCipher, Cmac, joined, TripleDes } from '../cipher/index.ts';
import { fail } from '../failure/index.ts';

export const DIVERSIFIED_KINDS = ['aes128', 'tdes2', 'tdes3'] as const;
export type DiversifiedKind = (typeof DIVERSIFIED_KINDS)[number];

/** The constants that tell the parts of a key apart, first to last. */
const CONSTANTS: Record<DiversifiedKind, readonly number[]> = {
  aes128: [0x01],
  tdes2: [0x21, 0x22],
  tdes3: [0x31, 0x32, 0x33],
};

/** Bytes of data at most: two blocks but for the constant. */
export const MOST_DATA: Record<DiversifiedKind, number> = { aes128: 31, tdes2: 15, tdes3: 15 };

/** One part of a diversified key, step by step. */
export interface DiversifyStep {
  constant: number;
  /** Constant, data and padding: two blocks. */
  padded: Uint8Array;
  /** Whether it had to be padded: the last block is then combined with K2, else with K1. */
  wasPadded: boolean;
  /** What goes into the cipher: the padded blocks, the last one combined with the subkey. */
  enciphered: Uint8Array;
  /** The part: the last block that comes out. */
  part: Uint8Array;
}

export interface Diversified {
  data: Uint8Array;
  k1: Uint8Array;
  k2: Uint8Array;
  steps: DiversifyStep[];
  key: Uint8Array;
}

/** Makes keys under one key; what does not depend on the card is worked out once. */
export class Diversifier {
  private readonly cipher: BlockCipher;
  private readonly mac: Cmac;

  /** `key` has 16 bytes for `aes128` and `tdes2`, 24 for `tdes3`. */
  constructor(
    private readonly kind: DiversifiedKind,
    key: Uint8Array,
  ) {
    this.cipher = kind === 'aes128' ? new Aes(key) : new TripleDes(key);
    this.mac = new Cmac(this.cipher);
  }

  /** The key of a card; `data` has 1 to 31 bytes (AES) or 1 to 15 (triple DES). Throws `diversify-data` otherwise. */
  keyFor(data: Uint8Array): Uint8Array {
    this.check(data);
    const { size } = this.cipher;
    const key = new Uint8Array(CONSTANTS[this.kind].length * size);
    const block = new Uint8Array(2 * size);
    const last = data.length + 1 === 2 * size ? this.mac.k1 : this.mac.k2;
    for (const [i, constant] of CONSTANTS[this.kind].entries()) {
      block.fill(0);
      block[0] = constant;
      block.set(data, 1);
      if (data.length + 1 < 2 * size) block[data.length + 1] = 0x80;
      this.cipher.encrypt(block, 0);
      for (let j = 0; j < size; j++) block[size + j]! ^= block[j]! ^ last[j]!;
      this.cipher.encrypt(block, size);
      key.set(block.subarray(size), i * size);
    }
    return key;
  }

  /** As `keyFor`, with every step, to be shown of test keys. */
  explain(data: Uint8Array): Diversified {
    const key = this.keyFor(data);
    const { size } = this.cipher;
    const { k1, k2 } = this.mac;
    const wasPadded = data.length + 1 < 2 * size;
    const steps = CONSTANTS[this.kind].map((constant, i) => {
      const padded = joined(
        [constant],
        data,
        wasPadded ? [0x80] : [],
        new Uint8Array(Math.max(0, 2 * size - data.length - 2)),
      );
      const enciphered = new Uint8Array(padded);
      const last = wasPadded ? k2 : k1;
      for (let j = 0; j < size; j++) enciphered[size + j]! ^= last[j]!;
      return { constant, padded, wasPadded, enciphered, part: key.slice(i * size, (i + 1) * size) };
    });
    return { data, k1, k2, steps, key };
  }

  private check(data: Uint8Array): void {
    const most = MOST_DATA[this.kind];
    if (data.length < 1 || data.length > most)
      fail(
        'diversify-data',
        `UID, application and system identifier have ${data.length} bytes together; 1 to ${most} can go into a key of this kind.`,
        { field: 'system' },
        data.length > most ? 'Shorten the system identifier.' : 'Give the UID at least.',
      );
  }
}

/** What goes into a card's key: UID, application and system identifier, one after the other. */
export const diversifyData = (uid: Uint8Array, application: Uint8Array, system: Uint8Array): Uint8Array =>
  joined(uid, application, system);
