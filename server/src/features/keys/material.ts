/**
 * Keys for whoever encodes: found by set and name, opened while they are needed and no longer. What comes out of here goes
 * to a card and nowhere else.
 */
import { and, eq, isNull } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { conflict } from '../../platform/problem/problem.ts';
import { type KeyRow, stateOf, type VersionRow } from './describe.ts';
import { keyIn } from './rows.ts';
import { keySetTable, keyTable, keyVersionTable } from './tables.ts';

/** A key as a plan names it: by set and name, or by a name that only one key has. */
export interface KeyWanted {
  name: string;
  from?: { set: string; key: string };
}

export interface KeyMaterial {
  id: string;
  kind: KeyRow['kind'];
  /** The version in use, then the others, the newest first. */
  versions: { version: number; bytes: Uint8Array }[];
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
function find(all: readonly Found[], { name, from }: KeyWanted): Found | undefined {
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

/** Opens keys of the store, every version of each that is ready; those that are not there are left out. Throws 423 where it is locked and one is wanted. */
export async function materialOf(
  app: App,
  site: string,
  wanted: readonly KeyWanted[],
): Promise<Map<string, KeyMaterial>> {
  if (wanted.length === 0) return new Map();
  const open = await app.vault.open(site);
  const all = await allKeys(app.db, site);
  const rows = await app.db
    .select()
    .from(keyVersionTable)
    .where(and(eq(keyVersionTable.siteId, site), isNull(keyVersionTable.destroyedAt)));
  const found = new Map<string, KeyMaterial>();
  for (const want of wanted) {
    const one = find(all, want);
    if (!one || one.key.current === null) continue;
    const { key } = one;
    const ready = rows.filter((row) => row.keyId === key.id && stateOf(row) === 'ready');
    const rank = ({ version }: VersionRow) => (version === key.current ? 256 : version);
    found.set(want.name, {
      id: key.id,
      kind: key.kind,
      versions: ready
        .toSorted((a, b) => rank(b) - rank(a))
        .map((row) => ({ version: row.version, bytes: keyIn(open, key, row) })),
    });
  }
  return found;
}
