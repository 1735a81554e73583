/** Keys as the API gives them: by their check values. */
import type { Key, KeySet, KeyVersion } from '@rawbits/api';
import { and, asc, eq, type SQL } from 'drizzle-orm';
import type { Queryable } from '../../platform/database/index.ts';
import { notFound } from '../../platform/problem/problem.ts';
import { componentTable, keySetTable, keyTable, keyVersionTable } from './tables.ts';

export type KeyRow = typeof keyTable.$inferSelect;
export type VersionRow = typeof keyVersionTable.$inferSelect;
type ComponentRow = typeof componentTable.$inferSelect;

export const stateOf = ({ envelope, destroyedAt }: VersionRow): KeyVersion['state'] => {
  if (destroyedAt) return 'destroyed';
  return envelope === null ? 'waiting' : 'ready';
};

function describeVersion(row: VersionRow, components: ComponentRow[], asking: { id: string }): KeyVersion {
  return {
    version: row.version,
    state: stateOf(row),
    checkValue: row.checkValue,
    checkOf: row.checkOf as KeyVersion['checkOf'],
    origin: row.origin as KeyVersion['origin'],
    warning: row.warning,
    validFrom: row.validFrom?.toISOString() ?? null,
    validTo: row.validTo?.toISOString() ?? null,
    madeBy: row.madeBy,
    madeAt: row.madeAt.toISOString(),
    parts: row.parts,
    cards: row.cards,
    components: components
      .filter(({ keyId, version }) => keyId === row.keyId && version === row.version)
      .map(({ part, custodianId, custodian, checkValue, givenAt }) => ({
        part,
        of: row.parts,
        custodian,
        checkValue,
        givenAt: givenAt.toISOString(),
        mine: custodianId === asking.id,
      })),
  };
}

async function describeKeys(db: Queryable, asking: { id: string }, site: string, only?: string): Promise<Key[]> {
  const of = (siteId: SQL, keyId: SQL) => (only === undefined ? siteId : and(siteId, keyId));
  const [keys, versions, components] = await Promise.all([
    db
      .select()
      .from(keyTable)
      .where(of(eq(keyTable.siteId, site), eq(keyTable.id, only ?? '')))
      .orderBy(asc(keyTable.name)),
    db
      .select()
      .from(keyVersionTable)
      .where(of(eq(keyVersionTable.siteId, site), eq(keyVersionTable.keyId, only ?? '')))
      .orderBy(asc(keyVersionTable.madeAt)),
    db
      .select()
      .from(componentTable)
      .where(of(eq(componentTable.siteId, site), eq(componentTable.keyId, only ?? '')))
      .orderBy(asc(componentTable.part)),
  ]);
  return keys.map((key) => ({
    id: key.id,
    setId: key.setId,
    name: key.name,
    kind: key.kind as Key['kind'],
    purpose: key.purpose as Key['purpose'],
    notes: key.notes,
    current: key.current,
    retiredAt: key.retiredAt?.toISOString() ?? null,
    versions: versions
      .filter(({ keyId }) => keyId === key.id)
      .map((version) => describeVersion(version, components, asking)),
  }));
}

export async function describeKey(db: Queryable, asking: { id: string }, site: string, id: string): Promise<Key> {
  const [key] = await describeKeys(db, asking, site, id);
  if (!key) throw notFound('key');
  return key;
}

export async function describeSets(db: Queryable, asking: { id: string }, site: string): Promise<KeySet[]> {
  const sets = await db.select().from(keySetTable).where(eq(keySetTable.siteId, site)).orderBy(asc(keySetTable.name));
  const keys = await describeKeys(db, asking, site);
  return sets.map(({ id, name, notes }) => ({ id, name, notes, keys: keys.filter(({ setId }) => setId === id) }));
}
