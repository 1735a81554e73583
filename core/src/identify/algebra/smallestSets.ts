/**
 * Suspects: when no single format explains all specimens, the smallest sets to set aside so that the rest agree, found
 * exactly up to a stated size; and splits into two groups that each agree by themselves.
 *
 * Every relation among the numbers must hold among the bits. The relations that do not hold are a syndrome: setting a
 * set of specimens aside makes the rest agree exactly when the columns of its specimens in the relations span what is
 * wrong. So nothing is tried by removing and computing anew.
 */
import type { Hull } from './hull.ts';

/** Sets of suspects are searched for exactly up to this many specimens. */
export const MOST_SUSPECTS = 3;
const MOST_SETS = 24;
/** Above this many specimens triples are not searched. */
const MOST_FOR_TRIPLES = 400;

export interface SuspectSearch {
  /** Smallest sets of indices, each of which, set aside, lets the rest agree. */
  sets: number[][];
  /** How large a set was searched for. */
  searched: number;
}

type Syndrome = bigint;

/** The smallest sets to set aside; no set when nothing is wrong. */
export function smallestSets(hull: Hull): SuspectSearch {
  const { relations } = hull;
  const syndromes = independent(wrongPatterns(relations));
  if (syndromes.length === 0) return { sets: [], searched: 0 };
  const columns = new Array<Syndrome>(hull.size).fill(0n);
  relations.forEach((relation, r) => {
    for (const index of relation.of) columns[index]! |= 1n << BigInt(r);
  });
  const most = hull.size > MOST_FOR_TRIPLES ? 2 : MOST_SUSPECTS;
  for (let size = syndromes.length; size <= most; size++) {
    const sets = setsOfSize(columns, syndromes, size);
    if (sets.length > 0) return { sets: sets.slice(0, MOST_SETS), searched: size };
  }
  return { sets: [], searched: most };
}

/** For each bit of the read, in which relations it is wrong, as a set of relations. */
function wrongPatterns(relations: Hull['relations']): Syndrome[] {
  const patterns = new Map<number, Syndrome>();
  relations.forEach(({ wrong }, r) => {
    wrong?.forEach((word, w) => {
      for (let left = word; left !== 0; ) {
        const lead = Math.clz32(left);
        const column = w * 32 + lead;
        patterns.set(column, (patterns.get(column) ?? 0n) | (1n << BigInt(r)));
        left &= ~(0x80000000 >>> lead);
      }
    });
  });
  return [...new Set(patterns.values())];
}

/** A basis of the space that the syndromes span. */
function independent(patterns: readonly Syndrome[]): Syndrome[] {
  const basis: Syndrome[] = [];
  for (const pattern of patterns) {
    let rest = pattern;
    for (const b of basis) if ((rest ^ b) < rest) rest ^= b;
    if (rest !== 0n) basis.push(rest);
    basis.sort((a, b) => (a > b ? -1 : 1));
    if (basis.length > MOST_SUSPECTS) break;
  }
  return basis;
}

/** Sets of exactly `size` specimens whose columns span all syndromes. */
function setsOfSize(columns: readonly Syndrome[], syndromes: readonly Syndrome[], size: number): number[][] {
  const byColumn = new Map<Syndrome, number[]>();
  columns.forEach((column, i) => {
    if (column !== 0n) byColumn.set(column, [...(byColumn.get(column) ?? []), i]);
  });
  const found = new Map<string, number[]>();
  const consider = (set: number[]) => {
    const sorted = [...new Set(set)].sort((a, b) => a - b);
    if (sorted.length !== size || found.size >= MOST_SETS) return;
    if (
      spans(
        sorted.map((i) => columns[i]!),
        syndromes,
      )
    )
      found.set(sorted.join(), sorted);
  };
  // Every set that spans them spans the first: begin with the sums of at most `size` columns that give it.
  const [first] = syndromes as [Syndrome];
  const usable = [...columns.keys()].filter((i) => columns[i] !== 0n);
  const sums: number[][] = (byColumn.get(first) ?? []).map((i) => [i]);
  if (size >= 2)
    for (const i of usable) for (const j of byColumn.get(first ^ columns[i]!) ?? []) if (i < j) sums.push([i, j]);
  if (size >= 3)
    for (const i of usable)
      for (const j of usable) {
        if (j <= i) continue;
        for (const k of byColumn.get(first ^ columns[i]! ^ columns[j]!) ?? []) if (k > j) sums.push([i, j, k]);
      }
  for (const sum of sums) {
    if (sum.length === size) consider(sum);
    else if (sum.length === size - 1) for (const i of usable) consider([...sum, i]);
    else if (sum.length === size - 2)
      for (const i of usable) for (const j of usable) if (i < j) consider([...sum, i, j]);
    if (found.size >= MOST_SETS) break;
  }
  return [...found.values()];
}

function spans(columns: readonly Syndrome[], syndromes: readonly Syndrome[]): boolean {
  const basis: Syndrome[] = [];
  const reduce = (value: Syndrome) => {
    let rest = value;
    for (const b of basis) if ((rest ^ b) < rest) rest ^= b;
    return rest;
  };
  for (const column of columns) {
    const rest = reduce(column);
    if (rest !== 0n) {
      basis.push(rest);
      basis.sort((a, b) => (a > b ? -1 : 1));
    }
  }
  return syndromes.every((syndrome) => reduce(syndrome) === 0n);
}
