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

export interface VerdictRun {
  from: number;
  to: number;
  standing: BitFinding['standing'];
}

/** Neighbouring positions of one standing, as they are drawn. */
export function verdictRuns(bits: readonly BitFinding[]): VerdictRun[] {
  const runs: VerdictRun[] = [];
  for (const { at, standing } of bits) {
    const last = runs.at(-1);
    if (last && last.standing === standing && last.to === at - 1) last.to = at;
    else runs.push({ from: at, to: at, standing });
  }
  return runs;
}

/** A column in words, as a screen reader and the line below the stack say it. */
export function columnInWords(finding: GroupFinding, at: number): string {
  const bit = finding.bits[at - 1];
  if (!bit) return '';
  const role = bit.standing === 'proven' && bit.role ? ` Presumed ${roleWords(bit.role)}.` : '';
  return `Bit ${at} ${markOf(bit)}. ${bit.standing === 'proven' ? 'Proven: ' : ''}${bit.why}${role}`;
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
      bit.standing === 'proven'
        ? columnInWords(finding, bit.at)
        : bit.role
          ? `presumed ${bit.role.is === 'number' ? 'number' : roleWords(bit.role)}`
          : `open: ${bit.alternatives?.map((a) => a.replace(/ bit \d+$/, '')).join(' or ')}`;
    const last = lines.at(-1);
    if (last && last.text === text) last.to = bit.at;
    else lines.push({ from: bit.at, to: bit.at, text });
  }
  return lines.map(({ from, to, text }) =>
    text.startsWith('Bit ') ? text : `${from === to ? `Bit ${from}` : `Bits ${from}-${to}`}: ${text}.`,
  );
}

/** How many positions have each standing. */
export function standings(bits: readonly BitFinding[]): Record<BitFinding['standing'], number> {
  const counts = { proven: 0, presumed: 0, open: 0 };
  for (const { standing } of bits) counts[standing]++;
  return counts;
}
