/**
 * Bits: an immutable string of 1 to 512 bits. Positions are 1-based from the first bit, which is the first bit sent
 * on a line and the most significant bit of the string taken as a number. Words are 32 bits, left-justified: bit 1 is
 * the top bit of word 0, and what lies past the last bit is 0.
 */
import { fail } from '../failure/index.ts';

export { addInto, flipColumn, Gf2Space, hasColumn, leadingColumn } from './gf2.ts';

export const MAX_BITS = 512;
export type Justified = 'left' | 'right';

/** Throws `bits-length` unless `length` is a whole number from 1 to 512. */
function checkLength(length: number): void {
  if (length === 0) fail('bits-empty', 'There are no bits.', undefined, 'Give at least one bit.');
  if (!Number.isInteger(length) || length < 0) fail('bits-length', `A length of ${length} bits makes no sense.`);
  if (length > MAX_BITS)
    fail('bits-length', `${length} bits are too many: a read has at most ${MAX_BITS}.`, undefined, 'Shorten it.');
}

const HEX = '0123456789ABCDEF';

export class Bits {
  readonly length: number;
  /** Left-justified 32-bit words. Shared, never written to after construction: for the codec's inner loops. */
  readonly words: Uint32Array;

  private constructor(length: number, words: Uint32Array) {
    this.length = length;
    this.words = words;
  }

  /** From left-justified words, which are copied; bits past `length` are cleared. */
  static fromWords(words: Uint32Array, length: number): Bits {
    checkLength(length);
    const count = (length + 31) >>> 5;
    const own = new Uint32Array(count);
    // So few words are copied sooner one by one than by a view of them.
    for (let i = 0; i < count; i++) own[i] = words[i]!;
    const used = length & 31;
    if (used !== 0) own[count - 1]! &= -1 << (32 - used);
    return new Bits(length, own);
  }

  /** From a function of the 1-based position. */
  static build(length: number, bitAt: (position: number) => boolean | number): Bits {
    checkLength(length);
    const words = new Uint32Array((length + 31) >>> 5);
    for (let i = 0; i < length; i++) if (bitAt(i + 1)) words[i >>> 5]! |= 0x80000000 >>> (i & 31);
    return new Bits(length, words);
  }

  /** From the digits 0 and 1 and nothing else; throws `binary-digit` with the column. */
  static fromBinary(text: string): Bits {
    checkLength(text.length);
    const wrong = text.search(/[^01]/);
    if (wrong >= 0)
      fail('binary-digit', `"${text[wrong]}" at column ${wrong + 1} is not a binary digit.`, { column: wrong + 1 });
    return Bits.build(text.length, (p) => text.charCodeAt(p - 1) === 49);
  }

  /** From whole bytes, most significant bit of the first byte first. */
  static fromBytes(bytes: ArrayLike<number>): Bits {
    return Bits.build(bytes.length * 8, (p) => (bytes[(p - 1) >>> 3]! >>> (7 - ((p - 1) & 7))) & 1);
  }

  /**
   * From hex digits of a string of `length` bits. Right-justified, the digits are a number whose low `length` bits
   * count; left-justified, the first `length` bits count. The bits left over must be 0: throws `hex-overflow`.
   */
  static fromHex(hex: string, length = hex.length * 4, justified: Justified = 'right'): Bits {
    checkLength(length);
    const wrong = hex.search(/[^0-9a-f]/i);
    if (wrong >= 0)
      fail('hex-digit', `"${hex[wrong]}" at column ${wrong + 1} is not a hex digit.`, { column: wrong + 1 });
    const have = hex.length * 4;
    if (have < length)
      fail(
        'hex-short',
        `${hex.length} hex digits hold ${have} bits, fewer than the ${length} asked for.`,
        { field: 'length' },
        'Add the leading zeros that were lost, or give the right length.',
      );
    const nibbleBit = (i: number) => (Number.parseInt(hex[i >>> 2]!, 16) >>> (3 - (i & 3))) & 1;
    const skip = justified === 'right' ? have - length : 0;
    for (let i = 0; i < have; i++) {
      const inside = i >= skip && i < skip + length;
      if (!inside && nibbleBit(i)) {
        fail(
          'hex-overflow',
          `The hex has a 1 outside the ${length} bits when ${justified}-justified.`,
          { column: (i >>> 2) + 1, field: 'length' },
          justified === 'right' ? 'Try it left-justified, or give a longer length.' : 'Try it right-justified.',
        );
      }
    }
    return Bits.build(length, (p) => nibbleBit(skip + p - 1));
  }

  /** From a number of at most `length` bits, most significant bit first; throws `number-width`. */
  static fromBigInt(value: bigint, length: number): Bits {
    checkLength(length);
    if (value < 0n) fail('number-negative', `${value} is negative.`);
    if (value >> BigInt(length) !== 0n)
      fail('number-width', `${value} needs ${value.toString(2).length} bits, more than ${length}.`);
    const text = value.toString(2).padStart(length, '0');
    return Bits.build(length, (p) => text.charCodeAt(p - 1) === 49);
  }

  /** The bit at a 1-based position, 0 or 1; throws `position` outside the string. */
  at(position: number): 0 | 1 {
    if (!Number.isInteger(position) || position < 1 || position > this.length)
      fail('position', `Position ${position} is outside 1 to ${this.length}.`, { positions: [position] });
    return this.get(position);
  }

