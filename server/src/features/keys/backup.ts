/** Backups of the keys: made by two custodians, rehearsed, and restored; and keys taken in from a file. */
import { type KeyFileReport, keyApi, keyBackupApi, MOST_KEYS_IN_A_FILE } from '@rawbits/api';
import type { KeyKind } from '@rawbits/core/key';
import type { Secret } from '@rawbits/core/secret';
import { and, desc, eq } from 'drizzle-orm';
import { newId, type Queryable } from '../../platform/database/index.ts';
import { type App, type Asking, handle } from '../../platform/http/app.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import { clientOf, tryOnce } from '../../platform/session/slowDown.ts';
import { change, type Record } from '../../platform/trail/change.ts';
import type { Open } from '../../platform/vault/index.ts';
import { siteTable } from '../sites/index.ts';
import { newKeyRow, versionRow } from './adding.ts';
import type { KeyRow, VersionRow } from './describe.ts';
import { givesBack, isSameAgain, keyOut } from './door.ts';
import { decryptFile, encryptFile, type FileKey, type KeyFile, passphraseOf, readKeyFile } from './file.ts';
import { boundOf } from './rows.ts';
import { keyBackupTable, keySetTable, keyTable, keyVersionTable } from './tables.ts';
import { keyFacts, markKey, markProblem, newUse, writeUse } from './use.ts';

type BackupRow = typeof keyBackupTable.$inferSelect;
interface Kept {
  key: KeyRow;
  set: string;
  row: VersionRow;
}

/** Every version of the site that there is a key in. */
async function keptOf(db: Queryable, site: string): Promise<Kept[]> {
  const rows = await db
    .select({ key: keyTable, set: keySetTable.name, row: keyVersionTable })
    .from(keyVersionTable)
    .innerJoin(keyTable, eq(keyTable.id, keyVersionTable.keyId))
    .innerJoin(keySetTable, eq(keySetTable.id, keyTable.setId))
    .where(eq(keyVersionTable.siteId, site))
    .orderBy(keySetTable.name, keyTable.name, keyVersionTable.version);
  return rows.filter(({ row }) => row.envelope !== null);
}

const nameOf = (set: string, name: string, version: number): string => `${set} / ${name}, version ${version}`;

/** Makes the file now, and gives what writes it down with its entries. */
export async function makeBackup(app: App, site: string, open: Open, first: string, second: string) {
  const kept = await keptOf(app.db, site);
  if (kept.length === 0) throw conflict('no-keys', 'There are no keys to back up yet.');
  if (kept.length > MOST_KEYS_IN_A_FILE)
    throw conflict(
      'too-many-keys',
      `A backup holds ${MOST_KEYS_IN_A_FILE} keys, and the store has ${kept.length}, each version counted. More could not be restored.`,
      'Destroy versions that no card has any more, then make the backup.',
    );
  const [{ name } = { name: '' }] = await app.db
    .select({ name: siteTable.name })
    .from(siteTable)
    .where(eq(siteTable.id, site));
  const madeAt = new Date();
  const keys = kept.map(
    ({ key, set, row }): FileKey => ({
      set,
      name: key.name,
      kind: key.kind as KeyKind,
      purpose: key.purpose as FileKey['purpose'],
      version: row.version,
      inUse: key.current === row.version,
      bytes: keyOut(open, 'backup', key, row),
      checkValue: row.checkValue ?? '',
    }),
  );
  const jwe = await encryptFile({ site: name, madeAt: madeAt.toISOString(), keys }, passphraseOf(first, second));
  for (const { bytes } of keys) bytes.fill(0);
  return async (tx: Queryable, record: Record, by: { firstBy: string; secondBy: string }): Promise<void> => {
    const row: BackupRow = {
      id: newId(),
      siteId: site,
      jwe,
      keys: keys.length,
      madeAt,
      ...by,
      rehearsedAt: null,
      rehearsedBy: null,
    };
    await tx.insert(keyBackupTable).values(row);
    record.trail({ action: 'keys backed up', subject: 'key store', after: { keys: keys.length, ...by } });
  };
}

