/** A bit misread where a check shows it: all cards but one have the check, and that one has it when the bit is turned. */
import { holds, valueOver } from '../family/checks.ts';
import type { ChecksInParts } from '../family/checksInParts.ts';
import { misread } from './byPlace.ts';
import type { Cards } from './cases.ts';
import type { Candidate } from './error.ts';

const MOST = 8;

export function byCheck(cards: Cards, checks: ChecksInParts, inverted: boolean): Candidate[] {
  const { specimens } = cards;
  const reads = specimens.map(({ bits }) => bits);
  const found = new Map<string, Candidate>();
  for (const check of checks.nearly(reads, inverted)) {
    const at = reads.findIndex((read) => !holds(check, read));
    const read = Uint8Array.from({ length: cards.length }, (_, p) => reads[at]!.at(p + 1));
    const { width, first, last } = check;
    const stands = () => read.slice(check.at, check.at + width).reduce((sum, bit) => 2 * sum + bit, 0);
    const turned = [...Array(width).keys()].map((i) => check.at + i);
    for (let p = first; p <= last; p++) turned.push(p);
    for (const p of turned) {
      read[p]! ^= 1;
      if (stands() === valueOver(check, read)) found.set(`${at} ${p}`, misread(cards, at, p + 1));
      read[p]! ^= 1;
    }
    if (found.size >= MOST) break;
  }
  return [...found.values()].slice(0, MOST);
}
