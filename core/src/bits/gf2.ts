/**
 * Linear algebra over GF(2), where adding is exclusive or. Vectors are left-justified 32-bit words, as in `Bits`:
 * column 0 is the top bit of word 0.
 */

/** The first column in which a vector has a 1, or -1 for the zero vector. */
export function leadingColumn(vector: Uint32Array): number {
  for (let w = 0; w < vector.length; w++) if (vector[w] !== 0) return w * 32 + Math.clz32(vector[w]!);
  return -1;
}

export const hasColumn = (vector: Uint32Array, column: number): boolean =>
  ((vector[column >>> 5]! >>> (31 - (column & 31))) & 1) === 1;

export function flipColumn(vector: Uint32Array, column: number): void {
  vector[column >>> 5]! ^= 0x80000000 >>> (column & 31);
}

export function addInto(target: Uint32Array, other: Uint32Array): void {
  for (let w = 0; w < target.length; w++) target[w]! ^= other[w]!;
}

/** A space spanned by vectors, kept in echelon form: no two rows lead in the same column. */
export class Gf2Space {
  /** Rows by their leading column. */
  private readonly rows = new Map<number, Uint32Array>();
  readonly words: number;

  /** For vectors of `columns` columns. */
  constructor(readonly columns: number) {
    this.words = (columns + 31) >>> 5;
  }

  get rank(): number {
    return this.rows.size;
  }

  copy(): Gf2Space {
    const other = new Gf2Space(this.columns);
    for (const [column, row] of this.rows) other.rows.set(column, row.slice());
    return other;
  }

  /** What is left of a vector when the rows are taken out of it; zero when it lies in the space. */
  reduce(vector: Uint32Array): Uint32Array {
    const rest = vector.slice();
    for (let column = leadingColumn(rest); column >= 0; ) {
      const row = this.rows.get(column);
      if (row) addInto(rest, row);
      column = nextColumn(rest, column);
    }
    return rest;
  }

  /** Adds a vector; true when it was not in the space already. */
  add(vector: Uint32Array): boolean {
    const rest = this.reduce(vector);
    const lead = leadingColumn(rest);
    if (lead < 0) return false;
    this.rows.set(lead, rest);
    return true;
  }

  has(vector: Uint32Array): boolean {
    return leadingColumn(this.reduce(vector)) < 0;
  }

  /** The one reduced basis of the space, in the order of the leading columns: equal spaces give equal rows. */
  reducedRows(): Uint32Array[] {
    const leads = [...this.rows.keys()].sort((a, b) => a - b);
    const out = new Map<number, Uint32Array>();
    for (const lead of [...leads].reverse()) {
      const row = this.rows.get(lead)!.slice();
      for (const [column, other] of out) if (hasColumn(row, column)) addInto(row, other);
      out.set(lead, row);
    }
    return leads.map((lead) => out.get(lead)!);
  }
}

/** The first column after `column` in which a vector has a 1, or -1. */
function nextColumn(vector: Uint32Array, column: number): number {
  const from = column + 1;
  const first = from >>> 5;
  if (first >= vector.length) return -1;
  const masked = (from & 31) === 0 ? vector[first]! : vector[first]! & (0xffffffff >>> (from & 31));
  if (masked !== 0) return first * 32 + Math.clz32(masked);
  for (let w = first + 1; w < vector.length; w++) if (vector[w] !== 0) return w * 32 + Math.clz32(vector[w]!);
  return -1;
}
