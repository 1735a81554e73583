/** What an agreement does: the uses of keys that it adds, and the marks of what is accepted with it. */
import { and, eq, isNull } from 'drizzle-orm';
import { hostMark } from '../../devices/offering.ts';
import { deviceHostTable } from '../../devices/tables.ts';
import type { Queryable } from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { markRow, marksOf } from '../../platform/marks/index.ts';
import { conflict, notFound } from '../../platform/problem/problem.ts';
import type { Open } from '../../platform/vault/index.ts';
import { readerTable } from '../doors/index.ts';
import {
  type About,
  calledIn,
  changeKey,
  checkedUse,
  exposureOf,
  type KeyUse,
  keyFacts,
  keysInPlan,
  markKey,
  markOfPlan,
  markOfVersion,
  neverFor,
  type PlanAt,
  writeUse,
} from '../keys/index.ts';
import { findPlan, planAtVersion, versionsOfPlan } from '../plans/index.ts';

type OfPlan = Extract<About, { kind: 'plan' | 'reader' }>;
type Who = { name: string };

const otherwise = (what: string) =>
  conflict(
    'changed-meanwhile',
    `${what} is not as it was when this was asked for.`,
    'Refuse it, and ask for it again.',
  );

/** The plan as it was shown: in the same text, as far as its keys go, and with the same keys of the store. */
async function planShown(app: App, tx: Queryable, site: string, about: OfPlan): Promise<PlanAt> {
  const plan = await findPlan(tx, site, about.planId);
  const at = await planAtVersion(app, tx, plan, about.version);
  const marks = {
    version: await marksOf(app, tx, 'plan version', [markOfVersion(at)]),
    plan: await marksOf(app, tx, 'plan', [markOfPlan(at)]),
  };
  const [version] = marks.version.values();
  const [head] = marks.plan.values();
  if (version === 'differs' || head === 'differs' || exposureOf(at.definition) !== about.exposure)
    throw otherwise(`The plan "${about.plan}"`);
  if (version === 'none') await markRow(app, tx, site, { kind: 'plan version', ...markOfVersion(at) });
  if (head === 'none') await markRow(app, tx, site, { kind: 'plan', ...markOfPlan(at) });
  return at;
}

/** A host that is as it was added; one from before hosts had marks gets its own. */
async function checkHost(app: App, tx: Queryable, site: string, { id, name }: { id: string; name: string }) {
  const own = and(eq(deviceHostTable.id, id), eq(deviceHostTable.siteId, site), isNull(deviceHostTable.revokedAt));
  const [host] = await tx.select().from(deviceHostTable).where(own);
  if (!host || host.name !== name) throw otherwise(`The device host "${name}"`);
  const mark = (await marksOf(app, tx, 'device host', [hostMark(host)])).get(id);
  if (mark === 'differs') throw otherwise(`The device host "${name}"`);
  if (mark === 'none') await markRow(app, tx, site, { kind: 'device host', ...hostMark(host) });
}

/** Adds what was agreed to, to the use of every key that was shown. */
async function addToKeys(app: App, open: Open, tx: Queryable, site: string, about: OfPlan, by: Who): Promise<void> {
  const at = await planShown(app, tx, site, about);
  for (const host of about.kind === 'plan' ? about.hosts : [about.host]) await checkHost(app, tx, site, host);
  if (about.kind === 'reader') {
    const { id, device } = about.reader;
    const [reader] = await tx
      .select()
      .from(readerTable)
      .where(and(eq(readerTable.id, id), eq(readerTable.siteId, site)));
    if (reader?.device !== device) throw otherwise(`The reader "${about.reader.name}"`);
  }
  const keys = keysInPlan(await keyFacts(app, tx, site), at.plan);
  const to = about.kind === 'plan' ? 'card on a pad' : 'reader';
  for (const { id, called } of about.keys) {
    const key = keys.find(({ facts }) => facts.key.id === id);
    if (!key) throw otherwise(`The ${called}`);
    await changeKey(app, tx, site, id, async (row, facts) => {
      const use = checkedUse(open, facts);
      const never = neverFor(key, use, to);
      if (never) throw never;
      const isCardMaster = key.places.some((place) => place.isCardMaster);
      if (isCardMaster && use.readers.length > 0)
        throw conflict(
          'key-card-master',
          `Readers may have the ${called}: it cannot be a card master key.`,
          'Use another key.',
        );
      await writeUse(open, tx, row, widened(use, about, { isCardMaster, by: by.name, at: new Date().toISOString() }));
    });
  }
}

