/**
 * New uses of keys that wait for a custodian: a plan that exposes its keys otherwise than before, a host over whose pads they
 * have not gone, a reader that has none of them; and what only custodians ask for: a wider use, or a key or plan accepted as
 * it stands. Who asked never agrees, nor whoever wrote the plan. What is agreed to is what was shown, or nothing.
 */
import { createHash } from 'node:crypto';
import type { ChipPlan, KeyUseRequest } from '@rawbits/api';
import { canonicalJson } from '@rawbits/core/access';
import { keyNamesOf } from '@rawbits/core/plan';
import { and, asc, eq } from 'drizzle-orm';
import { z } from 'zod';
import type { HostRow } from '../../devices/tables.ts';
import { newId, type Queryable } from '../../platform/database/index.ts';
import type { App, Asking } from '../../platform/http/app.ts';
import { markRow, marksOf } from '../../platform/marks/index.ts';
import { change, type Record } from '../../platform/trail/change.ts';
import { isSamePerson } from './people.ts';
import { exposureOf, type KeyInPlan, type PlanAt } from './planKeys.ts';
import { calledIn } from './rows.ts';
import { keyUseRequestTable } from './tables.ts';

export type RequestRow = typeof keyUseRequestTable.$inferSelect;

const keysSchema = z.array(z.object({ id: z.string(), called: z.string(), places: z.array(z.string()) }));
const reachSchema = z.array(z.object({ key: z.string(), can: z.array(z.string()) }));
const hostSchema = z.object({ id: z.string(), name: z.string() });
const ofPlan = {
  planId: z.string(),
  plan: z.string(),
  version: z.number(),
  exposure: z.string(),
  madeBy: z.string(),
  keys: keysSchema,
  reach: reachSchema,
  /** What else whoever agrees has to know. */
  notes: z.array(z.string()),
};
/** What exactly is asked for. */
export const aboutSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('plan'), ...ofPlan, hosts: z.array(hostSchema) }),
  z.object({
    kind: z.literal('reader'),
    ...ofPlan,
    reader: z.object({ id: z.string(), name: z.string(), device: z.string() }),
    host: hostSchema,
  }),
  z.object({
    kind: z.literal('widen'),
    keyId: z.string(),
    called: z.string(),
    asItIs: z.boolean(),
    toReaders: z.boolean(),
  }),
  z.object({
    kind: z.literal('accept'),
    what: z.enum(['key', 'plan']),
    id: z.string(),
    called: z.string(),
    stands: z.array(z.string()),
  }),
]);
export type About = z.output<typeof aboutSchema>;

export type Reach = z.output<typeof reachSchema>;
const most = 40;
/** What whoever has one of the keys can do to a card of a plan, a key after the other; worked out beside the thread that answers. */
export async function reachOfKeys(app: App, plan: ChipPlan): Promise<Reach> {
  const all = await app.workers.run('reachOfKeys', { plan, names: keyNamesOf(plan) });
  return all.map(({ key, can }) => ({
    key,
    can: can.length > most ? [...can.slice(0, most), `… and ${can.length - most} more`] : can,
  }));
}

const UNMARKED =
  'This plan has no mark yet: it was saved by an earlier version of Raw Bits, or its mark was taken out of the database.';

const partOfPlan = (at: PlanAt, keys: readonly KeyInPlan[], reach: Reach) => ({
  planId: at.planId,
  plan: at.name,
  version: at.version,
  exposure: exposureOf(at.definition),
  madeBy: at.madeBy,
  keys: keys.map(({ facts, places }) => ({
    id: facts.key.id,
    called: calledIn(facts.key.set, facts.key.name),
    places: places.map(
      ({ place, asItIs }) => `${place}, ${asItIs ? 'the same on every card' : 'a different key on each card'}`,
    ),
  })),
  reach: reach.filter(({ key }) => keys.some(({ name }) => name === key)),
  notes: at.isMarked ? [] : [UNMARKED],
});

const hostOf = ({ id, name }: HostRow) => ({ id, name });
export const aboutPlan = (at: PlanAt, keys: readonly KeyInPlan[], hosts: readonly HostRow[], reach: Reach) =>
  ({
    kind: 'plan',
    ...partOfPlan(at, keys, reach),
    hosts: hosts.map(hostOf).sort((a, b) => (a.id < b.id ? -1 : 1)),
  }) satisfies About;

export const aboutReader = (
  at: PlanAt,
  keys: readonly KeyInPlan[],
  reader: { id: string; name: string; device: string },
  host: HostRow,
  reach: Reach,
) =>
  ({
    kind: 'reader',
    ...partOfPlan(at, keys, reach),
    reader: { id: reader.id, name: reader.name, device: reader.device },
    host: hostOf(host),
  }) satisfies About;

const listed = (names: readonly string[]): string => names.join(', ');

export function inWords(about: About): string {
  switch (about.kind) {
    case 'plan':
      return `Use keys by plan ${about.plan}, version ${about.version}: ${listed(about.keys.map(({ called }) => called))}`;
    case 'reader':
      return `Give reader ${about.reader.name} the ${listed(about.keys.map(({ called }) => called))}, by plan ${about.plan}, version ${about.version}`;
    case 'widen':
      return `Allow more for the ${about.called}: ${listed([...(about.asItIs ? ['the same key on every card'] : []), ...(about.toReaders ? ['in readers'] : [])])}`;
    case 'accept':
      return `Accept the ${about.called} as it is now`;
  }
}

