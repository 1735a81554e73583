/**
 * Hull: the exact part. If every bit of a read is an exclusive or of number bits and a constant, then the reads of a few
 * cards fix the reads of every number in the affine hull of their numbers: an odd set of specimens adds up (exclusive
 * or) to such a number, and so do their bits. Each specimen that adds no dimension must agree with the others: a check.
 *
 * A row is 32-bit words: first the number, the bit of 2^k as bit k of its words and the constant 1 above the last; then the read; then
 * the set of rows that it is made of. So a number is put in as it is, and one loop adds two rows.
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

/** When so many specimens in turn gave no row, and there are so many rows, tables of sums are worth their making. */
const STANDS_STILL = 8;
const LEAST_FOR_TABLES = 24;
/** Rows of one table, of which all sums are in it: more of them where there are many rows. */
const inTable = (rank: number): number => (rank < 64 ? 4 : 8);

/** For each few rows, in the order of the columns that they lead, where those stand and all their sums. */
interface Tables {
  /** Rows of one table. */
  size: number;
  /** As many columns a table; -1 where the last has fewer. */
  columns: Int32Array;
  /** 2^size rows a table. */
  sums: Int32Array;
  count: number;
}

/** So many rows are taken out at once: each is first freed of what the others of its table lead. */
function tablesOf(rows: Int32Array, leads: Int32Array, rank: number, head: number, stride: number): Tables {
  const size = inTable(rank);
  const count = Math.ceil(rank / size);
  const columns = new Int32Array(count * size).fill(-1);
  let found = 0;
  for (let column = 0; column < head * 32; column++) if (leads[column]! > 0) columns[found++] = column;
  const sums = new Int32Array((count << size) * stride);
  for (let t = 0; t < count; t++) {
    const own = columns.subarray(t * size, t * size + size).filter((column) => column >= 0);
    const base = (t << size) * stride;
    const at = (i: number) => base + (1 << i) * stride;
    own.forEach((column, i) => {
      const from = (leads[column]! - 1) * stride;
      sums.set(rows.subarray(from, from + stride), at(i));
    });
    // From the last on: a row leads nothing to the left of its own column.
    for (let i = own.length - 2; i >= 0; i--)
      for (let j = i + 1; j < own.length; j++)
        if ((sums[at(i) + (own[j]! >>> 5)]! >>> (own[j]! & 31)) & 1)
          for (let w = 0; w < stride; w++) sums[at(i) + w]! ^= sums[at(j) + w]!;
    for (let index = 3; index < 1 << own.length; index++) {
      const low = index & -index;
      if (low === index) continue;
      const [to, a, b] = [base + index * stride, base + low * stride, base + (index ^ low) * stride];
      for (let w = 0; w < stride; w++) sums[to + w] = sums[a + w]! ^ sums[b + w]!;
    }
  }
  return { size, columns, sums, count };
}

function takeOut(scratch: Int32Array, { size, columns, sums, count }: Tables, stride: number): void {
  const [last, mask] = [size - 1, (1 << size) - 1];
  for (let t = 0; t < count; t++) {
    const from = t * size;
    const first = columns[from]!;
    let index = 0;
    // Columns side by side within a word are a part of it.
    if (columns[from + last] === first + last && (first & 31) + last < 32)
      index = (scratch[first >>> 5]! >>> (first & 31)) & mask;
    else
      for (let i = 0; i < size; i++) {
        const column = columns[from + i]!;
        if (column >= 0) index |= ((scratch[column >>> 5]! >>> (column & 31)) & 1) << i;
      }
    if (index === 0) continue;
    const at = ((t << size) + index) * stride;
    for (let i = first >>> 5; i < stride; i++) scratch[i]! ^= sums[at + i]!;
  }
}

export class Hull {
  /** Words of the number with the constant, up to the end of the read, and of the whole row. */
  private readonly head: number;
  private readonly made: number;
  private readonly stride: number;
  /** Numbers are below it. */
  private readonly limit: bigint;
  /** Signed words: the engine keeps those as whole numbers, unsigned ones it would widen. */
  private readonly rows: Int32Array;
  /** For each column, 1 + the row that leads there, or 0. */
  private readonly leads: Int32Array;
  /** The columns at which some row leads, a bit each. */
  private readonly led: Int32Array;
  private readonly scratch: Int32Array;
  /** The read's part of the scratch row, as `Bits` wants it. */
  private readonly scratchRead: Uint32Array;
  private readonly scratchMade: Int32Array;
  /** The specimen that gave each row. */
  private readonly specimens: number[] = [];
  readonly relations: Relation[] = [];
  private tested: { relations: number; specimens: ReadonlySet<number> } | undefined;
  private tables: Tables | undefined;
  /** How many specimens came since the last that gave a row. */
  private still = 0;
  private count = 0;

