/**
 * Sessions of a file-system card, the card's side: what an authentication leaves behind, and how commands and answers are
 * protected under it (CHIPS, "Authentication and messages"). `oldest` is command 0A, `standard` 1A and AA, `newer` 71
 * and 77.
 */
import {
  Aes,
  type BlockCipher,
  Cmac,
  cbcDecrypt,
  cbcEncrypt,
  joined,
  littleEndian,
  sameBytes,
  TripleDes,
  xored,
} from '../../cipher/index.ts';
import { crc32, crcA } from '../field/crc.ts';
import { refuse } from './status.ts';

export type Mode = 'plain' | 'mac' | 'full';

/** The length of clear data: known, or told by the data themselves. */
export type Length = number | ((clear: Uint8Array) => number);
const lengthIn = (length: Length, clear: Uint8Array): number => (typeof length === 'number' ? length : length(clear));

/** How a command's data are protected, and how those of its answer. */
export interface Session {
  readonly kind: 'oldest' | 'standard' | 'newer';
  readonly key: number;
  /**
   * The clear data of a command. `header` and `data` as they came, MAC and padding included; `length` of the clear data
   * where it is known. Refuses `integrity` where they are not what the host sent.
   */
  command(code: number, header: Uint8Array, data: Uint8Array, mode: Mode, length?: Length): Uint8Array;
  /** What is sent of an answer with status 00; `open` where its length was not asked for. */
  answer(data: Uint8Array, mode: Mode, open?: boolean): Uint8Array;
  /** How many bytes `length` bytes of clear data have on the way in. */
  sent(length: number, mode: Mode): number;
  /** Bytes of a block: the key of a ChangeKey is padded to it. */
  readonly size: number;
}

const padded = (bytes: Uint8Array, size: number): Uint8Array =>
  joined(bytes, new Uint8Array((size - (bytes.length % size)) % size));

/** Padding of 80 00 …, always at least one byte. */
export const padded80 = (bytes: Uint8Array, size: number): Uint8Array => padded(joined(bytes, [0x80]), size);

/** What stands before 80 00 …. */
function unpadded80(bytes: Uint8Array): Uint8Array {
  let end = bytes.length - 1;
  while (end >= 0 && bytes[end] === 0) end--;
  if (end < 0 || bytes[end] !== 0x80) refuse('integrity');
  return bytes.subarray(0, end);
}

const whole = (bytes: Uint8Array, size: number): void => {
  if (bytes.length === 0 || bytes.length % size !== 0) refuse('length');
};

/** Command 0A: every vector zero; MACs of four bytes and CRC_A on the data of files alone. */
export class OldestSession implements Session {
  readonly kind = 'oldest';
  readonly size = 8;
  readonly cipher: BlockCipher;
  private readonly zero = new Uint8Array(8);

  constructor(
    readonly key: number,
    sessionKey: Uint8Array,
  ) {
    this.cipher = new TripleDes(sessionKey);
  }

  sent(length: number, mode: Mode): number {
    if (mode === 'mac') return length + 4;
    return mode === 'full' ? Math.ceil((length + 2) / 8) * 8 : length;
  }

  command(_code: number, _header: Uint8Array, data: Uint8Array, mode: Mode, length?: Length): Uint8Array {
    if (mode === 'plain') return data;
    if (mode === 'mac') {
      const clear = data.subarray(0, data.length - 4);
      if (data.length < 4 || !sameBytes(this.mac(clear), data.subarray(clear.length))) refuse('integrity');
      return clear;
    }
    const all = this.decipher(data);
    const clear = all.subarray(0, lengthIn(length ?? all.length - 2, all));
    if (!sameBytes(crcA(clear), all.subarray(clear.length, clear.length + 2))) refuse('integrity');
    return clear;
  }

  answer(data: Uint8Array, mode: Mode): Uint8Array {
    if (mode === 'plain') return data;
    if (mode === 'mac') return joined(data, this.mac(data));
    return cbcEncrypt(this.cipher, this.zero, padded(joined(data, crcA(data)), 8));
  }

  /** The host deciphers what it enciphers: P_i = E(C_i) ⊕ C_i−1. */
  decipher(data: Uint8Array): Uint8Array {
    whole(data, 8);
    return oldestDecipher(this.cipher, data);
  }

  private mac(data: Uint8Array): Uint8Array {
    const blocks = data.length === 0 ? new Uint8Array(8) : padded(data, 8);
    return cbcEncrypt(this.cipher, this.zero, blocks).subarray(blocks.length - 8, blocks.length - 4);
  }
}

export function oldestDecipher(cipher: BlockCipher, data: Uint8Array): Uint8Array {
  const clear = new Uint8Array(data);
  for (let at = 0; at < data.length; at += 8) {
    cipher.encrypt(clear, at);
    if (at > 0) for (let i = 0; i < 8; i++) clear[at + i]! ^= data[at - 8 + i]!;
  }
  return clear;
}

/** Commands 1A and AA: one vector that a CMAC carries on over every command and answer; CRC-32 within what is enciphered. */
export class StandardSession implements Session {
  readonly kind = 'standard';
  readonly size: number;
  readonly cipher: BlockCipher;
  private readonly mac: Cmac;
  /** Where it stands: replaced, never changed. */
  vector: Uint8Array;