function widened(
  use: KeyUse,
  about: OfPlan,
  { isCardMaster, ...agreed }: { isCardMaster: boolean; by: string; at: string },
): KeyUse {
  const { planId, plan, version, exposure } = about;
  const plans = use.plans.some((one) => one.planId === planId && one.exposure === exposure)
    ? use.plans
    : [...use.plans, { planId, plan, version, exposure, isCardMaster, ...agreed }];
  if (about.kind === 'plan') {
    const hosts = about.hosts.filter(({ id }) => !use.hosts.some(({ hostId }) => hostId === id));
    return {
      ...use,
      plans,
      hosts: [...use.hosts, ...hosts.map(({ id, name }) => ({ hostId: id, host: name, ...agreed }))],
    };
  }
  const { reader, host } = about;
  const others = use.readers.filter(({ readerId }) => readerId !== reader.id);
  const own = { readerId: reader.id, reader: reader.name, device: reader.device, hostId: host.id, host: host.name };
  return { ...use, plans, readers: [...others, { ...own, ...agreed }] };
}

export async function applyAgreed(
  app: App,
  open: Open,
  tx: Queryable,
  site: string,
  about: About,
  by: Who,
): Promise<void> {
  if (about.kind === 'plan' || about.kind === 'reader') return addToKeys(app, open, tx, site, about, by);
  if (about.kind === 'widen')
    return changeKey(app, tx, site, about.keyId, async (key, facts) => {
      const use = checkedUse(open, facts);
      await writeUse(open, tx, key, {
        ...use,
        asItIs: use.asItIs || about.asItIs,
        toReaders: use.toReaders || about.toReaders,
      });
    });
  const now = await acceptedAs(app, tx, site, about.what, about.id);
  if (JSON.stringify(now.stands) !== JSON.stringify(about.stands)) throw otherwise(`The ${about.called}`);
  if (about.what === 'key') return acceptKey(app, open, tx, site, about.id);
  const plan = await findPlan(tx, site, about.id);
  for (const { version } of await versionsOfPlan(tx, plan.id)) {
    const at = await planAtVersion(app, tx, plan, version);
    await markRow(app, tx, site, { kind: 'plan version', ...markOfVersion(at) });
    await markRow(app, tx, site, { kind: 'plan', ...markOfPlan(at) });
  }
}

/** A key as it stands, with no plan, reader or host: each is agreed to anew. */
async function acceptKey(app: App, open: Open, tx: Queryable, site: string, id: string): Promise<void> {
  const [facts] = await keyFacts(app, tx, site, [id]);
  if (!facts) throw notFound('key');
  const { asItIs, toReaders } = facts.use;
  await writeUse(open, tx, facts.key, { asItIs, toReaders, plans: [], readers: [], hosts: [] });
  await markKey(app, tx, site, id);
}

/** How a key or a plan stands in the database, for whoever accepts it so. */
export async function acceptedAs(
  app: App,
  tx: Queryable,
  site: string,
  what: 'key' | 'plan',
  id: string,
): Promise<{ called: string; stands: string[] }> {
  if (what === 'plan') {
    const plan = await findPlan(tx, site, id);
    const versions = await versionsOfPlan(tx, id);
    return {
      called: `plan ${plan.name}`,
      stands: versions.map(
        ({ version, definition, madeBy }) =>
          `version ${version}${version === plan.current ? ', in use' : ''}, by ${madeBy}, ${exposureOf(definition).slice(0, 16)}`,
      ),
    };
  }
  const [facts] = await keyFacts(app, tx, site, [id]);
  if (!facts) throw notFound('key');
  const { key, ready, use } = facts;
  return {
    called: calledIn(key.set, key.name),
    stands: [
      ...ready.map(
        ({ version, checkValue }) =>
          `version ${version}, check value ${checkValue}${version === key.current ? ', in use' : ''}`,
      ),
      use.asItIs ? 'the same key may be on every card' : 'a different key on each card only',
      use.toReaders ? 'readers may have it' : 'readers may not have it',
      'for no plan, reader or device host: each must be agreed again',
    ],
  };
}
