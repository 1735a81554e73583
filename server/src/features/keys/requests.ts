/**
 * What takes two custodians: one asks, with a reason; another agrees at their own sign-in. A key that was agreed on is
 * shown to whoever asked, once and within minutes. Everything stands in the trail.
 */
import { type KeyRequest, keyRequestApi, type newKeyRequestSchema } from '@rawbits/api';
import type { Secret } from '@rawbits/core/secret';
import { and, asc, eq, inArray, not } from 'drizzle-orm';
import type { z } from 'zod';
import { endsWithin, newId, type Queryable } from '../../platform/database/index.ts';
import { type App, type Asking, handle } from '../../platform/http/app.ts';
import { markRow, marksOf } from '../../platform/marks/index.ts';
import { conflict, forbidden, invalid, notFound } from '../../platform/problem/problem.ts';
import { checkPassword } from '../../platform/session/passwordRules.ts';
import { may, rolesOf } from '../../platform/session/sessions.ts';
import { change, type Record } from '../../platform/trail/change.ts';
import type { Bound, Open } from '../../platform/vault/index.ts';
import { makeBackup } from './backup.ts';
import { stateOf } from './describe.ts';
import { keyOut, partOut } from './door.ts';
import { forgetAll } from './forget.ts';
import { noteHolding } from './holdings.ts';
import { isSamePerson } from './people.ts';
import { calledIn, holdKey, readyVersionOf, versionOf } from './rows.ts';
import { type About, aboutOf, checkRecipient, isPublicKey, sealFor, sealInWords } from './seal.ts';
import { keyRequestTable, keyTable, keyVersionTable } from './tables.ts';
import { changeKey, holdKeyAsSaved } from './use.ts';

type Row = typeof keyRequestTable.$inferSelect;
type Asked = z.output<typeof newKeyRequestSchema>;

const GOOD_FOR_MS = 24 * 3_600_000;
const SEEN_WITHIN_MS = 15 * 60_000;

const describe = (row: Row, asking: { id: string }): KeyRequest => ({
  id: row.id,
  kind: row.kind as KeyRequest['kind'],
  what: row.what,
  reason: row.reason,
  askedBy: row.askedBy,
  askedAt: row.askedAt.toISOString(),
  endsAt: row.endsAt.toISOString(),
  state: row.state as KeyRequest['state'],
  agreedBy: row.agreedBy,
  mine: row.askedById === asking.id,
});

const isOpen = (siteId: string) =>
  and(
    eq(keyRequestTable.siteId, siteId),
    inArray(keyRequestTable.state, ['open', 'agreed']),
    endsWithin(keyRequestTable.endsAt, GOOD_FOR_MS),
  );

/** A passphrase, or a part of one, that waits for a second custodian. */
const partOf = (id: string): Bound => ['part of a backup’s passphrase', id];

const list = handle(keyRequestApi.list, async ({ app, operator, site }) =>
  (await app.db.select().from(keyRequestTable).where(isOpen(site)).orderBy(asc(keyRequestTable.askedAt))).map((row) =>
    describe(row, operator),
  ),
);

async function inWords(tx: Queryable, site: string, asked: Asked): Promise<string> {
  if (asked.kind === 'backup') return 'Make a backup of all keys';
  if (asked.kind === 'seal') return sealInWords(tx, site, asked);
  if (asked.kind === 'abandon') return 'Give the key store up, with every key in it';
  const key = await holdKey(tx, site, asked.keyId);
  const called = calledIn(key.set, key.name, asked.version);
  if (asked.kind === 'uncover') {
    await readyVersionOf(tx, key.id, asked.version);
    return `Uncover ${called}`;
  }
  const row = await versionOf(tx, key.id, asked.version);
  if (stateOf(row) === 'destroyed') throw conflict('destroyed', 'This version was destroyed already.');
  if (key.current === asked.version && !key.retiredAt)
    throw conflict('in-use', 'This version is in use.', 'Put another version in use, or retire the key first.');
  return `Destroy ${called}`;
}

