/** What one site says of a card: for every position what it may be, and how likely it is 1. */
import { type CheckAt, valueOver } from './checks.ts';
import { type Difference, isOther } from './outside.ts';
import type { Site } from './sites.ts';

export interface Heard {
  site: Site;
  number: bigint;
  /** By position: 1 may be 0, 2 may be 1, 3 either. */
  may: Uint8Array;
  /** How likely it is 1, where it is not of the number. */
  ones: Float64Array;
  likeliest: string;
}

/** `first`: the first read, bit by bit, which everything that never changes is as on; `difference`: which bits of the number are other than its. */
export function heardAt(
  site: Site,
  number: bigint,
  difference: Difference,
  said: Site['said'],
  first: Uint8Array,
): Heard {
  const { outside, places, inNumber, isAlways, changing, checks } = site;
  const { length } = said;
  const may = new Uint8Array(length);
  const ones = new Float64Array(length);
  for (let p = 0; p < length; p++) {
    const before = first[p]!;
    const one = said[p];
    const isOpen = one && !isAlways[p];
    const same = !isOpen || one.same + one.either > 0;
    const other = isOpen && one.other + one.either > 0;
    may[p] = (same || inNumber[p]! > 0 ? (before ? 2 : 1) : 0) | (other ? (before ? 1 : 2) : 0);
    const stays = isOpen ? one.sameWeight / (one.sameWeight + one.otherWeight) : 1;
    ones[p] = before ? stays : 1 - stays;
  }
  const { positions } = places[0]!.place;
  for (let j = 0; j < changing.length; j++) {
    const p = positions[changing[j]!]!;
    const bit = first[p]! ^ isOther(difference, j);
    may[p] = bit ? 2 : 1;
    ones[p] = bit;
  }
  const likeliest = new Uint8Array(length);
  for (let p = 0; p < length; p++) {
    const fixed = outside.isChanging(p) ? 0 : inNumber[p]!;
    likeliest[p] = fixed * first[p]! + (1 - fixed) * ones[p]! >= 0.5 ? 1 : 0;
  }
  for (const check of checks) fillIn(check, { may, ones, likeliest });
  return { site, number, may, ones, likeliest: digitsOf(likeliest) };
}

/** Faster than joining them. */
function digitsOf(bits: Uint8Array): string {
  let digits = '';
  for (let p = 0; p < bits.length; p++) digits += bits[p] ? '1' : '0';
  return digits;
}

/** What is heard so far of the positions of a card. */
interface Told {
  may: Uint8Array;
  ones: Float64Array;
  likeliest: Uint8Array;
}

/** What a check says of its own bits, from those that it is over. */
function fillIn(check: CheckAt, told: Told): void {
  if (check.method.kind === 'sum') fillInSum(check, told);
  else fillInLinear(check, told);
}

/** Its bits over the likeliest, each as sure as those it is an exclusive or of. */
function fillInLinear(check: CheckAt, told: Told): void {
  const { width, first, last } = check;
  const { may, ones, likeliest } = told;
  const value = valueOver(check, likeliest);
  const leans = new Float64Array(width).fill(1);
  const isOpen = new Uint8Array(width);
  for (let p = first; p <= last; p++) {
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
    const bit = (value >> (width - 1 - i)) & 1;
    put(told, check.at + i, bit, isOpen[i] ? 3 : bit ? 2 : 1, bit ? (1 + leans[i]!) / 2 : (1 - leans[i]!) / 2);
  }
}

/** A sum carries: of all that it may come to, how likely each is, by one open bit after the other. */
function fillInSum(check: CheckAt, told: Told): void {
  const { width, first, last, method, inverted } = check;
  const { may, ones, likeliest } = told;
  const size = 2 ** width;
  const isNegated = method.kind === 'sum' && method.negated;
  let odds = new Float64Array(size);
  let isMet = new Uint8Array(size);
  odds[0] = 1;
  isMet[0] = 1;
  const turn = inverted ? 1 : 0;
  for (let p = first; p <= last; p++) {
    const weight = 2 ** (width - 1 - ((p - first) % width));
    const one = turn ? 1 - ones[p]! : ones[p]!;
    const mayBe = may[p] === 3 ? 3 : likeliest[p]! ^ turn ? 2 : 1;
    const [nextOdds, nextMet] = [new Float64Array(size), new Uint8Array(size)];
    for (let value = 0; value < size; value++) {
      if (!isMet[value]) continue;
      const more = (value + weight) % size;
      if (mayBe & 1) {
        nextMet[value] = 1;
        nextOdds[value]! += odds[value]! * (mayBe === 3 ? 1 - one : 1);
      }
      if (mayBe & 2) {
        nextMet[more] = 1;
        nextOdds[more]! += odds[value]! * (mayBe === 3 ? one : 1);
      }
    }
    [odds, isMet] = [nextOdds, nextMet];
  }
  for (let i = 0; i < width; i++) {
    let [own, chance] = [0, 0];
    for (let value = 0; value < size; value++) {
      if (!isMet[value]) continue;
      const said = isNegated ? (size - value) % size : value;
      const bit = ((said >> (width - 1 - i)) & 1) ^ turn;
      own |= bit ? 2 : 1;
      if (bit) chance += odds[value]!;
    }
    put(told, check.at + i, chance >= 0.5 ? 1 : 0, own, own === 2 ? 1 : own === 1 ? 0 : chance);
  }
}

function put({ may, ones, likeliest }: Told, p: number, bit: number, mayBe: number, one: number): void {
  likeliest[p] = bit;
  may[p] = mayBe;
  ones[p] = one;
}

const ONE = '1'.charCodeAt(0);

/** How likely some bits are by all that is heard. */
export function oddsOf(heard: readonly Heard[], bits: string): number {
  let odds = 0;
  for (const { site, ones } of heard) {
    const { places, shares, outside } = site;
    for (const [i, { isNumber }] of places.entries()) {
      let own = shares[i]!;
      for (let p = 0; p < bits.length && own > 0; p++)
        if (!isNumber[p] || outside.isChanging(p)) own *= bits.charCodeAt(p) === ONE ? ones[p]! : 1 - ones[p]!;
      odds += own;
    }
  }
  return odds;
}
