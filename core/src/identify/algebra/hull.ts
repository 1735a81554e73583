/**
 * Hull: the exact part. If every bit of a read is an exclusive or of number bits and a constant, then the reads of a few
 * cards fix the reads of every number in the affine hull of their numbers: an odd set of specimens adds up (exclusive
 * or) to such a number, and so do their bits. Each specimen that adds no dimension must agree with the others: a check.
 *
 * Vectors are rows of 32-bit words: column 0 is the constant 1, column 1 + k the number bit of 2^k, then the read.
 */
import { Bits } from '../../bits/index.ts';

export class Relation {
  private list: number[] | undefined;

  constructor(
    /** The specimen that gave it, and the rows that it is made of. */
    private readonly last: number,
    private readonly made: Int32Array,
    private readonly specimens: readonly number[],
    /** The bits in which the specimens do not add up to nothing, or undefined where they do. */
    readonly wrong: Uint32Array | undefined,
  ) {}

  /** Indices of specimens whose numbers add up to nothing; their bits should, too. Worked out when asked for. */
  get of(): readonly number[] {
    this.list ??= [...indicesIn(this.made, this.specimens), this.last].sort((a, b) => a - b);
    return this.list;
  }
}

/** The specimens of the rows in a set. */
function indicesIn(made: Int32Array, specimens: readonly number[]): number[] {
  const list: number[] = [];
  for (let w = 0; w < made.length; w++) {
    for (let left = made[w]!; left !== 0; ) {
      const lead = Math.clz32(left);
      list.push(specimens[w * 32 + lead]!);
      left &= ~(1 << (31 - lead));
    }
  }
  return list;
}

export class Hull {
  /** Words of a row before the read begins, and after. */
  private readonly head: number;
  private readonly tail: number;
  private readonly stride: number;
  /** Signed words: the engine keeps those as whole numbers, unsigned ones it would widen. */
  private readonly rows: Int32Array;
  /** For each column, 1 + the row that leads there, or 0. */
  private readonly leads: Int32Array;
  /** Which specimens each row is made of, as a bit set over the order in which rows were added. */
  private readonly made: Int32Array;
  private readonly madeStride: number;
  private readonly scratch: Int32Array;
  /** The read's part of the scratch row, as `Bits` wants it. */
  private readonly scratchRead: Uint32Array;
  private readonly scratchMade: Int32Array;
  /** The specimen that gave each row. */
  private readonly specimens: number[] = [];
  readonly relations: Relation[] = [];
  private tested: { relations: number; specimens: ReadonlySet<number> } | undefined;
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
    this.rows = new Int32Array(rows * this.stride);
    this.leads = new Int32Array(this.head * 32);
    this.madeStride = (rows + 31) >>> 5;
    this.made = new Int32Array(rows * this.madeStride);
    this.scratch = new Int32Array(this.stride);
    this.scratchRead = new Uint32Array(this.scratch.buffer, this.head * 4, this.tail);
    this.scratchMade = new Int32Array(this.madeStride);
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
      this.scratchMade[row >>> 5]! ^= 1 << (31 - (row & 31));
      this.made.set(this.scratchMade, row * this.madeStride);
      this.leads[lead] = row + 1;
      this.specimens.push(index);
      return;
    }
    const wrong = this.scratchRead.some((word) => word !== 0) ? this.scratchRead.slice() : undefined;
    this.relations.push(new Relation(index, this.scratchMade.slice(), this.specimens, wrong));
  }

  /** Puts a number into the scratch row, with `constant` in column 0 and no read. */
  private load(number: bigint, constant: 0 | 1): void {
    this.scratch.fill(0);
    this.scratchMade.fill(0);
    if (constant) this.scratch[0] = 1 << 31;
    // Small numbers, as nearly all are, go without the slower arithmetic of big ones.
    if (this.width <= 52) {
      const small = Number(number);
      this.putWord(small >>> 0, 1);
      if (this.width > 32) this.putWord(Math.floor(small / 0x100000000) >>> 0, 33);
      return;
    }
    for (let rest = number, column = 1; rest !== 0n; rest >>= 32n, column += 32)
      this.putWord(Number(rest & 0xffffffffn), column);
  }

  /** Puts 32 number bits into the scratch row, the least significant at `column`. */
  private putWord(word: number, column: number): void {
    for (let left = word | 0; left !== 0; left &= left - 1) {
      const at = column + 31 - Math.clz32(left & -left);
      this.scratch[at >>> 5]! |= 1 << (31 - (at & 31));
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
        // What stands behind this column in its word.
        const behind = 0x7fffffff >>> (column & 31);
        const row = leads[column]! - 1;
        if (row < 0) {
          if (first < 0) first = column;
          left &= behind;
          continue;
        }
        const from = row * stride;
        for (let i = w; i < stride; i++) scratch[i]! ^= rows[from + i]!;
        const madeFrom = row * madeStride;
        for (let i = 0; i < madeStride; i++) scratchMade[i]! ^= made[madeFrom + i]!;
        left = scratch[w]! & behind;
      }
    }
    return first;
  }

  private restBits(): Bits {
    return Bits.fromWords(this.scratchRead, this.length);
  }

  /** The read of a number in the hull, and the odd set of specimens that it follows from; undefined outside. */
  predict(number: bigint): { bits: Bits; from: number[] } | undefined {
    if (number < 0n || number >> BigInt(this.width) !== 0n) return undefined;
    this.load(number, 1);
    return this.reduce() < 0 ? { bits: this.restBits(), from: indicesIn(this.scratchMade, this.specimens) } : undefined;
  }

  /** Whether a number lies in the hull. */
  has(number: bigint): boolean {
    if (number < 0n || number >> BigInt(this.width) !== 0n) return false;
    this.load(number, 1);
    return this.reduce() < 0;
  }

  /** Which bits of the read turn with the number bit 2^k alone; undefined where these specimens do not tell. */
  effectOf(k: number): Bits | undefined {
    this.load(0n, 0);
    if (k >= this.width) return undefined;
    this.scratch[(k + 1) >>> 5]! |= 1 << (31 - ((k + 1) & 31));
    return this.reduce() < 0 ? this.restBits() : undefined;
  }

  /**
   * How many relations test the specimens that a prediction follows from; 0 when one of them is in no relation, so that
   * nothing would show if its print were wrong.
   */
  checksOn(from: readonly number[]): number {
    const tested = this.inRelations;
    if (from.some((index) => !tested.has(index))) return 0;
    const wanted = new Set(from);
    return this.relations.filter((relation) => relation.of.some((index) => wanted.has(index))).length;
  }

  /** The specimens that are in some relation, kept until there is another one. */
  private get inRelations(): ReadonlySet<number> {
    if (this.tested?.relations !== this.relations.length)
      this.tested = {
        relations: this.relations.length,
        specimens: new Set(this.relations.flatMap((relation) => relation.of)),
      };
    return this.tested.specimens;
  }
}
