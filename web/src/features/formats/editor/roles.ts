/** Giving bits a role: the span that a choice in the editor makes, with sensible beginnings for what else it needs. */
import { type Layout, parseLayoutLine, positionsOf, rangeOf, type Span } from '@rawbits/core/format';

export const ROLE_KEYS = [
  ['facility', 'f', 'facility'],
  ['number', 'n', 'number'],
  ['issue', 'i', 'issue'],
  ['even', 'e', 'even'],
  ['odd', 'o', 'odd'],
  ['fixed', 'x', 'fixed'],
  ['value', 'v', 'value'],
  ['check', 'k', 'check'],
] as const;
export type RoleChoice = (typeof ROLE_KEYS)[number][0];

/** What a parity bit here usually covers: the half that it leads or trails, else all before it. */
function usualCover(at: number, bits: number): string {
  if (at === 1) return `2-${Math.max(2, Math.ceil(bits / 2))}`;
  if (at === bits) return `${Math.min(bits - 1, Math.floor(bits / 2) + 1)}-${bits - 1}`;
  return `1-${at - 1}`;
}

function freeLabel(layout: Layout): string {
  for (let i = 1; ; i++)
    if (!layout.spans.some((span) => span.role === 'value' && span.label === `value ${i}`)) return `value ${i}`;
}

/** The span that gives these positions a role; throws a failure in words where they do not suit it. */
export function spanFor(layout: Layout, at: string, role: RoleChoice): Span {
  const positions = positionsOf(at);
  const first = Math.min(...positions);
  const others = Array.from({ length: layout.bits }, (_, i) => i + 1).filter((p) => !positions.includes(p));
  const width = positions.length;
  const text: Record<RoleChoice, string> = {
    facility: 'facility',
    number: 'number',
    issue: 'issue',
    even: `even ${usualCover(first, layout.bits)}`,
    odd: `odd ${usualCover(first, layout.bits)}`,
    fixed: `fixed ${'0'.repeat(width)}`,
    value: `value ${JSON.stringify(freeLabel(layout))}`,
    check: `check ${checkFor(width)} ${rangeOf(others.slice(0, others.length - (others.length % width)))}`,
  };
  return parseLayoutLine(`${layout.bits} | ${at} ${text[role]}`).spans[0]!;
}

/** A check of as many bits as were chosen; its method is then edited. */
function checkFor(width: number): string {
  if (width === 5) return 'lrc5';
  if (width === 16) return 'crc16(poly=1021,init=FFFF)';
  return `xor${width}`;
}

/** A span's words in the table, one for each cell. */
export interface SpanCells {
  at: string;
  role: string;
  /** The label, the fixed bits, or the check's method. */
  detail: string;
  written: string;
  covers: string;
}

/** A span from the cells of its row; throws with what is wrong. */
export function spanFromCells(bits: number, { at, role, detail, written, covers }: SpanCells): Span {
  const tail = written === 'binary' ? '' : ` ${written}`;
  const text: Record<string, string> = {
    even: `even ${covers}`,
    odd: `odd ${covers}`,
    fixed: `fixed ${detail}`,
    value: `value ${JSON.stringify(detail)}${tail}`,
    check: `check ${detail} ${covers}`,
  };
  return parseLayoutLine(`${bits} | ${at} ${text[role] ?? `${role}${tail}`}`).spans[0]!;
}
