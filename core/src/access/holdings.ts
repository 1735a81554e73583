/**
 * Holdings: all that a controller holds, item by item, with a digest that is carried forward. An item is a format, a
 * card, a door, an access group, a schedule, the calendar, or a setting, under a key of its own; both sides of a load keep the digest of what the controller holds, and a
 * change of k items costs k on either side, however many others there are.
 *
 * The digest is the sum, modulo 2^256, of the SHA-256 (FIPS 180-4) of every item: it does not depend on the order, and
 * an item is taken out by subtracting it. It tells two sets apart that differ by chance or by hand; against somebody who
 * may choose hundreds of thousands of items to hit one digest it is no proof (Wagner, "A Generalized Birthday Problem",
 * CRYPTO 2002, §4 on sums), and is not used as one.
 */
import { z } from 'zod';
import type { Bits } from '../bits/index.ts';
import { fail } from '../failure/index.ts';
import { type Format, formatSchema } from '../format/index.ts';
import { canonicalJson } from './canonical.ts';
import { type Credential, credentialSchema } from './credential.ts';
import { type Decision, decideBy } from './decide.ts';
import { Engine } from './engine.ts';
import { onFile } from './onFile.ts';
import {
  type AccessGroup,
  accessGroupSchema,
  type Calendar,
  calendarSchema,
  type GuardedDoor,
  guardedDoorSchema,
  type Passing,
  passages,
} from './rights/index.ts';
import { type Schedule, scheduleSchema } from './schedule/index.ts';

/** SHA-256 of a text in UTF-8, as 64 lower-case hex digits. */
export type Sha256 = (text: string) => string;

/** An item under its key: its value as canonical JSON, or null where it is taken out. */
export type ItemChange = readonly [key: string, text: string | null];

export const FACILITY_COMPARED = 'facility compared';
export const formatKey = (id: string): string => `format ${id}`;
export const cardKey = (id: string): string => `card ${id}`;
export const CALENDAR = 'calendar';
export const doorKey = (id: string): string => `door ${id}`;
export const groupKey = (id: string): string => `group ${id}`;
export const scheduleKey = (id: string): string => `schedule ${id}`;
/** Whether an item is about who may pass which door when. */
export const isAboutPassing = (key: string): boolean => key === CALENDAR || /^(?:door|group|schedule) /.test(key);

const MODULUS = 1n << 256n;
/** The digest of nothing. */
export const EMPTY_DIGEST = '0'.repeat(64);

const digestText = (sum: bigint): string => sum.toString(16).padStart(64, '0');

/** The hash of an item, as it goes into a digest. */
export const itemHash = (sha256: Sha256, key: string, text: string): string => sha256(`${key}\t${text}`);

/** A digest after items were taken out and put in, each by its hash. Throws nothing; costs their number. */
export function carried(digest: string, out: Iterable<string>, into: Iterable<string>): string {
  let sum = BigInt(`0x${digest}`);
  for (const hash of out) sum -= BigInt(`0x${hash}`);
  for (const hash of into) sum += BigInt(`0x${hash}`);
  return digestText(((sum % MODULUS) + MODULUS) % MODULUS);
}

/** The place of an item in the tree by which differences are found: three hex digits of the hash of its key. */
export const placeOf = (sha256: Sha256, key: string): string => sha256(key).slice(0, PLACE_DIGITS);
export const PLACE_DIGITS = 3;

/** Digests of the parts below a prefix of places, by their next hex digit; parts that hold nothing are left out. */
export function digestsBelow(places: ReadonlyMap<string, string>, prefix: string): Record<string, string> {
  const below: Record<string, string> = {};
  for (const [place, digest] of places) {
    if (!place.startsWith(prefix) || digest === EMPTY_DIGEST) continue;
    const digit = place[prefix.length]!;
    below[digit] = carried(below[digit] ?? EMPTY_DIGEST, [], [digest]);
  }
  return below;
}

export class Holdings {
  private readonly items = new Map<string, string>();
  /** Ids of cards by their number. */
  private readonly byNumber = new Map<string, string | string[]>();
  private sum = EMPTY_DIGEST;
  private compiled: Engine | undefined;
  private guarded: ReturnType<typeof passages> | undefined;
  private readonly formats = new Set<string>();
  private readonly passing = new Set<string>();
  private places: Map<string, { digest: string; keys: string[] }> | undefined;

  constructor(private readonly sha256: Sha256) {}

  get digest(): string {
    return this.sum;
  }

  get size(): number {
    return this.items.size;
  }

  /** An item's text; undefined where there is none. */
  textOf(key: string): string | undefined {
    return this.items.get(key);
  }

  entries(): IterableIterator<[string, string]> {
    return this.items.entries();
  }

  /** The digest that these holdings would have after the changes. */
  digestAfter(changes: Iterable<ItemChange>): string {
    const last = new Map(changes);
    const out: string[] = [];
    const into: string[] = [];
    for (const [key, text] of last) {
      const before = this.items.get(key);
      if (before !== undefined) out.push(itemHash(this.sha256, key, before));
      if (text !== null) into.push(itemHash(this.sha256, key, text));
    }
    return carried(this.sum, out, into);
  }