  private get(position: number): 0 | 1 {
    const i = position - 1;
    return ((this.words[i >>> 5]! >>> (31 - (i & 31))) & 1) as 0 | 1;
  }

  /** The bits at a list of positions, in that order. */
  pick(positions: readonly number[]): Bits {
    return Bits.build(positions.length, (p) => this.at(positions[p - 1]!));
  }

  /** Bits `from` to `to`, both included, `from` not after `to`. */
  slice(from: number, to: number): Bits {
    if (from > to) fail('position', `A slice from ${from} to ${to} is empty.`);
    this.at(from);
    this.at(to);
    return Bits.build(to - from + 1, (p) => this.get(from + p - 1));
  }

  concat(other: Bits): Bits {
    return Bits.build(this.length + other.length, (p) => (p <= this.length ? this.get(p) : other.get(p - this.length)));
  }

  /** The last bit first. */
  reverseBits(): Bits {
    return Bits.build(this.length, (p) => this.get(this.length + 1 - p));
  }

  /** The last byte first; throws `not-whole` unless the length is a multiple of 8. */
  reverseBytes(): Bits {
    return this.reverseGroups(8, 'bytes');
  }

  /** The last nibble first; throws `not-whole` unless the length is a multiple of 4. */
  reverseNibbles(): Bits {
    return this.reverseGroups(4, 'nibbles');
  }

  /** The two nibbles of each byte change places; throws `not-whole` unless the length is a multiple of 8. */
  swapNibbles(): Bits {
    this.checkWhole(8, 'bytes');
    return Bits.build(this.length, (p) => this.get(((p - 1) ^ 4) + 1));
  }

  /** The bits of each byte run the other way; throws `not-whole` unless the length is a multiple of 8. */
  reverseBitsInBytes(): Bits {
    this.checkWhole(8, 'bytes');
    return Bits.build(this.length, (p) => this.get(((p - 1) ^ 7) + 1));
  }

  private checkWhole(size: number, name: string): void {
    if (this.length % size !== 0)
      fail('not-whole', `${this.length} bits are not whole ${name}.`, undefined, `Only whole ${name} can be reversed.`);
  }

  private reverseGroups(size: number, name: string): Bits {
    this.checkWhole(size, name);
    return Bits.build(this.length, (p) => {
      const i = p - 1;
      return this.get(this.length - size - (i - (i % size)) + (i % size) + 1);
    });
  }

  /** Every 0 becomes 1 and the other way round. */
  invert(): Bits {
    return Bits.fromWords(
      this.words.map((w) => ~w),
      this.length,
    );
  }

  /** Bit by bit exclusive or of two strings of one length. */
  xor(other: Bits): Bits {
    if (other.length !== this.length)
      fail('bits-length', `${this.length} and ${other.length} bits cannot be combined bit by bit.`);
    return new Bits(
      this.length,
      this.words.map((w, i) => w ^ other.words[i]!),
    );
  }

  /** How many bits are 1. */
  count(): number {
    return this.words.reduce((sum, w) => sum + popcount32(w), 0);
  }

  equals(other: Bits): boolean {
    return this.length === other.length && this.words.every((w, i) => w === other.words[i]);
  }

  /** Binary digits, one a bit. */
  toBinary(): string {
    let text = '';
    for (let p = 1; p <= this.length; p++) text += this.get(p) ? '1' : '0';
    return text;
  }

  /** Hex, upper case; the digits that the length asks for, padded with 0 on the side that the justification leaves. */
  toHex(justified: Justified = 'right'): string {
    const digits = (this.length + 3) >>> 2;
    const skip = justified === 'right' ? digits * 4 - this.length : 0;
    let text = '';
    for (let d = 0; d < digits; d++) {
      let nibble = 0;
      for (let k = 0; k < 4; k++) {
        const position = d * 4 + k - skip + 1;
        nibble = (nibble << 1) | (position >= 1 && position <= this.length ? this.get(position) : 0);
      }
      text += HEX[nibble];
    }
    return text;
  }

  /** The whole string as a number, bit 1 most significant. */
  toBigInt(): bigint {
    return BigInt(`0x${this.toHex('right')}`);
  }

  /** The whole string as a decimal number, exact at every length. */
  toDecimal(): string {
    return this.toBigInt().toString();
  }

  /** Bytes, left-justified: the last byte is filled up with 0 bits. */
  toBytes(): Uint8Array {
    const bytes = new Uint8Array((this.length + 7) >>> 3);
    for (let i = 0; i < bytes.length; i++) bytes[i] = this.words[i >>> 2]! >>> (24 - (i & 3) * 8);
    return bytes;
  }

  toString(): string {
    return this.toBinary();
  }

  toJSON(): string {
    return this.toBinary();
  }
}

/** How many bits of a 32-bit word are 1. */
export function popcount32(word: number): number {
  let n = word - ((word >>> 1) & 0x55555555);
  n = (n & 0x33333333) + ((n >>> 2) & 0x33333333);
  n = (n + (n >>> 4)) & 0x0f0f0f0f;
  return Math.imul(n, 0x01010101) >>> 24;
}