const list = handle(keyBackupApi.list, async ({ app, site }) => {
  const rows = await app.db
    .select()
    .from(keyBackupTable)
    .where(eq(keyBackupTable.siteId, site))
    .orderBy(desc(keyBackupTable.madeAt))
    .limit(50);
  return rows.map(({ siteId: _site, jwe: _jwe, madeAt, rehearsedAt, ...row }) => ({
    ...row,
    madeAt: madeAt.toISOString(),
    rehearsedAt: rehearsedAt?.toISOString() ?? null,
  }));
});

const file = handle(keyBackupApi.file, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    const own = and(eq(keyBackupTable.id, params.id!), eq(keyBackupTable.siteId, site));
    const [row] = await tx.select().from(keyBackupTable).where(own);
    if (!row) throw notFound('backup');
    record.trail({ action: 'backup downloaded', subject: 'key store', after: { madeAt: row.madeAt.toISOString() } });
    return { name: `keys-${row.madeAt.toISOString().slice(0, 10)}.jwe`, jwe: row.jwe };
  }),
);

/**
 * The keys of a file against those of the store: `by bytes` where the file is a backup that this store made, else by their
 * check values, which everybody sees. Whoever could have a file of their own making compared byte by byte could try keys
 * until one is the same, and a sector key has few enough of them.
 */
function compared(file: KeyFile, kept: Kept[], open: Open, how: 'by bytes' | 'by check value'): KeyFileReport {
  const here = new Map(kept.map((one) => [nameOf(one.set, one.key.name, one.row.version), one]));
  const keys = file.keys.map(({ set, name, version, kind, checkValue, bytes }) => {
    const one = here.get(nameOf(set, name, version));
    const same =
      one?.key.kind === kind &&
      (how === 'by bytes'
        ? Buffer.from(bytes).equals(keyOut(open, 'comparison with a backup', one.key, one.row))
        : one.row.checkValue === checkValue);
    const standing = one ? (same ? ('same' as const) : ('differs' as const)) : ('new' as const);
    return { set, name, version, kind, checkValue, standing };
  });
  const inFile = new Set(file.keys.map(({ set, name, version }) => nameOf(set, name, version)));
  return { site: file.site, madeAt: file.madeAt, keys, missing: [...here.keys()].filter((name) => !inFile.has(name)) };
}

interface Opening {
  jwe: string;
  first: Secret;
  second: Secret;
}

/** Opens a backup; wrong passphrases are counted and slow the next try down. */
const opened = (app: App, site: string, client: string, { jwe, first, second }: Opening): Promise<KeyFile> =>
  tryOnce(
    app.db,
    { name: `key backup ${site}`, client },
    () => decryptFile(jwe, passphraseOf(first.reveal(), second.reveal())),
    { what: 'passphrases' },
  );

const rehearse = handle(keyBackupApi.rehearse, async ({ app, operator, site, body, request }) => {
  const open = await app.vault.open(site);
  const found = await opened(app, site, clientOf(request), body);
  const own = and(eq(keyBackupTable.siteId, site), eq(keyBackupTable.jwe, body.jwe));
  const isOurs = (await app.db.$count(keyBackupTable, own)) > 0;
  const report = compared(found, await keptOf(app.db, site), open, isOurs ? 'by bytes' : 'by check value');
  // Each key goes into an envelope and out again, as a restore would have it.
  for (const key of found.keys) {
    const bound = ['rehearsal', key.set, key.name, String(key.version)];
    if (!isSameAgain(open, key.bytes, bound)) throw new Error('not the same');
    key.bytes.fill(0);
  }
  await change(app, operator, site, async (tx, record) => {
    const at = new Date();
    await tx.update(keyBackupTable).set({ rehearsedAt: at, rehearsedBy: operator.name }).where(own);
    record.trail({ action: 'backup rehearsed', subject: 'key store', after: countsOf(report) });
    record.announce('keys');
  });
  return report;
});

const countsOf = ({ keys, missing }: KeyFileReport) => ({
  keys: keys.length,
  new: keys.filter(({ standing }) => standing === 'new').length,
  differing: keys.filter(({ standing }) => standing === 'differs').length,
  missing: missing.length,
});