const markOfRequest = ({ id, about, askedById, askedBy, state }: RequestRow) => ({
  rowId: id,
  content: [about, askedById, askedBy, state],
});

/** Settles a request that waits, and marks it as settled: put back as it was, it is none any more. */
export async function settleRequest(
  app: App,
  tx: Queryable,
  row: RequestRow,
  state: 'agreed' | 'refused',
  settledBy: string,
): Promise<void> {
  await tx
    .update(keyUseRequestTable)
    .set({ state, settledBy, settledAt: new Date() })
    .where(eq(keyUseRequestTable.id, row.id));
  await markRow(app, tx, row.siteId, { kind: 'key use request', ...markOfRequest({ ...row, state }) });
}

/** Of what is shown of a request. */
export const digestOf = ({ about }: Pick<RequestRow, 'about'>): string =>
  createHash('sha256').update(canonicalJson(about)).digest('hex');

/** Why somebody may not be the one who agrees; null where they may. */
export function notWhoAgrees(row: RequestRow, who: { id: string; name: string }): string | null {
  if (isSamePerson({ id: row.askedById, name: row.askedBy }, who)) return 'You asked for it yourself.';
  const about = aboutSchema.parse(row.about);
  if ('madeBy' in about && isSamePerson({ id: '', name: about.madeBy }, who)) return 'You wrote this plan.';
  return null;
}

export function describeRequest(row: RequestRow, asking: { id: string; name: string }): KeyUseRequest {
  const about = aboutSchema.parse(row.about);
  return {
    id: row.id,
    kind: about.kind,
    what: row.what,
    exposure: exposureIn(about),
    reach: 'reach' in about ? about.reach : [],
    notes: 'notes' in about ? about.notes : [],
    hosts: hostsIn(about),
    askedBy: row.askedBy,
    askedAt: row.askedAt.toISOString(),
    notYou: notWhoAgrees(row, asking),
    digest: digestOf(row),
  };
}

function exposureIn(about: About): KeyUseRequest['exposure'] {
  const given =
    about.kind === 'reader'
      ? [`in the reader ${about.reader.name}, the key itself: the keys of all cards can be made from it`]
      : [];
  if ('keys' in about) return about.keys.map(({ called, places }) => ({ key: called, places: [...given, ...places] }));
  const wider = about.kind === 'widen' && [
    ...(about.asItIs ? ['the same key may be on every card'] : []),
    ...(about.toReaders ? ['readers may have it'] : []),
  ];
  return [{ key: about.called, places: about.kind === 'accept' ? about.stands : wider || [] }];
}

function hostsIn(about: About): string[] {
  if (about.kind === 'plan') return about.hosts.map(({ name }) => name);
  return about.kind === 'reader' ? [about.host.name] : [];
}

/** Those that wait, and are as they were asked for. */
export async function openRequests(app: App, db: Queryable, site: string): Promise<RequestRow[]> {
  const rows = await db
    .select()
    .from(keyUseRequestTable)
    .where(and(eq(keyUseRequestTable.siteId, site), eq(keyUseRequestTable.state, 'open')))
    .orderBy(asc(keyUseRequestTable.askedAt))
    .limit(500);
  const marks = await marksOf(app, db, 'key use request', rows.map(markOfRequest));
  return rows.filter(({ id, about }) => marks.get(id) === 'holds' && aboutSchema.safeParse(about).success);
}

/** Whether a request asks for all of another: for the same, over as many hosts or more. */
function covers(there: About, about: About): boolean {
  if (there.kind !== 'plan' || about.kind !== 'plan') return canonicalJson(there) === canonicalJson(about);
  const hosts = there.hosts.map(({ id }) => id);
  return (
    about.hosts.every(({ id }) => hosts.includes(id)) &&
    canonicalJson({ ...there, hosts: [] }) === canonicalJson({ ...about, hosts: [] })
  );
}

/** Puts a request down, in the transaction of what it is part of; the same that waits already is left as it is. */
export async function putRequest(
  app: App,
  tx: Queryable,
  record: Record,
  who: { id: string; name: string },
  site: string,
  about: About,
): Promise<RequestRow> {
  const there = (await openRequests(app, tx, site)).find((row) => covers(aboutSchema.parse(row.about), about));
  if (there) return there;
  const row: RequestRow = {
    id: newId(),
    siteId: site,
    kind: about.kind,
    what: inWords(about).slice(0, 400),
    about,
    state: 'open',
    askedById: who.id,
    askedBy: who.name,
    askedAt: new Date(),
    settledBy: null,
    settledAt: null,
  };
  await tx.insert(keyUseRequestTable).values(row);
  await markRow(app, tx, site, { kind: 'key use request', ...markOfRequest(row) });
  record.trail({ action: 'use of keys asked for', subject: row.what });
  record.announce('keys');
  return row;
}

/** Drops what waits for a plan that was removed, or saved anew. */
export async function dropRequestsOf(app: App, tx: Queryable, site: string, planId: string): Promise<void> {
  for (const row of await openRequests(app, tx, site)) {
    const asked = aboutSchema.parse(row.about);
    if ('planId' in asked && asked.planId === planId)
      await settleRequest(app, tx, row, 'refused', 'the plan was changed');
  }
}

/** Asks for a new use of keys by itself, where it was refused because nobody agreed to it yet. */
export const askForUse = (app: App, who: Asking, site: string, about: About): Promise<RequestRow> =>
  change(app, { id: who.id, name: who.name }, site, (tx, record) => putRequest(app, tx, record, who, site, about));
