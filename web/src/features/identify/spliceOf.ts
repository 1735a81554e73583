/** What was changed in a case's specimens, as one change in one place: so that of 10,000 only what was typed is sent. */
import type { CaseSpecimen, Splice } from '@rawbits/api';

const same = (a: CaseSpecimen, b: CaseSpecimen): boolean => a === b || JSON.stringify(a) === JSON.stringify(b);

/** Undefined where nothing was. */
export function spliceOf(before: readonly CaseSpecimen[], after: readonly CaseSpecimen[]): Splice | undefined {
  const least = Math.min(before.length, after.length);
  let at = 0;
  while (at < least && same(before[at]!, after[at]!)) at++;
  let behind = 0;
  while (behind < least - at && same(before.at(-1 - behind)!, after.at(-1 - behind)!)) behind++;
  const [remove, add] = [before.length - at - behind, after.slice(at, after.length - behind)];
  return remove === 0 && add.length === 0 ? undefined : { at, remove, add };
}
