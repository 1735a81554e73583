/** What the keys of a site may be used for: shown, asked for, agreed to by a custodian who did not ask, narrowed by any. */
import { type askKeyUseSchema, type KeyUseShown, keyUseApi, type Permission } from '@rawbits/api';
import { and, eq } from 'drizzle-orm';
import type { z } from 'zod';
import type { Queryable } from '../../platform/database/index.ts';
import { type App, handle } from '../../platform/http/app.ts';
import { conflict, forbidden, notFound } from '../../platform/problem/problem.ts';
import { may, rolesOf } from '../../platform/session/sessions.ts';
import { change } from '../../platform/trail/change.ts';
import {
  type About,
  aboutSchema,
  calledIn,
  changeKey,
  checkedUse,
  describeRequest,
  digestOf,
  type KeyFacts,
  type KeyUse,
  keyFacts,
  keyUseRequestTable,
  markProblem,
  notWhoAgrees,
  openRequests,
  putRequest,
  type RequestRow,
  settleRequest,
  writeUse,
} from '../keys/index.ts';
import { acceptedAs, applyAgreed } from './agreed.ts';

function shown({ key, use, ...facts }: KeyFacts): KeyUseShown {
  const { asItIs, toReaders } = use;
  return {
    keyId: key.id,
    asItIs,
    toReaders,
    plans: use.plans.map(({ planId, plan, version, by, at }) => ({ planId, plan, version, by, at })),
    readers: use.readers.map(({ device: _device, ...reader }) => reader),
    hosts: use.hosts,
    problem: facts.mark === 'holds' ? null : markProblem({ key, ...facts }).message,
  };
}

const list = handle(keyUseApi.list, async ({ app, site }) => (await keyFacts(app, app.db, site)).map(shown));

const narrow = handle(keyUseApi.narrow, async ({ app, operator, site, params, body }) => {
  const open = await app.vault.open(site);
  const id = params.id!;
  return change(app, operator, site, async (tx, record) => {
    await changeKey(app, tx, site, id, async (key, facts) => {
      const use = checkedUse(open, facts);
      const isNamed = (one: KeyUse['plans'][number]) =>
        body.plans.some(({ planId, version }) => planId === one.planId && version === one.version);
      const next: KeyUse = {
        asItIs: use.asItIs && body.asItIs !== false,
        toReaders: use.toReaders && body.toReaders !== false,
        plans: use.plans.filter((one) => !isNamed(one)),
        readers: use.readers.filter(({ readerId }) => !body.readers.includes(readerId)),
        hosts: use.hosts.filter(({ hostId }) => !body.hosts.includes(hostId)),
      };
      const lost = (['plans', 'readers', 'hosts'] as const).find(
        (name) => use[name].length - next[name].length < body[name].length,
      );
      if (lost) throw notFound('use of this key');
      await writeUse(open, tx, key, next);
      record.trail({ action: 'use of a key narrowed', subject: calledIn(key.set, key.name), before: use, after: next });
    });
    record.announce('keys');
    return shown((await keyFacts(app, tx, site, [id]))[0]!);
  });
});

const requests = handle(keyUseApi.requests, async ({ app, operator, site }) =>
  (await openRequests(app, app.db, site)).map((row) => describeRequest(row, operator)),
);

/** What a custodian asks another for. */
async function aboutOf(app: App, tx: Queryable, site: string, body: z.output<typeof askKeyUseSchema>): Promise<About> {
  if (body.kind === 'accept') {
    const { what, id } = body;
    return { kind: 'accept', what, id, ...(await acceptedAs(app, tx, site, what, id)) };
  }
  const { keyId, asItIs, toReaders } = body;
  const [facts] = await keyFacts(app, tx, site, [keyId]);
  if (!facts) throw notFound('key');
  if (facts.mark !== 'holds') throw markProblem(facts);
  const { key, use } = facts;
  const wider = { asItIs: asItIs && !use.asItIs, toReaders: toReaders && !use.toReaders };
  if (!wider.asItIs && !wider.toReaders)
    throw conflict('not-wider', `The ${calledIn(key.set, key.name)} may be used so already.`);
  return { kind: 'widen', keyId, called: calledIn(key.set, key.name), ...wider };
}

const ask = handle(keyUseApi.ask, ({ app, operator, site, body }) =>
  change(app, operator, site, async (tx, record) => {
    const about = await aboutOf(app, tx, site, body);
    return describeRequest(await putRequest(app, tx, record, operator, site, about), operator);
  }),
);

/** What somebody must still be allowed to who asked. */
const NEEDS: Record<About['kind'], Permission> = {
  plan: 'encode cards',
  reader: 'set up doors',
  widen: 'hold keys',
  accept: 'hold keys',
};

/** Takes a request that waits, for this call alone. */
async function settle(
  app: App,
  tx: Queryable,
  { site, id, by }: { site: string; id: string; by: string },
  state: 'agreed' | 'refused',
): Promise<RequestRow> {
  const own = and(eq(keyUseRequestTable.id, id), eq(keyUseRequestTable.siteId, site));
  await tx.select({ id: keyUseRequestTable.id }).from(keyUseRequestTable).where(own).for('update');
  const row = (await openRequests(app, tx, site)).find((one) => one.id === id);
  if (!row) throw notFound('request');
  await settleRequest(app, tx, row, state, by);
  return row;
}

const agree = handle(keyUseApi.agree, async ({ app, operator, site, params, body }) => {
  const open = await app.vault.open(site);
  await change(app, operator, site, async (tx, record) => {
    const row = await settle(app, tx, { site, id: params.id!, by: operator.name }, 'agreed');
    const about = aboutSchema.parse(row.about);
    if (digestOf(row) !== body.digest)
      throw conflict('shown-otherwise', 'What is asked for is not what you were shown.', 'Look at it again.');
    const notYou = notWhoAgrees(row, operator);
    if (notYou !== null) throw forbidden(notYou, 'Another key custodian has to agree, at their own sign-in.');
    const asker = { id: row.askedById, name: row.askedBy, roles: await rolesOf(tx, row.askedById) };
    if (!may(asker, site, NEEDS[about.kind]))
      throw conflict('asker-gone', `${row.askedBy} may not ask for this any more.`, 'Refuse it.');
    await applyAgreed(app, open, tx, site, about, operator);
    record.trail({ action: 'use of keys agreed', subject: row.what, after: { askedBy: row.askedBy, about } });
    record.announce('keys');
    record.announce('plans');
  });
  return {};
});

const refuse = handle(keyUseApi.refuse, ({ app, operator, site, params }) =>
  change(app, operator, site, async (tx, record) => {
    const row = await settle(app, tx, { site, id: params.id!, by: operator.name }, 'refused');
    const isOwn = row.askedById === operator.id;
    if (!isOwn && !may(operator, site, 'hold keys'))
      throw forbidden('A key custodian refuses it, or whoever asked for it withdraws it.');
    record.trail({
      action: isOwn ? 'use of keys withdrawn' : 'use of keys refused',
      subject: row.what,
      after: { askedBy: row.askedBy },
    });
    record.announce('keys');
    return {};
  }),
);

export const keyUseRoutes = [list, narrow, requests, ask, agree, refuse];
