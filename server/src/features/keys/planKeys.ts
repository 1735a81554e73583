/** The keys of the store that a plan means by its names, and a version of a plan as it is checked before it gets them. */
import { createHash } from 'node:crypto';
import type { ChipPlan } from '@rawbits/api';
import { canonicalJson } from '@rawbits/core/access';
import { exposingPart, type KeyPlace, keyNamesOf, keyOriginOf, keyPlacesOf } from '@rawbits/core/plan';
import { eq } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { conflict } from '../../platform/problem/problem.ts';
import type { KeyRow } from './describe.ts';
import { keySetTable, keyTable } from './tables.ts';
import type { KeyFacts } from './use.ts';

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