const ask = handle(keyRequestApi.ask, async ({ app, operator, site, body }) => {
  const id = newId();
  if (body.kind === 'uncover' || body.kind === 'seal') await app.vault.open(site);
  if (body.kind === 'seal' && isPublicKey(body.recipient)) await checkRecipient(body.recipient);
  const passphrase = passphraseIn(body);
  const sealed = passphrase && (await sealPart(app, operator, site, id, passphrase));
  return change(app, operator, site, async (tx, record) => {
    const now = new Date();
    const row: Row = {
      id,
      siteId: site,
      kind: body.kind,
      keyId: 'keyId' in body ? body.keyId : null,
      version: 'version' in body ? body.version : null,
      what: (await inWords(tx, site, body)).slice(0, 400),
      reason: body.reason,
      sealed,
      about: body.kind === 'seal' ? aboutOf(body) : null,
      state: 'open',
      askedById: operator.id,
      askedBy: operator.name,
      askedAt: now,
      agreedBy: null,
      endsAt: new Date(now.getTime() + GOOD_FOR_MS),
    };
    await tx.insert(keyRequestTable).values(row);
    await markRow(app, tx, site, { kind: 'key request', ...markOf(row) });
    record.trail({ action: 'second custodian asked for', subject: row.what, after: { reason: body.reason } });
    record.announce('keys');
    return describe(row, operator);
  });
});

/** What of a request is a secret until somebody agrees. */
function passphraseIn(asked: Asked): { field: string; value: Secret } | null {
  if (asked.kind === 'backup') return { field: 'part', value: asked.part };
  if (asked.kind !== 'seal' || isPublicKey(asked.recipient)) return null;
  return { field: 'recipient.passphrase', value: asked.recipient.passphrase };
}

async function sealPart(
  app: App,
  operator: Asking,
  site: string,
  id: string,
  { field, value: part }: { field: string; value: Secret },
): Promise<string> {
  checkPassword(part, operator, field);
  const open = await app.vault.open(site);
  return open.seal(Buffer.from(part.reveal().normalize('NFC'), 'utf8'), partOf(id));
}

/** Takes a request in one state to another, for this call alone. */
async function settle(
  app: App,
  tx: Queryable,
  site: string,
  id: string,
  from: string[],
  to: Partial<Row>,
): Promise<Row> {
  const own = and(eq(keyRequestTable.id, id), isOpen(site), inArray(keyRequestTable.state, from));
  const [row] = await tx.select().from(keyRequestTable).where(own).for('update');
  // One that was made up, agreed to or put back in the database is none.
  const isOurs = row && (await marksOf(app, tx, 'key request', [markOf(row)])).get(id) === 'holds';
  const [taken] = isOurs ? await tx.update(keyRequestTable).set(to).where(own) : [];
  if (!row || taken?.affectedRows !== 1) throw notFound('request for a second custodian');
  await markRow(app, tx, site, { kind: 'key request', ...markOf({ ...row, ...to }) });
  return row;
}

/** What of a request says who asked for what and who agreed. */
const markOf = ({ id, kind, keyId, version, state, askedById, askedBy, agreedBy, about, sealed }: Row) => ({
  rowId: id,
  content: [kind, keyId, version, state, askedById, askedBy, agreedBy, about, sealed],
});

const agree = handle(keyRequestApi.agree, async ({ app, operator, site, params, body }) => {
  const [asked] = await app.db
    .select()
    .from(keyRequestTable)
    .where(and(eq(keyRequestTable.id, params.id!), isOpen(site)));
  const needsOpen = asked?.kind === 'backup' || asked?.kind === 'uncover' || asked?.kind === 'seal';
  if (asked?.kind === 'backup') {
    if (!body.part) throw invalid('part', 'Give the second part of the passphrase.');
    checkPassword(body.part, operator, 'part');
  }
  const open = needsOpen ? await app.vault.open(site) : undefined;
  const backup =
    asked?.kind === 'backup' && asked.askedById !== operator.id && asked.sealed && open
      ? await makeBackup(app, site, open, firstPart(open, asked), body.part!.reveal().normalize('NFC'))
      : undefined;
  await change(app, operator, site, async (tx, record) => {
    const uncovers = asked?.kind === 'uncover' || asked?.kind === 'seal';
    const row = await settle(app, tx, site, params.id!, ['open'], {
      state: uncovers ? 'agreed' : 'done',
      agreedBy: operator.name,
      ...(asked?.kind !== 'seal' && { sealed: null }),
      ...(uncovers && { endsAt: new Date(Date.now() + SEEN_WITHIN_MS) }),
    });
    if (isSamePerson({ id: row.askedById, name: row.askedBy }, operator))
      throw forbidden('You asked for it yourself.', 'Another key custodian has to agree, at their own sign-in.');
    const roles = await rolesOf(tx, row.askedById);
    if (!may({ id: row.askedById, name: row.askedBy, roles }, site, 'hold keys'))
      throw conflict('asker-gone', `${row.askedBy} is no key custodian here any more.`, 'Ask for it anew.');
    record.trail({ action: 'agreed', subject: row.what, after: { askedBy: row.askedBy, reason: row.reason } });
    record.announce('keys');
    if (row.kind === 'destroy') await destroy(app, tx, record, site, row);
    if (row.kind === 'abandon') await abandon(app, tx, record, site);
    if (row.kind === 'backup') {
      if (!backup) throw notFound('request for a second custodian');
      await backup(tx, record, { firstBy: row.askedBy, secondBy: operator.name });
    }
  });
  return {};
});

