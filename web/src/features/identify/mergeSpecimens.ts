/** Two people change one case at once: what each did to the specimens, put together, so that nothing typed is lost. */
import type { CaseSpecimen } from '@rawbits/api';
import { mergeField } from '../../platform/drafts/merge.ts';

/** A specimen that both changed otherwise: as I have it and as they do; null where it was taken out. */
export interface BothChanged {
  mine: CaseSpecimen | null;
  theirs: CaseSpecimen | null;
}

/**
 * `base` is what both began from. What one changed, added or took out is so; where both changed the same of a specimen it is as
 * they saved it, and what I have is given, to be decided.
 */
export function mergeSpecimens(
  base: readonly CaseSpecimen[],
  mine: readonly CaseSpecimen[],
  theirs: readonly CaseSpecimen[],
): { specimens: CaseSpecimen[]; both: BothChanged[] } {
  const both: BothChanged[] = [];
  for (let own: unknown = mine; ; ) {
    const { value, conflicts } = mergeField('specimens', base, own, theirs);
    const [first] = conflicts;
    if (!first) return { specimens: value as CaseSpecimen[], both };
    const one = (rows: unknown) => (rows as CaseSpecimen[])[0] ?? null;
    both.push({ mine: one(first.mine), theirs: one(first.theirs) });
    own = first.taken;
  }
}

/** The specimens with mine in the place of theirs. */
export function withMine(now: readonly CaseSpecimen[], { mine, theirs }: BothChanged): CaseSpecimen[] {
  const text = JSON.stringify(theirs);
  const at = now.findIndex((one) => JSON.stringify(one) === text);
  if (at < 0) return mine ? [...now, mine] : [...now];
  return now.flatMap((one, i) => (i === at ? (mine ?? []) : one));
}

/**
 * A print that was typed for a specimen as it was, while somebody else changed the case: it goes to that specimen where it has no
 * other print by now, wherever it stands; otherwise both are given, to be decided.
 */
export function typedOver(
  now: readonly CaseSpecimen[],
  was: CaseSpecimen,
  printed: string,
): { specimens: CaseSpecimen[] } | BothChanged {
  const isAsBefore = (one: CaseSpecimen) => one.bits === was.bits && (one.printed ?? '') === (was.printed ?? '');
  const at = now.findIndex(isAsBefore);
  if (at >= 0) return { specimens: now.map((one, i) => (i === at ? { ...one, printed } : one)) };
  const theirs = now.find(({ bits }) => bits === was.bits) ?? null;
  return { mine: { ...(theirs ?? was), printed }, theirs };
}