  constructor(
    readonly key: number,
    cipher: BlockCipher,
  ) {
    this.cipher = cipher;
    this.mac = new Cmac(cipher);
    this.size = cipher.size;
    this.vector = new Uint8Array(cipher.size);
  }

  sent(length: number, mode: Mode): number {
    if (mode === 'mac') return length + 8;
    return mode === 'full' ? Math.ceil((length + 4) / this.size) * this.size : length;
  }

  command(code: number, header: Uint8Array, data: Uint8Array, mode: Mode, length?: Length): Uint8Array {
    if (mode === 'full') return this.decipher(code, header, data, length);
    const clear = mode === 'mac' ? data.subarray(0, Math.max(0, data.length - 8)) : data;
    this.vector = this.mac.of(joined([code], header, clear), this.vector);
    if (mode === 'mac' && !sameBytes(this.vector.subarray(0, 8), data.subarray(clear.length))) refuse('integrity');
    return clear;
  }

  private decipher(code: number, header: Uint8Array, data: Uint8Array, length: Length | undefined): Uint8Array {
    const all = this.deciphered(data);
    const clear = all.subarray(0, lengthIn(length ?? Math.max(0, all.length - 4), all));
    const rest = all.subarray(clear.length);
    if (!sameBytes(crc32(joined([code], header, clear)), rest.subarray(0, 4))) refuse('integrity');
    // Where the length is not known 80 may stand first.
    const open = typeof length === 'function' && rest[4] === 0x80;
    if (rest.subarray(open ? 5 : 4).some((byte) => byte !== 0)) refuse('integrity');
    return clear;
  }

  /** What is enciphered in a command, with its checksums: the vector goes on from it. */
  deciphered(data: Uint8Array): Uint8Array {
    whole(data, this.size);
    const clear = cbcDecrypt(this.cipher, this.vector, data);
    this.vector = new Uint8Array(data.subarray(data.length - this.size));
    return clear;
  }

  answer(data: Uint8Array, mode: Mode, open = false): Uint8Array {
    if (mode === 'full') {
      const checked = joined(data, crc32(joined(data, [0])));
      const blocks =
        open && checked.length % this.size !== 0 ? padded80(checked, this.size) : padded(checked, this.size);
      const enciphered = cbcEncrypt(this.cipher, this.vector, blocks);
      this.vector = enciphered.slice(enciphered.length - this.size);
      return enciphered;
    }
    this.vector = this.mac.of(joined(data, [0]), this.vector);
    return joined(data, this.vector.subarray(0, 8));
  }
}

/** Commands 71 and 77: two keys, a transaction identifier and a counter of commands (DOMAIN §4; NXP AN12196). */
export class NewerSession implements Session {
  readonly kind = 'newer';
  readonly size = 16;
  private readonly enciphering: Aes;
  private readonly mac: Cmac;
  /** Both keys of the session. */
  readonly keys: { enciphering: Uint8Array; mac: Uint8Array };

  constructor(
    readonly key: number,
    cardKey: Uint8Array,
    a: Uint8Array,
    b: Uint8Array,
    readonly transaction: Uint8Array,
    public counter: number,
  ) {
    const under = new Cmac(new Aes(cardKey));
    const context = joined(a.subarray(0, 2), xored(a.subarray(2, 8), b.subarray(0, 6)), b.subarray(6), a.subarray(8));
    this.keys = {
      enciphering: under.of(joined([0xa5, 0x5a, 0x00, 0x01, 0x00, 0x80], context)),
      mac: under.of(joined([0x5a, 0xa5, 0x00, 0x01, 0x00, 0x80], context)),
    };
    this.enciphering = new Aes(this.keys.enciphering);
    this.mac = new Cmac(new Aes(this.keys.mac));
  }

  sent(length: number, mode: Mode): number {
    if (mode === 'plain') return length;
    return (mode === 'full' ? (Math.floor(length / 16) + 1) * 16 : length) + 8;
  }

  command(code: number, header: Uint8Array, data: Uint8Array, mode: Mode): Uint8Array {
    if (mode === 'plain') return data;
    if (data.length < 8) refuse('length');
    const sent = data.subarray(0, data.length - 8);
    const mac = this.cut(joined([code], littleEndian(this.counter, 2), this.transaction, header, sent));
    if (!sameBytes(mac, data.subarray(sent.length))) refuse('integrity');
    if (mode === 'mac' || sent.length === 0) return sent;
    whole(sent, 16);
    return unpadded80(cbcDecrypt(this.enciphering, this.vector([0xa5, 0x5a]), sent));
  }

  answer(data: Uint8Array, mode: Mode): Uint8Array {
    // The counter grows with every command, in every mode.
    this.counter = (this.counter + 1) & 0xffff;
    if (mode === 'plain') return data;
    const sent =
      mode === 'full' && data.length > 0
        ? cbcEncrypt(this.enciphering, this.vector([0x5a, 0xa5]), padded80(data, 16))
        : data;
    return joined(sent, this.cut(joined([0], littleEndian(this.counter, 2), this.transaction, sent)));
  }

  private vector(label: readonly number[]): Uint8Array {
    const block = joined(label, this.transaction, littleEndian(this.counter, 2), new Uint8Array(8));
    this.enciphering.encrypt(block);
    return block;
  }

  /** Of the sixteen bytes of a MAC every second is sent. */
  private cut(message: Uint8Array): Uint8Array {
    return this.mac.of(message).filter((_, i) => i % 2 === 1);
  }
}
