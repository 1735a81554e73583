/** Sums of vectors over GF(2). */

/** Vectors that the given ones are sums of, each led by a bit that no other has first. */
export function basisOf(vectors: readonly bigint[]): bigint[] {
  const basis: bigint[] = [];
  for (const vector of vectors) {
    const rest = reduced(vector, basis);
    if (rest !== 0n) basis.push(rest);
    basis.sort((a, b) => (a > b ? -1 : 1));
  }
  return basis;
}

/** What is left of a vector that is no sum of the basis; 0 where it is one. */
export const reduced = (vector: bigint, basis: readonly bigint[]): bigint =>
  basis.reduce((rest, one) => ((rest ^ one) < rest ? rest ^ one : rest), vector);
