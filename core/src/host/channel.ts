/**
 * Secure messaging, the host's side: how a command is protected and its answer opened under each kind of authentication
 * (DOMAIN §4, CHIPS). Written from those pages; the card's side stands apart.
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
} from '../cipher/index.ts';
import { checksum16, checksum32 } from './checksums.ts';
import { forged } from './failure.ts';

/** How data go on the way: as they are, with a MAC, or enciphered. */
export type Protection = 'plain' | 'maced' | 'enciphered';

export interface Outgoing {
  name: string;
  code: number;
  /** What is never enciphered. */
  header: Uint8Array;
  data: Uint8Array;
  protection: Protection;
  /** How the answer comes. */
  answer: Protection;
  /** Clear bytes that the answer has; undefined where that is not known. */
  expects?: number;
}

export interface Channel {
  readonly key: number;
  /** What follows the command's code. */
  seal(command: Outgoing): Uint8Array;
  /** The clear data of an answer with status 00. Throws where it was changed. */
  open(command: Outgoing, answer: Uint8Array): Uint8Array;
}

const filled = (bytes: Uint8Array, block: number): Uint8Array => {
  const rest = bytes.length % block;
  return rest === 0 ? bytes : joined(bytes, new Uint8Array(block - rest));
};

/** Without authentication everything is as it is. */
export const OPEN: Channel = {
  key: -1,
  seal: ({ header, data }) => joined(header, data),
  open: (_command, answer) => answer,
};

/** After command 0A: only data of files are protected; the host deciphers what it sends. */
export class FirstChannel implements Channel {
  constructor(
    readonly key: number,
    private readonly cipher: BlockCipher,
  ) {}

  seal({ header, data, protection }: Outgoing): Uint8Array {
    if (protection === 'plain') return joined(header, data);
    if (protection === 'maced') return joined(header, data, this.mac(data));
    return joined(header, this.backwards(filled(joined(data, checksum16(data)), 8)));
  }

  open({ name, answer, expects }: Outgoing, bytes: Uint8Array): Uint8Array {
    if (answer === 'plain') return bytes;
    if (answer === 'maced') {
      const clear = bytes.subarray(0, Math.max(0, bytes.length - 4));
      return sameBytes(this.mac(clear), bytes.subarray(clear.length)) ? clear : forged(name);
    }
    if (bytes.length % 8 !== 0) return forged(name);
    const all = cbcDecrypt(this.cipher, new Uint8Array(8), bytes);
    return (
      lengthsOf(all, 2, 8, expects)
        .map((length) => all.subarray(0, length))
        .find((clear) => holds(all, clear, checksum16(clear))) ?? forged(name)
    );
  }

  /** C_i = D(P_i ⊕ C_i−1), from zero. */
  backwards(clear: Uint8Array): Uint8Array {
    const out = new Uint8Array(clear);
    for (let at = 0; at < out.length; at += 8) {
      if (at > 0) for (let i = 0; i < 8; i++) out[at + i]! ^= out[at + i - 8]!;
      this.cipher.decrypt(out, at);
    }
    return out;
  }

  private mac(data: Uint8Array): Uint8Array {
    const whole = data.length === 0 ? new Uint8Array(8) : filled(data, 8);
    const last = cbcEncrypt(this.cipher, new Uint8Array(8), whole).subarray(-8);
    return last.subarray(0, 4);
  }
}

/**
 * The lengths that clear data can have within what was enciphered in blocks, a checksum of `tail` bytes after them and less
 * than a block of padding: the shortest first, since data with their own checksum have one of zeros, as padding has.
 */
function lengthsOf(all: Uint8Array, tail: number, block: number, expects: number | undefined): number[] {
  if (expects !== undefined) return expects + tail <= all.length ? [expects] : [];
  const longest = all.length - tail;
  return Array.from({ length: block }, (_, i) => longest - block + 1 + i).filter((length) => length >= 0);
}

/** Whether a checksum stands after the clear data and nothing but padding after it: zeros, or 80 and zeros. */
function holds(all: Uint8Array, clear: Uint8Array, checksum: readonly number[]): boolean {
  const rest = all.subarray(clear.length);
  if (!checksum.every((byte, i) => rest[i] === byte)) return false;
  const padding = rest.subarray(checksum.length);
  return padding.every((byte, i) => byte === 0 || (i === 0 && byte === 0x80));
}

