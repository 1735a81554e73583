/** Survivors: of the whole family those members that agree with every card, site by site, with each check and without one. */
import type { Bits } from '../../bits/index.ts';
import { type PrintReading, type PrintValue, withAdded } from '../cards/readings.ts';
import { checksAmong } from './checkSearch.ts';
import type { CheckAt } from './checks.ts';
import type { ChecksInParts } from './checksInParts.ts';
import type { Frame } from './frame.ts';
import { addedInOtherOrders, addedTo, type Found, mayStandAt, type Site, sitesOf, withChecksAt } from './sites.ts';

export interface FamilyInput {
  /** Reads of one length, at least one; and what is printed on each card. */
  reads: readonly Bits[];
  /** The same as columns, where they are at hand. */
  frame?: Frame;
  readings: readonly PrintReading[];
  /** The prints that are asked about: where the number stands has to hold all of them. */
  asked: readonly PrintValue[];
  /** Whether there are cards with these prints, so that a format without them is none; they are taken to be unless this says no. */
  exist?: boolean;
  /** Other members, each by what it says: formats of the library that agree with every card. */
  also?: readonly Also[];
  /** So many ways to read the prints and places of the changing bits are gone through at most. */
  mostSites?: number;
  /** Where checks are looked for when nothing is asked, only how well the cards are explained. */
  checks?: ChecksInParts;
  /** Whether checks are only looked for where more changes than parity does; one more answer is soon given then. */
  onlyLikelyChecks?: boolean;
  /** Whether constants added to the prints are looked for; they are unless it says no. */
  constants?: boolean;
}

export interface Also {
  /** As in "unless …". */
  words: string;
  /** What it weighs, in bits: less weighs more. */
  bits: number;
  /** The bits of a card; undefined where it has none with this print. */
  says(print: PrintValue): string | undefined;
}

export interface Survivors {
  /** Undefined where there are too many sites to go through. */
  sites: Site[] | undefined;
  /** What formats weigh that agree with the cards and are none of the family, in bits. */
  outsiders: number[];
  /** Whether all checks were gone through: of few cards there are too many. */
  areAll: boolean;
}

const MOST_SITES = 40;
/** So many checks are looked for at most, and so many sites with one are heard. */
const MOST_CHECKS = 1000;
/** Of a check at least so many bits change among cards whose number does. */
const LEAST_CHANGING = 3;
const MOST_CHECKED = 24;
/** So many pairs of checks are tried at a site. */
const MOST_PAIRS = 2000;

export function survivorsOf(input: FamilyInput, frame: Frame): Survivors {
  const outsiders: number[] = [];
  const all = sitesFound(input, frame, outsiders);
  return { outsiders, ...(all ? withChecks(all, input, frame) : { sites: undefined, areAll: true }) };
}

/** Undefined where there are too many sites to go through them all: then next to nothing is known, and nothing is settled. */
function sitesFound(input: FamilyInput, frame: Frame, outsiders: number[]): Site[] | undefined {
  const { readings, constants = true, mostSites = MOST_SITES } = input;
  const found: Site[] = [];
  const add = (more: Found | undefined): boolean => {
    if (!more || found.length + more.sites.length > mostSites) return false;
    found.push(...more.sites);
    outsiders.push(...more.outsiders);
    return true;
  };
  for (const reading of readings) if (!add(sitesOf(input, frame, reading, mostSites))) return undefined;
  const standing = ({ changing, tried }: Site) => changing.map((k) => tried[0]!.place.positions[k]).join();
  const taken = new Set(found.filter(({ places }) => places.length > 0).map(standing));
  const withConstant = (constant: bigint): boolean => {
    const more = sitesOf(input, frame, withAdded(readings[0]!, constant), mostSites);
    const sites = more?.sites.filter((site) => !taken.has(standing(site)));
    return add(more && { sites: sites!, outsiders: [] });
  };
  if (!constants) return found;
  if (!addedTo(input).every(withConstant)) return undefined;
  // Where many cases that differ little are weighed, other orders take too long for what they are worth.
  const isExplained = found.length > 0 || input.also?.length || input.asked.length === 0;
  return isExplained || addedInOtherOrders(input).every(withConstant) ? found : undefined;
}

/** Those that are left, as they are and with each check that agrees with the cards; the checks are gone through in the order of what they weigh. */
function withChecks(
  sites: readonly Site[],
  { reads, asked, checks: parts, onlyLikelyChecks = false }: FamilyInput,
  frame: Frame,
): { sites: Site[]; areAll: boolean } {
  const plain = sites.filter(({ places }) => places.length > 0);
  // Where nothing is asked, only how well the cards are explained, a check that hardly changes weighs nothing.
  const changes = (site: Site) => frame.columns.filter((_, p) => frame.changes(p)).length - site.changing.length;
  const isOfWeight = (asked.length > 0 && !onlyLikelyChecks) || sites.some((site) => changes(site) >= LEAST_CHANGING);
  if (sites.length === 0 || !isOfWeight) return { sites: plain, areAll: true };
  const changing = new Uint8Array(reads[0]!.length);
  for (const site of sites) for (const k of site.changing) changing[site.tried[0]!.place.positions[k]!] = 1;
  const before = [0];
  for (const one of changing) before.push(before.at(-1)! + one);
  const isWanted = (first: number, last: number) => before[last + 1]! > before[first]!;
  const distinct = [...new Map(reads.map((bits) => [bits.toBinary(), bits])).values()];
  const checks: CheckAt[] = [];
  let areAll = true;
  for (const inverted of [false, true]) {
    if (!sites.some(({ tried }) => tried.some(({ place }) => place.inverted === inverted))) continue;
    const found =
      asked.length === 0 && parts
        ? parts.among(distinct, inverted)
        : checksAmong(distinct, { isWanted, inverted, most: MOST_CHECKS });
    checks.push(...found.found);
    areAll &&= found.areAll;
  }
  const checked: { site: Site; bits: number }[] = [];
  const add = (site: Site | undefined) => {
    if (site) checked.push({ site, bits: Math.min(...site.places.map(({ bits }) => bits)) });
  };
  for (const site of sites) {
    const own = checks.filter((check) => mayStandAt(site, check));
    for (const check of own) add(withChecksAt(site, [check]));
    if ((own.length * (own.length - 1)) / 2 > MOST_PAIRS) areAll = false;
    else for (const pair of pairsOf(own)) add(withChecksAt(site, pair));
  }
  if (checked.length > MOST_CHECKED) areAll = false;
  checked.sort((a, b) => a.bits - b.bits);
  return { sites: [...plain, ...checked.slice(0, MOST_CHECKED).map(({ site }) => site)], areAll };
}

/** Two checks in one read: neither stands in the other's place, and not each is over the other's. The one that is over the other's comes behind it. */
function* pairsOf(checks: readonly CheckAt[]): Generator<[CheckAt, CheckAt]> {
  const isOver = (one: CheckAt, other: CheckAt) => one.first < other.at + other.width && other.at <= one.last;
  for (const [i, one] of checks.entries())
    for (const other of checks.slice(i + 1)) {
      if (one.at < other.at + other.width && other.at < one.at + one.width) continue;
      const [isAbove, isBelow] = [isOver(one, other), isOver(other, one)];
      if (!isAbove || !isBelow) yield isAbove ? [other, one] : [one, other];
    }
}
