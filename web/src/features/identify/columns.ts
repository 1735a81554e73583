/** What each column of the stack shows: its mark, its verdict, and the words for it. */
import type { BitFinding, GroupFinding, Role } from '@rawbits/core/identify';

export type Mark = 'never changes' | 'changes' | 'follows from others';

/** A bit that follows from others is one that sums several number bits, or is presumed a check. */
export function markOf(bit: BitFinding): Mark {
  if (!bit.changes) return 'never changes';
  const sums = (bit.xorOf?.length ?? 0) > 1;
  return sums || bit.role?.is === 'parity' || bit.role?.is === 'check' ? 'follows from others' : 'changes';
}

export const MARK_SIGNS: Record<Mark, string> = { 'never changes': '·', changes: '↕', 'follows from others': '⊕' };

export type Shown = 'proven' | 'presumed' | 'open';

/**
 * How a bit is shown. Proven is what the number bits that changed among these cards do: a bit that they turn. A bit
 * that was the same on all cards so far may still turn with a number bit that never changed, whatever was settled.
 */
export function shownAs({ standing, xorOf, xorOfFacility, role }: BitFinding): Shown {
  if (standing !== 'proven') return standing;
  if ((xorOf?.length ?? 0) + (xorOfFacility?.length ?? 0) > 0) return 'proven';
  return role ? 'presumed' : 'open';
}

export interface VerdictRun {
  from: number;
  to: number;
  standing: Shown;
}

/** Neighbouring positions of one standing, as they are drawn. */
export function verdictRuns(bits: readonly BitFinding[]): VerdictRun[] {
  const runs: VerdictRun[] = [];
  for (const bit of bits) {
    const last = runs.at(-1);
    const standing = shownAs(bit);
    if (last && last.standing === standing && last.to === bit.at - 1) last.to = bit.at;
    else runs.push({ from: bit.at, to: bit.at, standing });
  }
  return runs;
}

/** `n0-n3, n5` */
export function numberBits(bits: readonly number[]): string {
  const runs: [number, number][] = [];
  for (const bit of [...bits].sort((a, b) => a - b)) {
    const last = runs.at(-1);
    if (last && bit === last[1] + 1) last[1] = bit;
    else runs.push([bit, bit]);
  }
  return runs.map(([a, b]) => (a === b ? `n${a}` : `n${a}-n${b}`)).join(', ');
}

/** How far the number is known: which of its bits are settled, which are not, and of what nothing is known. */
export function settledInWords({ settled, unsettled }: GroupFinding): string {
  const proven = settled.map(({ bit }) => bit);
  const greatest = Math.max(-1, ...proven, ...unsettled);
  if (greatest < 0) return 'Nothing is known of the number bits yet: no two of these cards differ in one.';
  const still = Array.from({ length: greatest }, (_, k) => k).filter(
    (k) => !proven.includes(k) && !unsettled.includes(k),
  );
  const one = proven.length === 1;
  const parts = [
    proven.length === 0
      ? 'No number bit is settled yet.'
      : `${numberBits(proven)} ${one ? 'is' : 'are'} settled: what ${one ? 'it turns' : 'they turn'} is proven.`,
    unsettled.length > 0 ? `${numberBits(unsettled)} changed, but never alone.` : '',
    `Nothing is known of ${still.length > 0 ? `${numberBits(still)}, nor of ` : ''}n${greatest + 1} and above: they are the same on all these cards.`,
  ];
  return parts.filter(Boolean).join(' ');
}

/** A column in words, as a screen reader and the line below the stack say it. */
export function columnInWords(finding: GroupFinding, at: number): string {
  const bit = finding.bits[at - 1];
  if (!bit) return '';
  const shown = shownAs(bit);
  const role = bit.standing === 'proven' && bit.role ? ` Presumed ${roleWords(bit.role)}.` : '';
  if (bit.standing === 'proven' && shown !== 'proven')
    return `Bit ${at} ${markOf(bit)} among these cards: none of the settled number bits turns it.${role}`;
  return `Bit ${at} ${markOf(bit)}. ${shown === 'proven' ? 'Proven as far as the settled number bits go: ' : ''}${bit.why}${role}`;
}

function roleWords(role: Role): string {
  if (role.is === 'number') return `number bit n${role.bit}`;
  if (role.is === 'parity') return `${role.sense} parity over ${role.of}`;
  return role.is === 'facility' ? 'facility code' : role.is;
}

/** The bits for paper: neighbours of which the same is to be said stand in one line; proven formulas each in their own. */
export function bitsInLines(finding: GroupFinding): string[] {
  const lines: { from: number; to: number; text: string }[] = [];
  for (const bit of finding.bits) {
    const text =
      shownAs(bit) === 'proven'
        ? columnInWords(finding, bit.at)
        : bit.role
          ? `presumed ${bit.role.is === 'number' ? 'number' : roleWords(bit.role)}`
          : bit.standing === 'proven'
            ? 'the same on all these cards; what it is for is not known'
            : `open: ${bit.alternatives?.map((a) => a.replace(/ bit \d+$/, '')).join(' or ')}`;
    const last = lines.at(-1);
    if (last && last.text === text) last.to = bit.at;
    else lines.push({ from: bit.at, to: bit.at, text });
  }
  return lines.map(({ from, to, text }) =>
    text.startsWith('Bit ') ? text : `${from === to ? `Bit ${from}` : `Bits ${from}-${to}`}: ${text}.`,
  );
}