/** After 1A and AA: one vector through all commands and answers. */
export class SecondChannel implements Channel {
  private readonly mac: Cmac;

  /** `vector` is where the conversation stands: zeros at its beginning. */
  constructor(
    readonly key: number,
    private readonly cipher: BlockCipher,
    private vector: Uint8Array = new Uint8Array(cipher.size),
  ) {
    this.mac = new Cmac(cipher);
  }

  seal({ code, header, data, protection }: Outgoing): Uint8Array {
    if (protection === 'enciphered') {
      const checked = joined(data, checksum32(joined([code], header, data)));
      return joined(header, this.encipher(checked));
    }
    this.vector = this.mac.of(joined([code], header, data), this.vector);
    return protection === 'maced' ? joined(header, data, this.vector.subarray(0, 8)) : joined(header, data);
  }

  encipher(clear: Uint8Array): Uint8Array {
    const out = cbcEncrypt(this.cipher, this.vector, filled(clear, this.cipher.size));
    this.vector = out.slice(-this.cipher.size);
    return out;
  }

  open({ name, answer, expects }: Outgoing, bytes: Uint8Array): Uint8Array {
    if (answer === 'enciphered') return this.decipher(name, bytes, expects);
    const clear = bytes.subarray(0, Math.max(0, bytes.length - 8));
    this.vector = this.mac.of(joined(clear, [0]), this.vector);
    return sameBytes(this.vector.subarray(0, 8), bytes.subarray(clear.length)) ? clear : forged(name);
  }

  private decipher(name: string, bytes: Uint8Array, expects: number | undefined): Uint8Array {
    const { size } = this.cipher;
    if (bytes.length === 0 || bytes.length % size !== 0) return forged(name);
    const all = cbcDecrypt(this.cipher, this.vector, bytes);
    this.vector = bytes.slice(-size);
    const found = lengthsOf(all, 4, size, expects).find((length) => {
      const clear = all.subarray(0, length);
      return holds(all, clear, checksum32(joined(clear, [0])));
    });
    return found === undefined ? forged(name) : all.subarray(0, found);
  }
}

/** After 71 and 77: a counter and a transaction identifier in every MAC and vector (NXP AN12196). */
export class ThirdChannel implements Channel {
  private readonly enciphering: Aes;
  private readonly macing: Cmac;

  constructor(
    readonly key: number,
    keys: { enciphering: Uint8Array; mac: Uint8Array },
    readonly transaction: Uint8Array,
    public counter = 0,
  ) {
    this.enciphering = new Aes(keys.enciphering);
    this.macing = new Cmac(new Aes(keys.mac));
  }

  seal({ code, header, data, protection }: Outgoing): Uint8Array {
    if (protection === 'plain') return joined(header, data);
    const body =
      protection === 'enciphered' && data.length > 0
        ? cbcEncrypt(this.enciphering, this.vector(0xa5, 0x5a), filled(joined(data, [0x80]), 16))
        : data;
    return joined(header, body, this.mac(joined([code], this.context(), header, body)));
  }

  open({ name, answer }: Outgoing, bytes: Uint8Array): Uint8Array {
    this.counter++;
    if (answer === 'plain') return bytes;
    const body = bytes.subarray(0, Math.max(0, bytes.length - 8));
    if (!sameBytes(this.mac(joined([0], this.context(), body)), bytes.subarray(body.length))) return forged(name);
    if (answer === 'maced' || body.length === 0) return body;
    const clear = cbcDecrypt(this.enciphering, this.vector(0x5a, 0xa5), body);
    return clear.subarray(0, clear.lastIndexOf(0x80));
  }

  private context(): Uint8Array {
    return joined(littleEndian(this.counter, 2), this.transaction);
  }

  private vector(first: number, second: number): Uint8Array {
    const block = joined([first, second], this.transaction, littleEndian(this.counter, 2), new Uint8Array(8));
    this.enciphering.encrypt(block);
    return block;
  }

  private mac(message: Uint8Array): Uint8Array {
    const whole = this.macing.of(message);
    return Uint8Array.from({ length: 8 }, (_, i) => whole[2 * i + 1]!);
  }
}