  /**
   * For numbers of `width` bits, reads of `length` bits, and at most `most` specimens. `turned`, its own inverse, makes exclusive
   * ors of a read in which some bits are none: of a sum, what it differs by from what it should be.
   */
  constructor(
    readonly width: number,
    readonly length: number,
    most: number,
    readonly turned?: (read: Bits) => Bits,
  ) {
    this.limit = 1n << BigInt(width);
    this.head = (width + 32) >>> 5;
    this.made = this.head + ((length + 31) >>> 5);
    const rows = Math.min(most, width + 1);
    this.stride = this.made + ((rows + 31) >>> 5);
    this.rows = new Int32Array(rows * this.stride);
    this.leads = new Int32Array(this.head * 32);
    this.led = new Int32Array(this.head);
    this.scratch = new Int32Array(this.stride);
    this.scratchRead = new Uint32Array(this.scratch.buffer, this.head * 4, this.made - this.head);
    this.scratchMade = this.scratch.subarray(this.made);
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

  /** The first and the last bit (from 1) in which specimens contradict one another; undefined where none do. */
  get contradicted(): [first: number, last: number] | undefined {
    let [first, last] = [Number.POSITIVE_INFINITY, 0];
    for (const { wrong } of this.relations)
      wrong?.forEach((word, w) => {
        if (word === 0) return;
        first = Math.min(first, w * 32 + Math.clz32(word) + 1);
        last = Math.max(last, w * 32 + Math.clz32(word & -word) + 1);
      });
    return last === 0 ? undefined : [first, last];
  }

  /** Adds a specimen by its number and its read. */
  add(number: bigint, bits: Bits): void {
    const index = this.count++;
    this.load(number, 1);
    const { scratch, head, made, stride } = this;
    const { words } = this.turned?.(bits) ?? bits;
    for (let i = 0; i < words.length; i++) scratch[head + i] = words[i]!;
    const lead = this.reduce();
    if (lead >= 0) {
      const row = this.specimens.length;
      scratch[made + (row >>> 5)]! ^= 1 << (31 - (row & 31));
      for (let i = 0, to = row * stride; i < stride; i++) this.rows[to + i] = scratch[i]!;
      this.leads[lead] = row + 1;
      this.led[lead >>> 5]! |= 1 << (lead & 31);
      this.specimens.push(index);
      this.tables = undefined;
      this.still = 0;
      return;
    }
    this.still++;
    let isWrong = false;
    for (let i = head; i < made; i++) if (scratch[i] !== 0) isWrong = true;
    const wrong = isWrong ? this.scratchRead.slice() : undefined;
    const of = new Int32Array(stride - made);
    for (let i = made; i < stride; i++) of[i - made] = scratch[i]!;
    this.relations.push(new Relation(index, of, this.specimens, wrong));
  }

  /** Puts a number into the scratch row, with or without the constant, and no read. */
  private load(number: bigint, constant: 0 | 1): void {
    const { scratch, width } = this;
    // So few words are soonest cleared one by one.
    for (let i = 0; i < scratch.length; i++) scratch[i] = 0;
    // Small numbers, as nearly all are, go without the slower arithmetic of big ones.
    if (width <= 52) {
      const small = Number(number);
      scratch[0] = small;
      if (width > 31) scratch[1] = Math.floor(small / 0x100000000);
    } else for (let rest = number, w = 0; rest !== 0n; rest >>= 32n, w++) scratch[w] = Number(rest & 0xffffffffn);
    if (constant) scratch[width >>> 5]! |= 1 << (width & 31);
  }

  /** Takes the rows out of the scratch row; gives the first column that is left, or -1 when none is. */
  private reduce(): number {
    const { scratch, rows, leads, led, head, stride } = this;
    if (this.still >= STANDS_STILL && this.specimens.length >= LEAST_FOR_TABLES) {
      this.tables ??= tablesOf(rows, leads, this.specimens.length, head, stride);
      takeOut(scratch, this.tables, stride);
    }
    let first = -1;
    // No row is made of more than there are.
    const end = this.made + ((this.specimens.length + 31) >>> 5);
    for (let w = 0; w < head; w++) {
      for (let left = scratch[w]! & led[w]!; left !== 0; left = scratch[w]! & led[w]!) {
        const row = leads[w * 32 + 31 - Math.clz32(left & -left)]! - 1;
        for (let i = w, from = row * stride + w; i < end; i++, from++) scratch[i]! ^= rows[from]!;
      }
      const rest = scratch[w]!;
      if (first < 0 && rest !== 0) first = w * 32 + 31 - Math.clz32(rest & -rest);
    }
    return first;
  }

  private restBits(): Bits {
    return Bits.fromWords(this.scratchRead, this.length);
  }

  /** The read of a number in the hull, and the odd set of specimens that it follows from; undefined outside. */
  predict(number: bigint): { bits: Bits; from: number[] } | undefined {
    if (number < 0n || number >= this.limit) return undefined;
    this.load(number, 1);
    if (this.reduce() >= 0) return undefined;
    const bits = this.restBits();
    return { bits: this.turned?.(bits) ?? bits, from: indicesIn(this.scratchMade, this.specimens) };
  }

  /** Whether a number lies in the hull. */
  has(number: bigint): boolean {
    if (number < 0n || number >= this.limit) return false;
    this.load(number, 1);
    return this.reduce() < 0;
  }

  /** Which bits of the read turn with the number bit 2^k alone; undefined where these specimens do not tell. */
  effectOf(k: number): Bits | undefined {
    this.load(0n, 0);
    if (k >= this.width) return undefined;
    this.scratch[k >>> 5]! |= 1 << (k & 31);
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