  /** `digest` is what they are then, where that is known already. */
  apply(changes: Iterable<ItemChange>, digest?: string): void {
    const last = new Map(changes);
    this.sum = digest ?? this.digestAfter(last);
    this.places = undefined;
    for (const [key, text] of last) {
      const isCard = key.startsWith('card ');
      const before = this.items.get(key);
      if (isCard && before !== undefined) this.forget(key, before);
      if (text === null) this.items.delete(key);
      else this.items.set(key, text);
      if (isCard && text !== null) this.note(key, text);
      if (!isCard) this.recompile(key, text);
    }
  }

  private recompile(key: string, text: string | null): void {
    if (isAboutPassing(key)) this.guarded = undefined;
    else this.compiled = undefined;
    const keys = isAboutPassing(key) ? this.passing : key.startsWith('format ') ? this.formats : undefined;
    if (text === null) keys?.delete(key);
    else keys?.add(key);
  }

  private note(key: string, text: string): void {
    const { number } = JSON.parse(text) as Credential;
    const same = this.byNumber.get(number);
    if (same === undefined) this.byNumber.set(number, key);
    else if (typeof same === 'string') this.byNumber.set(number, [same, key]);
    else same.push(key);
  }

  private forget(key: string, text: string): void {
    const { number } = JSON.parse(text) as Credential;
    const same = this.byNumber.get(number);
    const left = typeof same === 'string' ? [] : (same ?? []).filter((other) => other !== key);
    if (left.length === 0) this.byNumber.delete(number);
    else this.byNumber.set(number, left.length === 1 ? left[0]! : left);
  }

  private cardsOf(number: string): Credential[] {
    const same = this.byNumber.get(number);
    const keys = typeof same === 'string' ? [same] : (same ?? []);
    return keys.map((key) => JSON.parse(this.items.get(key)!) as Credential);
  }

  private get engine(): Engine {
    if (!this.compiled) {
      const formats = [...this.formats].map((key) => JSON.parse(this.items.get(key)!) as Format);
      this.compiled = new Engine(formats, this.items.get(FACILITY_COMPARED) !== 'false');
    }
    return this.compiled;
  }

  /** What holds at a reader (the name of its device) at an instant; costs all about passing the first time after a change. */
  private passingAt(reader: string, atMs: number): Passing {
    if (!this.guarded) {
      const of = <T>(kind: string): T[] =>
        [...this.passing].flatMap((key) => (key.startsWith(kind) ? [JSON.parse(this.items.get(key)!) as T] : []));
      this.guarded = passages({
        doors: of<GuardedDoor>('door '),
        groups: of<AccessGroup>('group '),
        schedules: of<Schedule>('schedule '),
        calendar: of<Calendar>(CALENDAR)[0],
      });
    }
    return this.guarded(reader, atMs);
  }

  /**
   * What a controller with these holdings does with a read at an instant (milliseconds since 1970); `reader` is the name of
   * the device that it comes from, of which it depends what door it is to open.
   */
  decide(bits: Bits, atMs: number, reader?: string): Decision {
    const cards = (number: number | string) => this.cardsOf(String(number)).map(onFile);
    return decideBy(this.engine, bits, atMs, cards, reader === undefined ? undefined : this.passingAt(reader, atMs));
  }

  /** By place, what is there. Costs all items the first time after a change. */
  private byPlace(): ReadonlyMap<string, { digest: string; keys: string[] }> {
    if (!this.places) {
      this.places = new Map();
      for (const key of this.items.keys()) {
        const place = placeOf(this.sha256, key);
        const here = this.places.get(place);
        if (here) here.keys.push(key);
        else this.places.set(place, { digest: EMPTY_DIGEST, keys: [key] });
      }
      for (const here of this.places.values())
        here.digest = carried(EMPTY_DIGEST, [], this.hashesOf(here.keys).values());
    }
    return this.places;
  }

  private hashesOf(keys: readonly string[]): Map<string, string> {
    return new Map(keys.map((key) => [key, itemHash(this.sha256, key, this.items.get(key)!)]));
  }

  /** The digests of the parts below a prefix of places, by the next hex digit. */
  digestsBelow(prefix: string): Record<string, string> {
    const digests = new Map<string, string>();
    for (const [place, { digest }] of this.byPlace()) digests.set(place, digest);
    return digestsBelow(digests, prefix);
  }

  /** The hashes of the items at a place, by their keys. */
  hashesAt(place: string): Record<string, string> {
    return Object.fromEntries(this.hashesOf(this.byPlace().get(place)?.keys ?? []));
  }
}

const KINDS = {
  format: [formatSchema, formatKey],
  card: [credentialSchema, cardKey],
  door: [guardedDoorSchema, doorKey],
  group: [accessGroupSchema, groupKey],
  schedule: [scheduleSchema, scheduleKey],
} as const;

/** Throws a ZodError or `item` unless the item is one that a controller can hold. */
export function checkItem(key: string, text: string): void {
  const value: unknown = JSON.parse(text);
  if (key === FACILITY_COMPARED) z.boolean().parse(value);
  else if (key === CALENDAR) calendarSchema.parse(value);
  else {
    const kind = KINDS[key.slice(0, key.indexOf(' ')) as keyof typeof KINDS];
    if (!kind) fail('item', `There is no item "${key}".`);
    const [schema, keyFrom] = kind;
    const own = keyFrom(schema.parse(value).id);
    if (own !== key) fail('item', `The item ${key} is another: ${own}.`);
  }
  if (canonicalJson(value) !== text) fail('item', `The item ${key} is not written canonically.`);
}
