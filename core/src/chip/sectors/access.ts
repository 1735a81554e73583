/**
 * Access bits of a sector (MF1S50 data sheet §8.7; the tables as in CHIPS, "Sector card"): for each group of blocks three
 * bits C1 C2 C3, kept twice in bytes 6 to 8 of the trailer, once inverted.
 */

export type KeyName = 'A' | 'B';
/** The keys that may do something. */
type By = '' | 'A' | 'B' | 'AB';

export interface DataAccess {
  read: By;
  write: By;
  increment: By;
  /** Decrement, transfer and restore. */
  decrement: By;
}
export interface TrailerAccess {
  keyAWrite: By;
  bitsRead: By;
  bitsWrite: By;
  keyBRead: By;
  keyBWrite: By;
}

/** By C1 C2 C3 as a number, C1 the highest bit. */
const DATA: readonly DataAccess[] = [
  { read: 'AB', write: 'AB', increment: 'AB', decrement: 'AB' },
  { read: 'AB', write: '', increment: '', decrement: 'AB' },
  { read: 'AB', write: '', increment: '', decrement: '' },
  { read: 'B', write: 'B', increment: '', decrement: '' },
  { read: 'AB', write: 'B', increment: '', decrement: '' },
  { read: 'B', write: '', increment: '', decrement: '' },
  { read: 'AB', write: 'B', increment: 'B', decrement: 'AB' },
  { read: '', write: '', increment: '', decrement: '' },
];
const TRAILER: readonly TrailerAccess[] = [
  { keyAWrite: 'A', bitsRead: 'A', bitsWrite: '', keyBRead: 'A', keyBWrite: 'A' },
  { keyAWrite: 'A', bitsRead: 'A', bitsWrite: 'A', keyBRead: 'A', keyBWrite: 'A' },
  { keyAWrite: '', bitsRead: 'A', bitsWrite: '', keyBRead: 'A', keyBWrite: '' },
  { keyAWrite: 'B', bitsRead: 'AB', bitsWrite: 'B', keyBRead: '', keyBWrite: 'B' },
  { keyAWrite: 'B', bitsRead: 'AB', bitsWrite: '', keyBRead: '', keyBWrite: 'B' },
  { keyAWrite: '', bitsRead: 'AB', bitsWrite: 'B', keyBRead: '', keyBWrite: '' },
  { keyAWrite: '', bitsRead: 'AB', bitsWrite: '', keyBRead: '', keyBWrite: '' },
  { keyAWrite: '', bitsRead: 'AB', bitsWrite: '', keyBRead: '', keyBWrite: '' },
];

export const dataAccess = (bits: number): DataAccess => DATA[bits]!;
export const trailerAccess = (bits: number): TrailerAccess => TRAILER[bits]!;

/**
 * C1 C2 C3 of each of the four groups (three of data, the trailer last), from bytes 6 to 8 of a trailer; undefined where
 * the inverted copy does not agree: the chip then locks the sector for good.
 */
export function accessBits([six, seven, eight]: ArrayLike<number> & Iterable<number>): number[] | undefined {
  const [c1, c2, c3] = [seven! >> 4, eight! & 15, eight! >> 4];
  const inverted = [six! & 15, six! >> 4, seven! & 15];
  if ([c1, c2, c3].some((bits, i) => (bits ^ 15) !== inverted[i])) return undefined;
  return [0, 1, 2, 3].map((group) => (((c1 >> group) & 1) << 2) | (((c2 >> group) & 1) << 1) | ((c3 >> group) & 1));
}

/** Bytes 6 to 8 of a trailer from C1 C2 C3 of each of the four groups. */
export function accessBytes(groups: readonly number[]): Uint8Array {
  const nibble = (bit: number): number => groups.reduce((sum, bits, group) => sum | (((bits >> bit) & 1) << group), 0);
  const [c1, c2, c3] = [nibble(2), nibble(1), nibble(0)];
  return Uint8Array.of(((c2 ^ 15) << 4) | (c1 ^ 15), (c1 << 4) | (c3 ^ 15), (c3 << 4) | c2);
}