/** Takes in what the store has not; throws, and takes in nothing, where a key differs from the store's. */
export async function takeIn(app: App, who: Asking, site: string, found: KeyFile, origin: 'restored' | 'imported') {
  const open = await app.vault.open(site);
  return change(app, who, site, async (tx, record) => {
    const report = compared(found, await keptOf(tx, site), open, 'by check value');
    const differing = report.keys.find(({ standing }) => standing === 'differs');
    if (differing)
      throw conflict(
        'key-differs',
        `The store has another key as ${nameOf(differing.set, differing.name, differing.version)}. Nothing was taken in.`,
        'Find out which is the right one; give the other another name or version.',
      );
    const taking = found.keys.filter((_, i) => report.keys[i]!.standing === 'new');
    for (const key of taking) await takeOne(app, tx, open, who, site, key, origin);
    record.trail({
      action: origin === 'restored' ? 'keys restored' : 'keys imported',
      subject: 'key store',
      after: { ...countsOf(report), names: taking.slice(0, 100).map((k) => nameOf(k.set, k.name, k.version)) },
    });
    record.announce('keys');
    return report;
  });
}

async function takeOne(
  app: App,
  tx: Queryable,
  open: Open,
  who: Asking,
  site: string,
  key: FileKey,
  origin: 'restored' | 'imported',
): Promise<void> {
  const setId = await setCalled(tx, site, key.set);
  const named = and(eq(keyTable.setId, setId), eq(keyTable.name, key.name));
  let [row] = await tx.select().from(keyTable).where(named).for('update');
  if (row && row.kind !== key.kind)
    throw conflict('key-differs', `The store has ${key.set} / ${key.name} as a key of another kind.`);
  if (row) {
    const [facts] = await keyFacts(app, tx, site, [row.id]);
    if (facts?.mark !== 'holds') throw markProblem(facts!);
  }
  if (!row) {
    const { version, inUse, name, kind, purpose } = key;
    const about = { setId, name, kind, purpose, notes: '', version, validFrom: null, validTo: null };
    row = { ...newKeyRow(site, { ...about, allows: {}, comes: { how: 'made' } }), current: inUse ? version : null };
    await tx.insert(keyTable).values(row);
    // What it may be used for is in no file: it is agreed to anew.
    await writeUse(open, tx, row, newUse(kind));
  } else if (row.current === null || key.inUse)
    await tx
      .update(keyTable)
      .set({ current: row.current ?? key.version })
      .where(named);
  const begun = { version: key.version, validFrom: null, validTo: null };
  const { keyId, ...fields } = versionRow(open, row, begun, origin, key.bytes, who);
  const replaced = { ...fields, destroyedAt: null, parts: 0 };
  const own = and(eq(keyVersionTable.keyId, keyId), eq(keyVersionTable.version, key.version));
  const [there] = await tx.select().from(keyVersionTable).where(own).for('update');
  // The database takes names for one that differ in capitals or accents alone.
  if (there?.envelope)
    throw conflict('key-differs', `The store has ${nameOf(key.set, key.name, key.version)} under a name much like it.`);
  // A version that was destroyed, or still waits, comes back by its file.
  if (there) await tx.update(keyVersionTable).set(replaced).where(own);
  else await tx.insert(keyVersionTable).values({ keyId, ...replaced });
  if (!givesBack(open, fields.envelope!, boundOf(row, key.version), key.bytes))
    throw new Error('an envelope does not give its key back');
  await markKey(app, tx, site, row.id);
}

async function setCalled(tx: Queryable, site: string, name: string): Promise<string> {
  const own = and(eq(keySetTable.siteId, site), eq(keySetTable.name, name));
  await tx.insert(keySetTable).ignore().values({ id: newId(), siteId: site, name, notes: '', createdAt: new Date() });
  const [row] = await tx.select({ id: keySetTable.id }).from(keySetTable).where(own);
  return row!.id;
}

const restore = handle(keyBackupApi.restore, async ({ app, operator, site, body, request }) => {
  await app.vault.open(site);
  return takeIn(app, operator, site, await opened(app, site, clientOf(request), body), 'restored');
});

const importKeys = handle(keyApi.import, ({ app, operator, site, body }) =>
  takeIn(app, operator, site, readKeyFile(body.text), 'imported'),
);

export const backupRoutes = [list, file, rehearse, restore, importKeys];
