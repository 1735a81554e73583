/** Undo: what one change did to the specimens is taken back, and what came after it stays. */
import type { CaseSpecimen } from '@rawbits/api';

const keyOf = (specimen: CaseSpecimen): string => JSON.stringify(Object.entries(specimen).sort());

/** Where a specimen stands now: at its place, or wherever it went; -1 where it was changed since or is gone. */
function placeOf(specimen: CaseSpecimen, place: number, now: readonly CaseSpecimen[]): number {
  const key = keyOf(specimen);
  if (now[place] && keyOf(now[place]) === key) return place;
  return now.findIndex((one) => keyOf(one) === key);
}

/** `before` and `after` that change; `now` as the case stands. */
export function takenBack(
  before: readonly CaseSpecimen[],
  after: readonly CaseSpecimen[],
  now: readonly CaseSpecimen[],
): CaseSpecimen[] {
  const kept = [...now];
  if (before.length === after.length) {
    after.forEach((specimen, i) => {
      if (specimen === before[i]) return;
      const place = placeOf(specimen, i, kept);
      if (place >= 0) kept[place] = before[i]!;
    });
    return kept;
  }
  const [old, fresh] = [new Set(before), new Set(after)];
  for (const [i, specimen] of [...after.entries()].reverse()) {
    const place = old.has(specimen) ? -1 : placeOf(specimen, i, kept);
    if (place >= 0) kept.splice(place, 1);
  }
  before.forEach((specimen, i) => {
    if (!fresh.has(specimen)) kept.splice(Math.min(i, kept.length), 0, specimen);
  });
  return kept;
}
