/**
 * What a key may be used for: the plans, readers and hosts that custodians agreed to, only made for each card or also as it
 * is, to readers or not. It is sealed under the store key; together with the versions of the key and the one in use it has a
 * mark (`platform/marks`), so that what was changed outside Raw Bits, or put back from an older copy, is found.
 */
import { createHash, timingSafeEqual } from 'node:crypto';
import { canonicalJson } from '@rawbits/core/access';
import { and, eq, inArray } from 'drizzle-orm';
import { z } from 'zod';
import { inSnapshot, type Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { type Mark, markRow, marksOf } from '../../platform/marks/index.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import type { Bound, Open } from '../../platform/vault/index.ts';
import { type KeyRow, stateOf, type VersionRow } from './describe.ts';
import { digestIn } from './door.ts';
import { calledIn, holdKey } from './rows.ts';
import { keySetTable, keyTable, keyUseTable, keyVersionTable } from './tables.ts';

const agreed = { by: z.string(), at: z.iso.datetime() };
export const keyUseSchema = z.strictObject({
  /** Whether it may be put on cards as it is, the same on all; otherwise only what is made from it for a card. */
  asItIs: z.boolean(),
  toReaders: z.boolean(),
  /** By the part of a plan that decides what its keys are exposed to (`exposingPart`): SHA-256 in hex. */
  plans: z.array(
    z.strictObject({
      planId: z.string(),
      plan: z.string(),
      exposure: z.string(),
      version: z.number(),
      /** Whether it rules whole cards there: then it never goes to readers. */
      isCardMaster: z.boolean(),
      ...agreed,
    }),
  ),
  /** A reader by its row, its device and the host that offers it: another of the same name is another. */
  readers: z.array(
    z.strictObject({
      readerId: z.string(),
      reader: z.string(),
      device: z.string(),
      hostId: z.string(),
      host: z.string(),
      ...agreed,
    }),
  ),
  /** Hosts over whose pads it goes to cards. */
  hosts: z.array(z.strictObject({ hostId: z.string(), host: z.string(), ...agreed })),
});
export type KeyUse = z.output<typeof keyUseSchema>;

/** As a key begins: for nothing yet. Keys of kinds that no card key is made from can only be used as they are. */
export const newUse = (kind: string, allows: { asItIs?: boolean; toReaders?: boolean } = {}): KeyUse => ({
  asItIs: allows.asItIs ?? (kind === 'sector' || kind === 'tag'),
  toReaders: allows.toReaders ?? false,
  plans: [],
  readers: [],
  hosts: [],
});

type Held = KeyRow & { set: string };
export interface KeyFacts {
  key: Held;
  /** Those that there is a key in. */
  ready: VersionRow[];
  use: KeyUse;
  /** The row that the use stands in; undefined for a key from before keys had one. */
  row: typeof keyUseTable.$inferSelect | undefined;
  /** Whether all of it is as Raw Bits wrote it. */
  mark: 'holds' | 'differs' | 'none';
}

const sha256 = (text: string): string => createHash('sha256').update(text).digest('hex');
const boundOfUse = ({ setId, id, name, kind, purpose }: KeyRow): Bound => ['use', setId, id, name, kind, purpose];
const digestOf = (use: unknown): Buffer => createHash('sha256').update(canonicalJson(use)).digest();

/** Everything of a key that decides where it goes. */
const contentOf = (key: Held, versions: readonly VersionRow[], row: KeyFacts['row']): Omit<Mark, 'kind'> => ({
  rowId: key.id,
  content: {
    names: [key.siteId, key.setId, key.set, key.name, key.kind, key.purpose],
    current: key.current,
    isRetired: key.retiredAt !== null,
    versions: versions
      .toSorted((a, b) => a.version - b.version)
      .map((version) => {
        const state = stateOf(version);
        return [version.version, state === 'ready' ? sha256(version.envelope!) : state, version.checkValue];
      }),
    use: row ? [digestOf(row.use).toString('hex'), row.sealed] : null,
  },
});

interface Loaded {
  key: Held;
  versions: VersionRow[];
  row: KeyFacts['row'];
}

/** Keys of a site with their versions and uses, or some of them: three statements. */
async function load(db: Queryable, site: string, only?: readonly string[]): Promise<Loaded[]> {
  if (only?.length === 0) return [];
  const of = <T extends typeof keyTable.id | typeof keyVersionTable.keyId | typeof keyUseTable.keyId>(column: T) =>
    only === undefined ? undefined : inArray(column, [...only]);
  const keys = await db
    .select({ key: keyTable, set: keySetTable.name })
    .from(keyTable)
    .innerJoin(keySetTable, eq(keySetTable.id, keyTable.setId))
    .where(and(eq(keyTable.siteId, site), of(keyTable.id)));
  const versions = await db
    .select()
    .from(keyVersionTable)
    .where(and(eq(keyVersionTable.siteId, site), of(keyVersionTable.keyId)));
  const uses = await db
    .select()
    .from(keyUseTable)
    .where(and(eq(keyUseTable.siteId, site), of(keyUseTable.keyId)));
  return keys.map(({ key, set }) => ({
    key: { ...key, set },
    versions: versions.filter(({ keyId }) => keyId === key.id),
    row: uses.find(({ keyId }) => keyId === key.id),
  }));
}

/** What is being saved at this moment reads as changed for a moment: then it is read again. */
const TRIES = 4;
const AGAIN_MS = 40;
const CHANGED = ['key-changed', 'plan-changed', 'host-changed'];

/** Reads something whose marks are checked; again where it was being saved just then. Throws what stays so. */
export async function steadily<T>(work: () => Promise<T>): Promise<T> {
  for (let tries = 1; ; tries++) {
    try {
      return await work();
    } catch (error) {
      if (tries === TRIES || !CHANGED.includes((error as { code?: string }).code ?? '')) throw error;
      await new Promise((resolve) => setTimeout(resolve, AGAIN_MS * tries));
    }
  }
}

type Marking = Pick<App, 'trail' | 'db'>;

/**
 * What is known of the keys of a site, or of some of them: four statements, whatever their number. Outside of a transaction it is
 * read as of one moment: a key that is being changed would read as one that was changed in the database.
 */
export const keyFacts = (app: Marking, db: Queryable, site: string, only?: readonly string[]): Promise<KeyFacts[]> =>
  db === app.db ? inSnapshot(app.db, (tx) => factsNow(app, tx, site, only)) : factsNow(app, db, site, only);

async function factsNow(app: Marking, db: Queryable, site: string, only?: readonly string[]): Promise<KeyFacts[]> {
  const all = await load(db, site, only);
  const marks = await marksOf(
    app,
    db,
    'key',
    all.map(({ key, versions, row }) => contentOf(key, versions, row)),
  );
  return all.map(({ key, versions, row }): KeyFacts => {
    const use = row && keyUseSchema.safeParse(row.use).data;
    const mark = marks.get(key.id) ?? 'none';
    return {
      key,
      ready: versions.filter((version) => stateOf(version) === 'ready'),
      use: use ?? newUse(key.kind),
      row,
      mark: mark === 'holds' && !use ? 'none' : mark,
    };
  });
}

/** What to say of a key whose mark does not hold. */
export function markProblem({ key, mark }: Pick<KeyFacts, 'key' | 'mark'>) {
  const called = calledIn(key.set, key.name);
  const hint = 'Two key custodians check it and accept it as it is now, on the screen Keys.';
  if (mark === 'none')
    return conflict('key-not-accepted', `The ${called} has no record of what it may be used for.`, hint);
  return conflict(
    'key-changed',
    `The ${called} is not as Raw Bits saved it: its versions, the version in use, or what it may be used for were changed in the database, or restored from an older copy.`,
    `Check who can write to the database. ${hint}`,
  );
}

/** The use of a key, where the store key agrees that it was written with the store open; throws `key-changed` otherwise. */
export function checkedUse(open: Open, facts: KeyFacts): KeyUse {
  if (facts.mark !== 'holds' || !facts.row) throw markProblem(facts);
  const sealed = digestIn(open, facts.row.sealed, boundOfUse(facts.key));
  const wanted = digestOf(facts.row.use);
  if (sealed.length !== wanted.length || !timingSafeEqual(sealed, wanted))
    throw markProblem({ key: facts.key, mark: 'differs' });
  return facts.use;
}

/** Writes what a key may be used for. Its mark is written by whoever changes the key (`markKey`). */
export async function writeUse(open: Open, tx: Queryable, key: KeyRow, use: KeyUse): Promise<void> {
  const row = { siteId: key.siteId, use, sealed: open.seal(digestOf(use), boundOfUse(key)) };
  await tx
    .insert(keyUseTable)
    .values({ keyId: key.id, ...row })
    .onDuplicateKeyUpdate({ set: row });
}

/** Marks a key as it is now, in the transaction that wrote it. */
export async function markKey(app: Marking, tx: Queryable, site: string, id: string): Promise<void> {
  const [one] = await load(tx, site, [id]);
  if (!one) return;
  await markRow(app, tx, site, { kind: 'key', ...contentOf(one.key, one.versions, one.row) });
}

/** A key that is as Raw Bits wrote it, held until the change is committed. Throws `key-changed`, `key-not-accepted`. */
export async function holdKeyAsSaved(app: Marking, tx: Queryable, site: string, id: string): Promise<Held> {
  const key = await holdKey(tx, site, id);
  const [facts] = await keyFacts(app, tx, site, [id]);
  if (!facts) throw notFound('key');
  if (facts.mark !== 'holds') throw markProblem(facts);
  return key;
}

/** Changes a key that is as Raw Bits wrote it, and marks it as it is then. Throws `key-changed`, `key-not-accepted`. */
export async function changeKey<T>(
  app: Marking,
  tx: Queryable,
  site: string,
  id: string,
  work: (key: Held, facts: KeyFacts) => Promise<T>,
): Promise<T> {
  const key = await holdKey(tx, site, id);
  const [facts] = await keyFacts(app, tx, site, [id]);
  if (!facts) throw notFound('key');
  if (facts.mark !== 'holds') throw markProblem(facts);
  const result = await work(key, facts);
  await markKey(app, tx, site, id);
  return result;
}
