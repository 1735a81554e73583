/**
 * Keys for whoever encodes or sets readers up: what of a plan may go where is looked up in the use of each key, here and
 * nowhere else, before a key is opened. What comes out makes the key of one card, by the plan that was agreed to.
 */
import { createHash } from 'node:crypto';
import type { ChipPlan } from '@rawbits/api';
import { canonicalJson } from '@rawbits/core/access';
import type { HostKey } from '@rawbits/core/host';
import {
  CARD_KEY_KINDS,
  doorKey,
  exposingPart,
  type KeyPlace,
  keyNamesOf,
  keyOfPlan,
  keyOriginOf,
  keyPlacesOf,
} from '@rawbits/core/plan';
import { eq } from 'drizzle-orm';
import { hostMark } from '../../devices/hosts.ts';
import type { HostRow } from '../../devices/tables.ts';
import type { Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { marksOf } from '../../platform/marks/index.ts';
import { conflict, type HttpProblem } from '../../platform/problem/problem.ts';
import type { Open } from '../../platform/vault/index.ts';
import type { KeyRow, VersionRow } from './describe.ts';
import { keyOut, type WayOut } from './door.ts';
import { keySetTable, keyTable } from './tables.ts';
import { checkedUse, type KeyFacts, type KeyUse, keyFacts, markProblem } from './use.ts';

/** A key as a plan names it: by set and name, or by a name that only one key has. */
export interface KeyWanted {
  name: string;
  from?: { set: string; key: string };
}

/** A version of a plan, as it is read from the database: `mark` and `planMark` are what their marks are made of. */
export interface PlanAt {
  planId: string;
  name: string;
  version: number;
  plan: ChipPlan;
  /** As it was saved. */
  definition: unknown;
  madeBy: string;
  /** The row of the plan itself, as its mark has it. */
  head: unknown;
  /** Whether it has a mark, as far as that was looked at: it is told to whoever agrees. */
  isMarked: boolean;
}

export const markOfVersion = ({ planId, version, definition }: Pick<PlanAt, 'planId' | 'version' | 'definition'>) => ({
  rowId: `${planId}/${version}`,
  content: definition,
});
export const markOfPlan = ({ planId, head }: Pick<PlanAt, 'planId' | 'head'>) => ({ rowId: planId, content: head });

/** By what of a plan its keys are exposed: SHA-256 in hex. */
export const exposureOf = (definition: unknown): string =>
  createHash('sha256')
    .update(canonicalJson(exposingPart(definition)))
    .digest('hex');

/** Where the keys go. */
export type Destination =
  | { to: 'card on a pad'; host: HostRow }
  | { to: 'simulated card' }
  | { to: 'reader'; host: HostRow; reader: { id: string; device: string }; names: readonly string[] };

export interface KeyMaterial {
  id: string;
  kind: KeyRow['kind'];
  /** The version in use, then the others, the newest first. */
  versions: {
    version: number;
    checkValue: string | null;
    /** The key of one card by the plan, or the one that is the same on all. */
    forCard(uid: Uint8Array, application: string | null): HostKey;
    /** The key of the store itself, where the plan puts it on cards as it is, or where it goes to a reader. */
    asItIs(): Uint8Array;
  }[];
}

export interface Material {
  /** The key that a plan means by a name; undefined where the store has none in use. Throws why the plan may not have it. */
  of(plan: ChipPlan, name: string): KeyMaterial | undefined;
  /** Why a plan gets none of its keys; undefined where it does. */
  refusal(plan: ChipPlan): HttpProblem | undefined;
}

interface Found {
  key: KeyRow;
  set: string;
}

async function allKeys(db: Queryable, site: string): Promise<Found[]> {
  const rows = await db
    .select({ key: keyTable, set: keySetTable.name })
    .from(keyTable)
    .innerJoin(keySetTable, eq(keySetTable.id, keyTable.setId))
    .where(eq(keyTable.siteId, site));
  return rows;
}

/** Throws `key-ambiguous` where two sets have a key of the name. */
function find<T extends Found>(all: readonly T[], { name, from }: KeyWanted): T | undefined {
  if (from) return all.find(({ key, set }) => key.name === from.key && set === from.set);
  const called = all.filter(({ key }) => key.name === name);
  if (called.length > 1)
    throw conflict(
      'key-ambiguous',
      `The sets ${called.map(({ set }) => `"${set}"`).join(' and ')} have each a key "${name}".`,
      'Say in the plan from which set it is.',
    );
  return called[0];
}

/** Of keys that a plan names the version in use; null where there is none, or no such key. */
export async function currentVersions(
  db: Queryable,
  site: string,
  wanted: readonly KeyWanted[],
): Promise<Map<string, number | null>> {
  const all = await allKeys(db, site);
  return new Map(wanted.map((want) => [want.name, find(all, want)?.key.current ?? null]));
}

/** A key that a plan names, with the places where the plan puts it. */
export interface KeyInPlan {
  name: string;
  facts: KeyFacts;
  places: KeyPlace[];
}

/** The keys of the store that a plan names; those that are not there, or have no version in use, are left out. */
export function keysInPlan(all: readonly KeyFacts[], plan: ChipPlan, names = keyNamesOf(plan)): KeyInPlan[] {
  const places = keyPlacesOf(plan);
  const named = all.map((facts) => ({ facts, key: facts.key, set: facts.key.set }));
  return names.flatMap((name) => {
    const one = find(named, { name, from: keyOriginOf(plan, name) });
    if (!one || one.key.current === null) return [];
    return [{ name, facts: one.facts, places: places.filter((place) => place.name === name) }];
  });
}

/** What of the use of a key is not agreed to yet, for a plan at a destination. */
export interface Lacking {
  plan: boolean;
  host: boolean;
  reader: boolean;
}

export function lackingOf(use: KeyUse, { planId, definition }: PlanAt, to: Destination): Lacking {
  const exposure = exposureOf(definition);
  return {
    plan: !use.plans.some((one) => one.planId === planId && one.exposure === exposure),
    host: to.to === 'card on a pad' && !use.hosts.some(({ hostId }) => hostId === to.host.id),
    reader:
      to.to === 'reader' &&
      !use.readers.some(
        ({ readerId, device, hostId }) =>
          readerId === to.reader.id && device === to.reader.device && hostId === to.host.id,
      ),
  };
}

const quoted = (names: readonly string[]): string => names.map((name) => `"${name}"`).join(', ');

/** What a key may never be used for, however often it is agreed to; undefined where nothing is in the way. */
export function neverFor(
  { name, facts, places }: KeyInPlan,
  use: KeyUse,
  to: Destination['to'],
): HttpProblem | undefined {
  const plain = places.find(({ asItIs }) => asItIs);
  if (plain && !use.asItIs)
    return conflict(
      'key-as-it-is',
      `The key "${name}" may only be made for each card, and the plan uses it as it is: ${plain.place}.`,
      'Have the plan make it for each card; or two custodians widen its use on the screen Keys.',
    );
  if (to !== 'reader') return undefined;
  const isMaster =
    facts.key.purpose === 'card master' ||
    places.some(({ isCardMaster }) => isCardMaster) ||
    use.plans.some(({ isCardMaster }) => isCardMaster);
  if (isMaster)
    return conflict(
      'key-card-master',
      `The key "${name}" rules whole cards, and goes to no reader.`,
      'Have another key read this field in the plan.',
    );
  if (!use.toReaders)
    return conflict(
      'key-not-to-readers',
      `The key "${name}" may not go to readers.`,
      'Two custodians widen its use on the screen Keys.',
    );
  return undefined;
}

/** Thrown where a new use waits for a custodian: whoever asks can have it asked for. */
export const useWaits = (names: readonly string[], forWhat: string): HttpProblem =>
  conflict(
    'key-use-waits',
    `A key custodian has to agree first: ${quoted(names)} ${names.length === 1 ? 'is' : 'are'} not agreed for ${forWhat}.`,
    'It was asked for. Do this again once a custodian has agreed on the screen Keys.',
  );

const whither = (at: PlanAt, to: Destination, lacking: readonly Lacking[]): string => {
  if (lacking.some(({ reader }) => reader)) return 'this reader';
  if (lacking.some(({ plan }) => plan)) return `plan "${at.name}", version ${at.version}`;
  return to.to === 'simulated card' ? 'this' : `the pads of ${to.host.name}`;
};

/** What to say of a plan whose version, or whose row, does not agree with its mark; undefined where both may be as they were saved. */
export function planChanged({ name }: Pick<PlanAt, 'name'>, version: string, head: string): HttpProblem | undefined {
  if (version !== 'differs' && head !== 'differs' && !(version === 'holds' && head === 'none')) return undefined;
  return conflict(
    'plan-changed',
    `The plan "${name}" is not as it was saved: it was changed in the database, or put back from an older copy.`,
    'Look into who can write to the database. Two key custodians accept it as it is, on the screen Encode.',
  );
}

/** Why a plan gets no keys where they are to go; undefined where it does. `useOf` gives the checked use of a key. */
function refusalOf(
  at: PlanAt,
  to: Destination,
  keys: readonly KeyInPlan[],
  marks: { version: string; plan: string; host: string },
  useOf: (facts: KeyFacts) => KeyUse,
): HttpProblem | undefined {
  if (keys.length === 0) return undefined;
  const changed = planChanged(at, marks.version, marks.plan);
  if (changed) return changed;
  if (marks.host === 'differs')
    return conflict(
      'host-changed',
      'The device host is not as it was added: it was changed in the database, or put back from an older copy.',
      'Revoke it and add it again.',
    );
  const broken = keys.find(({ facts }) => facts.mark !== 'holds');
  if (broken) return markProblem(broken.facts);
  const uses = keys.map((key) => ({ key, use: useOf(key.facts) }));
  for (const { key, use } of uses) {
    const never = neverFor(key, use, to.to);
    if (never) return never;
  }
  const lacking = uses
    .map(({ key, use }) => ({ name: key.name, ...lackingOf(use, at, to) }))
    .filter(({ plan, host, reader }) => plan || host || reader);
  if (lacking.length > 0 || marks.version === 'none' || marks.host === 'none')
    return useWaits(
      (lacking.length > 0 ? lacking : keys).map(({ name }) => name),
      whither(at, to, lacking),
    );
  return undefined;
}

/** The marks of some versions of plans, and of a host. */
async function marksFor(app: App, plans: readonly PlanAt[], to: Destination) {
  const versions = await marksOf(app, app.db, 'plan version', plans.map(markOfVersion));
  const heads = await marksOf(app, app.db, 'plan', plans.map(markOfPlan));
  const host =
    to.to === 'simulated card'
      ? 'holds'
      : ((await marksOf(app, app.db, 'device host', [hostMark(to.host)])).get(to.host.id) ?? 'none');
  return (at: PlanAt) => ({
    version: versions.get(markOfVersion(at).rowId) ?? 'none',
    plan: heads.get(at.planId) ?? 'none',
    host,
  });
}

/**
 * The keys of some versions of plans, for where they go. Throws 423 where the store is locked and a key is wanted. A plan
 * whose use is not agreed to has none of its keys (`refusal`). A few statements, whatever the number of plans and keys.
 */
export async function materialOf(app: App, site: string, plans: readonly PlanAt[], to: Destination): Promise<Material> {
  const namesOf = ({ plan }: PlanAt) => (to.to === 'reader' ? to.names : keyNamesOf(plan));
  if (plans.every((at) => namesOf(at).length === 0)) return { of: () => undefined, refusal: () => undefined };
  const open = await app.vault.open(site);
  const all = await keyFacts(app, app.db, site);
  const marks = await marksFor(app, plans, to);
  const uses = new Map<string, KeyUse>();
  const useOf = (facts: KeyFacts): KeyUse => {
    const use = uses.get(facts.key.id) ?? checkedUse(open, facts);
    uses.set(facts.key.id, use);
    return use;
  };
  const found = new Map<ChipPlan, Map<string, KeyMaterial>>();
  const refusals = new Map<ChipPlan, HttpProblem>();
  for (const at of plans) {
    try {
      const keys = keysInPlan(all, at.plan, [...namesOf(at)]);
      const refusal = refusalOf(at, to, keys, marks(at), useOf);
      if (refusal) throw refusal;
      found.set(at.plan, new Map(keys.map((key) => [key.name, bound(open, to.to, at.plan, key)])));
    } catch (error) {
      refusals.set(at.plan, error as HttpProblem);
    }
  }
  return {
    of: (plan, name) => {
      const refusal = refusals.get(plan);
      if (refusal) throw refusal;
      return found.get(plan)?.get(name);
    },
    refusal: (plan) => refusals.get(plan),
  };
}

/** A key bound to what the plan that was agreed to makes of it. */
function bound(open: Open, way: WayOut & Destination['to'], plan: ChipPlan, { name, facts, places }: KeyInPlan) {
  const { key, ready } = facts;
  const rank = ({ version }: VersionRow) => (version === key.current ? 256 : version);
  const origin = plan.kind === 'sectors' ? { name, each: 'all' as const, system: '' } : keyOfPlan(plan, name);
  const isPlain = way === 'reader' || places.some(({ asItIs }) => asItIs);
  const material: KeyMaterial = {
    id: key.id,
    kind: key.kind,
    versions: ready
      .toSorted((a, b) => rank(b) - rank(a))
      .map((row) => {
        let bytes: Uint8Array | undefined;
        const own = (): Uint8Array => {
          bytes ??= keyOut(open, way, key, row);
          return bytes;
        };
        const kind = CARD_KEY_KINDS.find((one) => one === key.kind);
        return {
          version: row.version,
          checkValue: row.checkValue,
          forCard: (uid, application) => {
            if (!kind)
              throw conflict(
                'key-kind',
                `The key "${name}" of the store is one of ${key.kind}; a file-system card has none of these.`,
                'Use another key in the plan.',
              );
            return doorKey({ kind, bytes: own(), version: row.version }, origin, uid, application);
          },
          asItIs: () => {
            if (!isPlain)
              throw conflict('key-as-it-is', `The key "${name}" may only be made for each card.`, 'Change the plan.');
            return own();
          },
        };
      }),
  };
  return material;
}

/** Throws where the store has no key in use by one of the names of a plan. */
export async function checkKeysThere(db: Queryable, site: string, plan: ChipPlan, names: readonly string[]) {
  const there = await currentVersions(
    db,
    site,
    names.map((name) => ({ name, from: keyOriginOf(plan, name) })),
  );
  const missing = names.find((name) => there.get(name) === null);
  if (missing !== undefined)
    throw conflict(
      'key-missing',
      `The key store has no key "${missing}" that is in use.`,
      'Its custodians put it there on the screen Keys, or the plan says under which name it is.',
      'planId',
    );
}
