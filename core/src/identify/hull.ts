/**
 * Hull: the exact part. If every bit of a read is an exclusive or of number bits and a constant, then the reads of a few
 * cards fix the reads of every number in the affine hull of their numbers: an odd set of specimens adds up (exclusive
 * or) to such a number, and so do their bits. Each specimen that adds no dimension must agree with the others: a check.
 *
 * Vectors are rows of 32-bit words: column 0 is the constant 1, column 1 + k the number bit of 2^k, then the read.
 */
import { Bits } from '../bits/index.ts';

export interface Relation {
  /** Indices of specimens whose numbers add up to nothing; their bits should, too. */
  of: number[];
  /** The bits in which they do not, or undefined where they agree. */
  wrong?: Uint32Array;
}

export class Hull {
  /** Words of a row before the read begins, and after. */
  private readonly head: number;
  private readonly tail: number;
  private readonly stride: number;
  private readonly rows: Uint32Array;
  /** For each column, 1 + the row that leads there, or 0. */
  private readonly leads: Int32Array;
  /** Which specimens each row is made of, as a bit set over the order in which rows were added. */
  private readonly made: Uint32Array;
  private readonly madeStride: number;
  private readonly scratch: Uint32Array;
  private readonly scratchMade: Uint32Array;
  /** The specimen that gave each row. */
  private readonly specimens: number[] = [];
  readonly relations: Relation[] = [];
  private count = 0;

  /** For numbers of `width` bits, reads of `length` bits, and at most `most` specimens. */
  constructor(
    readonly width: number,
    readonly length: number,
    most: number,
  ) {
    this.head = (width + 32) >>> 5;
    this.tail = (length + 31) >>> 5;
    this.stride = this.head + this.tail;
    const rows = Math.min(most, width + 1);
    this.rows = new Uint32Array(rows * this.stride);
    this.leads = new Int32Array(this.head * 32);
    this.madeStride = (rows + 31) >>> 5;
    this.made = new Uint32Array(rows * this.madeStride);
    this.scratch = new Uint32Array(this.stride);
    this.scratchMade = new Uint32Array(this.madeStride);
  }

  /** Dimensions of the specimens' numbers, the constant counted. */
  get rank(): number {
    return this.specimens.length;
  }

  /** Specimens added. */
  get size(): number {
    return this.count;
  }

  /** Specimens beyond those that the algebra used up. */
  get checks(): number {
    return this.relations.length;
  }

  get consistent(): boolean {
    return this.relations.every((relation) => relation.wrong === undefined);
  }

  /** Adds a specimen by its number and its read. */
  add(number: bigint, bits: Bits): void {
    const index = this.count++;
    this.load(number, 1);
    this.scratch.set(bits.words, this.head);
    const lead = this.reduce();
    if (lead >= 0) {
      const row = this.specimens.length;
      this.rows.set(this.scratch, row * this.stride);
      this.scratchMade[row >>> 5]! ^= 0x80000000 >>> (row & 31);
      this.made.set(this.scratchMade, row * this.madeStride);
      this.leads[lead] = row + 1;
      this.specimens.push(index);
      return;
    }
    const rest = this.scratch.subarray(this.head);
    const wrong = rest.some((word) => word !== 0) ? rest.slice() : undefined;
    this.relations.push({ of: [...this.madeOf(), index].sort((a, b) => a - b), ...(wrong && { wrong }) });
  }

  /** Puts a number into the scratch row, with `constant` in column 0 and no read. */
  private load(number: bigint, constant: 0 | 1): void {
    this.scratch.fill(0);
    this.scratchMade.fill(0);
    if (constant) this.scratch[0] = 0x80000000;
    let rest = BigInt.asUintN(this.width, number);
    for (let k = 1; rest !== 0n; ) {
      let low = Number(rest & 0xffffffffn);
      while (low !== 0) {
        const at = 31 - Math.clz32(low & -low);
        const column = k + at;
        this.scratch[column >>> 5]! |= 0x80000000 >>> (column & 31);
        low &= low - 1;
      }
      rest >>= 32n;
      k += 32;
    }
  }

  /** Takes the rows out of the scratch row; gives the first column that is left, or -1 when none is. */
  private reduce(): number {
    const { scratch, scratchMade, rows, made, leads, head, stride, madeStride } = this;
    let first = -1;
    for (let w = 0; w < head; w++) {
      let left = scratch[w]!;
      while (left !== 0) {
        const column = w * 32 + Math.clz32(left);
        const bit = 0x80000000 >>> (column & 31);
        const row = leads[column]! - 1;
        if (row < 0) {
          if (first < 0) first = column;
          left &= ~bit;
          continue;
        }
        const from = row * stride;
        for (let i = w; i < stride; i++) scratch[i]! ^= rows[from + i]!;
        const madeFrom = row * madeStride;
        for (let i = 0; i < madeStride; i++) scratchMade[i]! ^= made[madeFrom + i]!;
        left = scratch[w]! & (bit - 1);
      }
    }
    return first;
  }

  /** The specimens in the scratch row's set, as indices. */
  private madeOf(): number[] {
    return this.specimens.filter((_, row) => (this.scratchMade[row >>> 5]! << (row & 31)) & 0x80000000);
  }

  private restBits(): Bits {
    return Bits.fromWords(this.scratch.subarray(this.head), this.length);
  }

  /** The read of a number in the hull, and the odd set of specimens that it follows from; undefined outside. */
  predict(number: bigint): { bits: Bits; from: number[] } | undefined {
    if (number < 0n || number >> BigInt(this.width) !== 0n) return undefined;
    this.load(number, 1);
    return this.reduce() < 0 ? { bits: this.restBits(), from: this.madeOf() } : undefined;
  }

  /** Whether a number lies in the hull. */
  has(number: bigint): boolean {
    if (number < 0n || number >> BigInt(this.width) !== 0n) return false;
    this.load(number, 1);
    return this.reduce() < 0;
  }

  /** Which bits of the read turn with the number bit 2^k alone; undefined where these specimens do not tell. */
  effectOf(k: number): Bits | undefined {
    this.load(1n << BigInt(k), 0);
    return this.reduce() < 0 ? this.restBits() : undefined;
  }

  /**
   * How many relations test the specimens that a prediction follows from; 0 when one of them is in no relation, so that
   * nothing would show if its print were wrong.
   */
  checksOn(from: readonly number[]): number {
    const tested = new Set(this.relations.flatMap((relation) => relation.of));
    if (from.some((index) => !tested.has(index))) return 0;
    return this.relations.filter((relation) => relation.of.some((index) => from.includes(index))).length;
  }
}
