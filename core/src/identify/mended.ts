/** A case with what its likeliest suspect says put right: so the answer leads with what the rest agree on. */

import { printedNumbers } from './cards/print.ts';
import type { Specimen } from './cards/specimen.ts';
import type { Suspect } from './finding.ts';

/** The specimens with two prints exchanged back, or a mistyped one as it should be; undefined where the suspect names no mend. */
export function mendedBy(
  suspect: Suspect | undefined,
  specimens: readonly Specimen[],
  print: number,
): Specimen[] | undefined {
  if (!suspect) return undefined;
  const at = suspect.rows.map((row) => specimens.findIndex(({ index }) => index + 1 === row));
  const [a, b] = at.map((i) => specimens[i]);
  if (suspect.kind === 'swapped pair' && a && b)
    return specimens.map((one) =>
      one === a ? { ...a, prints: b.prints } : one === b ? { ...b, prints: a.prints } : one,
    );
  if (suspect.kind !== 'mistyped print' || suspect.shouldBe === undefined || !a) return undefined;
  const own = { text: suspect.shouldBe, numbers: printedNumbers(suspect.shouldBe) };
  const prints = a.prints.map((one, i) => (i === print ? own : one));
  return specimens.map((one) => (one === a ? { ...a, prints } : one));
}
