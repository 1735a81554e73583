/** A key and its versions, found and held for a change; and the envelope that a version is in. */
import { type KeyKind, usualCheckValue } from '@rawbits/core/key';
import { and, eq, sql } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import type { Bound } from '../../platform/vault/index.ts';
import { type KeyRow, stateOf, type VersionRow } from './describe.ts';
import { keySetTable, keyTable, keyVersionTable } from './tables.ts';

/** What the envelope of a version is bound to, besides its site. */
export const boundOf = (
  { setId, id, name, kind }: Pick<KeyRow, 'setId' | 'id' | 'name' | 'kind'>,
  version: number,
): Bound => ['key', setId, id, name, kind, String(version)];

/** How a key is called wherever somebody reads of it: its set, its name, and the version. */
export const calledIn = (set: string, name: string, version?: number): string =>
  `key ${set} / ${name}${version === undefined ? '' : `, version ${version}`}`;

/** A key, held until the change is committed: whoever changes it next waits and sees this one. */
export async function holdKey(tx: Queryable, site: string, id: string): Promise<KeyRow & { set: string }> {
  const own = and(eq(keyTable.id, id), eq(keyTable.siteId, site));
  await tx
    .update(keyTable)
    .set({ guard: sql`${keyTable.guard} + 1` })
    .where(own);
  const [found] = await tx
    .select({ key: keyTable, set: keySetTable.name })
    .from(keyTable)
    .innerJoin(keySetTable, eq(keySetTable.id, keyTable.setId))
    .where(own);
  if (!found) throw notFound('key');
  return { ...found.key, set: found.set };
}

/** A version number from an address, or 404. */
export function versionIn(text: string | undefined): number {
  if (!/^\d{1,3}$/.test(text ?? '') || Number(text) > 255) throw notFound('version of the key');
  return Number(text);
}

export async function versionOf(db: Queryable, keyId: string, version: number): Promise<VersionRow> {
  const [row] = await db
    .select()
    .from(keyVersionTable)
    .where(and(eq(keyVersionTable.keyId, keyId), eq(keyVersionTable.version, version)));
  if (!row) throw notFound('version of the key');
  return row;
}

/** As `versionOf`, for one that there is a key in. */
export async function readyVersionOf(db: Queryable, keyId: string, version: number): Promise<VersionRow> {
  const row = await versionOf(db, keyId, version);
  const state = stateOf(row);
  if (state === 'ready') return row;
  throw state === 'waiting'
    ? conflict('waiting', 'This version still waits for components.', 'The custodians give theirs first.')
    : conflict('destroyed', 'This version was destroyed.');
}

export const usualOf = (kind: string) => usualCheckValue(kind as KeyKind);
