/**
 * The host of a sector card: authenticates a sector with key A or B, reads and writes blocks, keeps values, puts trailers
 * together. Commands are frames of the card's data sheet; the cipher between reader and card is the reader's.
 */
import { joined, littleEndian } from '../cipher/index.ts';
import { fail } from '../failure/index.ts';
import type { Transport } from './transport.ts';

/** The three access bits C1 C2 C3 of a block, as a number from 0 to 7, C1 the highest. */
export type Access = number;

const BLOCK = 16;
const KEY = 6;

/**
 * A trailer: key A, access bits of the three data blocks (or groups of five) and of the trailer itself, the user byte, key
 * B. Each bit stands twice, once inverted, so that the card can tell a damaged one; that is done here, so no trailer made
 * here locks a sector by its form. Throws `trailer`.
 */
export function trailerBytes(
  keyA: Uint8Array,
  access: readonly Access[],
  userByte: number,
  keyB: Uint8Array,
): Uint8Array {
  if (keyA.length !== KEY || keyB.length !== KEY) fail('trailer', 'A sector key has six bytes.', { field: 'key' });
  if (access.length !== 4 || access.some((bits) => !Number.isInteger(bits) || bits < 0 || bits > 7))
    fail('trailer', 'A trailer has access bits from 0 to 7 for four blocks.', { field: 'access' });
  // One nibble a bit: the block's number says which bit of the nibble.
  const nibble = (shift: number) => access.reduce((all, bits, block) => all | (((bits >> shift) & 1) << block), 0);
  const [c1, c2, c3] = [nibble(2), nibble(1), nibble(0)];
  const not = (bits: number) => ~bits & 0xf;
  return joined(keyA, [(not(c2) << 4) | not(c1), (c1 << 4) | not(c3), (c3 << 4) | c2, userByte & 0xff], keyB);
}

export class SectorsHost {
  /** `uid` is the card's as it was selected; an authentication names the last four bytes of it. */
  constructor(
    private readonly transport: Pick<Transport, 'transmitRaw'>,
    private readonly uid: Uint8Array,
  ) {}

  async authenticate(block: number, key: 'A' | 'B', bytes: Uint8Array): Promise<void> {
    if (bytes.length !== KEY) fail('key', 'A sector key has six bytes.', { field: 'key' });
    await this.transport.transmitRaw(joined([key === 'A' ? 0x60 : 0x61, block], bytes, this.uid.subarray(-4)));
  }

  async read(block: number): Promise<Uint8Array> {
    const bytes = await this.transport.transmitRaw(Uint8Array.of(0x30, block));
    if (bytes.length !== BLOCK) fail('answer', `The card answered ${bytes.length} bytes, not ${BLOCK}.`);
    return bytes;
  }

  async write(block: number, bytes: Uint8Array): Promise<void> {
    if (bytes.length !== BLOCK) fail('block', `A block has ${BLOCK} bytes, not ${bytes.length}.`, { field: 'data' });
    await this.transport.transmitRaw(joined([0xa0, block], bytes));
  }

  /** Writes a value block: the value three times, once inverted; the address byte four times, twice inverted. */
  writeValue(block: number, value: number, address = block): Promise<void> {
    const four = littleEndian(value >>> 0, 4);
    const not = four.map((byte) => byte ^ 0xff);
    const [at, away] = [address & 0xff, ~address & 0xff];
    return this.write(block, joined(four, not, four, [at, away, at, away]));
  }

  /** The value of a block, signed; throws `no-value` where it is none. */
  async readValue(block: number): Promise<number> {
    const bytes = await this.read(block);
    const view = new DataView(bytes.buffer, bytes.byteOffset, BLOCK);
    const value = view.getInt32(0, true);
    const same = view.getInt32(8, true) === value && view.getInt32(4, true) === ~value;
    const addresses = bytes[12] === bytes[14] && bytes[13] === bytes[15] && bytes[12]! + bytes[13]! === 0xff;
    if (!same || !addresses) fail('no-value', `Block ${block} holds no value.`);
    return value;
  }

  /** Adds to (or, below 0, takes off) a value, and writes it to the same block or another of the sector. */
  async add(block: number, amount: number, to = block): Promise<void> {
    await this.count(block, amount < 0 ? 'decrement' : 'increment', Math.abs(amount));
    await this.transfer(to);
  }

  /** Copies a value to another block of its sector. */
  async copy(block: number, to: number): Promise<void> {
    await this.count(block, 'restore');
    await this.transfer(to);
  }

  /** Takes the value of a block into the card's buffer, with `amount` (unsigned, four bytes) added or taken off. */
  async count(block: number, how: 'increment' | 'decrement' | 'restore', amount = 0): Promise<void> {
    const code = { decrement: 0xc0, increment: 0xc1, restore: 0xc2 }[how];
    await this.transport.transmitRaw(joined([code, block], how === 'restore' ? [] : littleEndian(amount, 4)));
  }

  /** Writes the card's buffer to a block of the sector that is authenticated. */
  async transfer(block: number): Promise<void> {
    await this.transport.transmitRaw(Uint8Array.of(0xb0, block));
  }
}