const firstPart = (open: Open, { sealed, id }: Row): string =>
  Buffer.from(partOut(open, 'passphrase of a request', sealed!, partOf(id))).toString('utf8');

async function destroy(app: App, tx: Queryable, record: Record, site: string, { keyId, version }: Row): Promise<void> {
  await changeKey(app, tx, site, keyId!, async (key) => {
    if (key.current === version && !key.retiredAt)
      throw conflict('in-use', 'This version has been put in use since.', 'Put another version in use first.');
    const of = and(eq(keyVersionTable.keyId, key.id), eq(keyVersionTable.version, version!));
    await tx.update(keyVersionTable).set({ envelope: null, destroyedAt: new Date() }).where(of);
    if (key.current === version) await tx.update(keyTable).set({ current: null }).where(eq(keyTable.id, key.id));
    record.trail({ action: 'key version destroyed', subject: calledIn(key.set, key.name, version!) });
  });
}

async function abandon(app: App, tx: Queryable, record: Record, site: string): Promise<void> {
  await app.vault.giveUp(tx, site);
  await forgetAll(tx, site);
  record.trail({ action: 'key store given up', subject: 'key store' });
}

const refuse = handle(keyRequestApi.refuse, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    const row = await settle(app, tx, site, params.id!, ['open', 'agreed'], {
      state: 'refused',
      sealed: null,
      about: null,
    });
    const action = operator.id === row.askedById ? 'request taken back' : 'refused';
    record.trail({ action, subject: row.what, after: { askedBy: row.askedBy } });
    record.announce('keys');
    return {};
  }),
);

const see = handle(keyRequestApi.see, async ({ app, operator, site, params }) => {
  const open = await app.vault.open(site);
  return change(app, operator, site, async (tx, record) => {
    const asked = await settle(app, tx, site, params.id!, ['agreed'], { state: 'done' });
    if (asked.askedById !== operator.id)
      throw forbidden(`${asked.askedBy} asked for it.`, 'It is shown to them alone.');
    const key = await holdKeyAsSaved(app, tx, site, asked.keyId!);
    const row = await readyVersionOf(tx, key.id, asked.version!);
    const hex = Buffer.from(keyOut(open, 'revealed', key, row))
      .toString('hex')
      .toUpperCase();
    const called = calledIn(key.set, key.name, row.version);
    const { id: holderId, name: holder } = operator;
    await noteHolding(tx, key, row.version, { kind: 'person', holderId, holder, what: 'whole', how: 'saw it' });
    record.trail({
      action: 'key uncovered',
      subject: called,
      after: { reason: asked.reason, agreedBy: asked.agreedBy },
    });
    record.announce('keys');
    return { name: `${key.set} / ${key.name}`, version: row.version, hex };
  });
});

const sealed = handle(keyRequestApi.sealed, async ({ app, operator, site, params }) => {
  const open = await app.vault.open(site);
  return change(app, operator, site, async (tx, record) => {
    const asked = await settle(app, tx, site, params.id!, ['agreed'], { state: 'done', about: null, sealed: null });
    if (asked.askedById !== operator.id || asked.kind !== 'seal')
      throw forbidden(`${asked.askedBy} asked for it.`, 'It is given to them alone.');
    const about = asked.about as About;
    const passphrase =
      asked.sealed === null ? null : partOut(open, 'passphrase of a request', asked.sealed, partOf(asked.id));
    const jwe = await sealFor(app, tx, open, site, about, passphrase);
    record.trail({
      action: 'keys sealed for a partner',
      subject: `partner ${about.partner}`,
      after: { keys: about.keys, reason: asked.reason, agreedBy: asked.agreedBy },
    });
    record.announce('keys');
    return { name: `${about.partner}.jwe`, jwe };
  });
});

/** Forgets what was asked for where nobody agreed in time. */
export const forgetUnanswered = (db: Queryable) =>
  db
    .update(keyRequestTable)
    .set({ state: 'refused', sealed: null, about: null })
    .where(
      and(inArray(keyRequestTable.state, ['open', 'agreed']), not(endsWithin(keyRequestTable.endsAt, GOOD_FOR_MS)!)),
    );

export const requestRoutes = [list, ask, agree, refuse, see, sealed];
