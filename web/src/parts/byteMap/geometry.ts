/** The inside of a file, sixteen bytes a row: which field each byte belongs to, and where a field's bracket stands. */
import { byteMap, type Field, placed } from '@rawbits/core/plan';

export const ROW_BYTES = 16;

export interface ByteCell {
  at: number;
  /** The index of a field, `free`, or `over` past the file's end. */
  of: number | 'free' | 'over';
}

export const rowsOf = (fields: readonly Field[], size: number): ByteCell[][] => {
  const cells = byteMap(fields, size).map((of, at) => ({ at, of }));
  return Array.from({ length: Math.ceil(cells.length / ROW_BYTES) }, (_, row) =>
    cells.slice(ROW_BYTES * row, ROW_BYTES * (row + 1)),
  );
};

/** A piece of a field in one row: from a column to before another. */
export interface Bracket {
  field: number;
  from: number;
  to: number;
  /** Whether the field begins and ends here, or goes on from or into another row. */
  begins: boolean;
  ends: boolean;
}

export function bracketsIn(fields: readonly Field[], row: number): Bracket[] {
  const first = ROW_BYTES * row;
  return placed(fields).flatMap(({ from, to }, field) => {
    const a = Math.max(from, first);
    const b = Math.min(to, first + ROW_BYTES);
    return a < b ? [{ field, from: a - first, to: b - first, begins: a === from, ends: b === to }] : [];
  });
}

/** A field moved by a drag or an arrow: never before the first byte, nor past the 8,192nd. */
export const moved = (fields: readonly Field[], index: number, by: number): Field[] =>
  fields.map((field, i) =>
    i === index
      ? { ...field, at: Math.min(8191, Math.max(0, placed(fields)[i]!.from + by)) }
      : pinned(fields, field, i, index),
  );

/** A field made longer or shorter, at least one byte. */
export const resized = (fields: readonly Field[], index: number, by: number): Field[] =>
  fields.map((field, i) =>
    i === index
      ? { ...field, length: Math.min(8192, Math.max(1, field.length + by)) }
      : pinned(fields, field, i, index),
  );

/** What followed the one that moves stays where it stands. */
const pinned = (fields: readonly Field[], field: Field, i: number, moves: number): Field =>
  i === moves + 1 && field.at === undefined ? { ...field, at: placed(fields)[i]!.from } : field;

/** A field as a sentence. */
export function fieldWords(fields: readonly Field[], index: number): string {
  const { field, from, to } = placed(fields)[index]!;
  return `${field.name}: bytes ${from} to ${to - 1}, ${field.length} long`;
}
