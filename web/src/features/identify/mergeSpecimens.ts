/** Two people change one case at once: what each did to the specimens, put together, so that nothing typed is lost. */
import type { CaseSpecimen } from '@rawbits/api';

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/**
 * `base` is what both began from. Rows that only I changed are taken as I have them, rows that I added come after
 * theirs. Undefined where rows were taken out on either side, so that rows cannot be told from one another.
 */
export function mergeSpecimens(
  base: readonly CaseSpecimen[],
  mine: readonly CaseSpecimen[],
  theirs: readonly CaseSpecimen[],
): CaseSpecimen[] | undefined {
  const grew = (list: readonly CaseSpecimen[]) =>
    list.length >= base.length && base.every((specimen, i) => specimen.bits === list[i]!.bits);
  if (!grew(mine) || !grew(theirs)) return undefined;
  const kept = theirs.map((their, i) => {
    const [before, my] = [base[i], mine[i]];
    return before && my && !same(before, my) ? my : their;
  });
  return [...kept, ...mine.slice(base.length)];
}
