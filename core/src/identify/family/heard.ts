/** What one site says of a card: for every position what it may be, and how likely it is 1. */
import type { Bits } from '../../bits/index.ts';
import { type CheckAt, valueOver } from './checks.ts';
import type { Placed, Site } from './sites.ts';

export interface Heard {
  site: Site;
  number: bigint;
  /** By position: 1 may be 0, 2 may be 1, 3 either. */
  may: Uint8Array;
  /** How likely it is 1, where it is not of the number. */
  ones: Float64Array;
  likeliest: string;
  /** Whether a card of this number is among those read. */
  isRead: boolean;
}

/** `first`: the first read, which everything that never changes is as on. */
export function heardAt(site: Site, number: bigint, said: Site['said'], first: Bits): Heard {
  const { outside, places, inNumber, isAlways, changing, check, reading } = site;
  const { length } = said;
  const may = new Uint8Array(length);
  const ones = new Float64Array(length);
  for (let p = 0; p < length; p++) {
    const before = first.at(p + 1);
    const one = said[p];
    const isOpen = one && !isAlways[p];
    const same = !isOpen || one.same + one.either > 0;
    const other = isOpen && one.other + one.either > 0;
    may[p] = (same || inNumber[p]! > 0 ? (before ? 2 : 1) : 0) | (other ? (before ? 1 : 2) : 0);
    const stays = isOpen ? one.sameWeight / (one.sameWeight + one.otherWeight) : 1;
    ones[p] = before ? stays : 1 - stays;
  }
  const [{ place }] = places as [Placed];
  for (const k of changing) {
    const bit = Number((number >> BigInt(k)) & 1n) ^ (place.inverted ? 1 : 0);
    may[place.positions[k]!] = bit ? 2 : 1;
    ones[place.positions[k]!] = bit;
  }
  const likeliest = new Uint8Array(length);
  for (let p = 0; p < length; p++) {
    const fixed = outside.isChanging(p) ? 0 : inNumber[p]!;
    likeliest[p] = fixed * first.at(p + 1) + (1 - fixed) * ones[p]! >= 0.5 ? 1 : 0;
  }
  if (check) fillIn(check, { may, ones, likeliest });
  const isRead = reading.numbers.includes(number);
  return { site, number, may, ones, likeliest: digitsOf(likeliest), isRead };
}

/** Faster than joining them. */
function digitsOf(bits: Uint8Array): string {
  let digits = '';
  for (let p = 0; p < bits.length; p++) digits += bits[p] ? '1' : '0';
  return digits;
}

/** What a check says: its bits over the likeliest, each as sure as those it is a sum of. */
function fillIn(
  check: CheckAt,
  { may, ones, likeliest }: { may: Uint8Array; ones: Float64Array; likeliest: Uint8Array },
): void {
  const { width } = check;
  const value = valueOver(check, likeliest);
  const leans = new Float64Array(width).fill(1);
  const isOpen = new Uint8Array(width);
  for (let p = check.first; p <= check.last; p++) {
    if (may[p] !== 3) continue;
    likeliest[p]! ^= 1;
    const turned = value ^ valueOver(check, likeliest);
    likeliest[p]! ^= 1;
    for (let i = 0; i < width; i++) {
      if (!((turned >> (width - 1 - i)) & 1)) continue;
      isOpen[i] = 1;
      leans[i]! *= Math.abs(2 * ones[p]! - 1);
    }
  }
  for (let i = 0; i < width; i++) {
    const p = check.at + i;
    const bit = (value >> (width - 1 - i)) & 1;
    likeliest[p] = bit;
    may[p] = isOpen[i] ? 3 : bit ? 2 : 1;
    ones[p] = bit ? (1 + leans[i]!) / 2 : (1 - leans[i]!) / 2;
  }
}

/** How likely some bits are by all that is heard. */
export function oddsOf(heard: readonly Heard[], bits: string): number {
  let odds = 0;
  for (const { site, ones } of heard) {
    const { places, shares, outside } = site;
    for (const [i, { isNumber }] of places.entries()) {
      let own = shares[i]!;
      for (let p = 0; p < bits.length && own > 0; p++)
        if (!isNumber[p] || outside.isChanging(p)) own *= bits[p] === '1' ? ones[p]! : 1 - ones[p]!;
      odds += own;
    }
  }
  return odds;
}
