/**
 * The trail of a site, and of the house (formats, sites, operators, sign-ins): who did what, whether it is as it was
 * written, and settling a break.
 */

import { type TrailEntry, trailApi, type trailQuerySchema } from '@rawbits/api';
import { and, eq, inArray, like, lt, or, type SQL } from 'drizzle-orm';
import type { z } from 'zod';
import { type App, handle } from '../../platform/http/app.ts';
import { conflict } from '../../platform/problem/problem.ts';
import { may, type SignedIn } from '../../platform/session/sessions.ts';
import { operatorSiteTable } from '../../platform/session/tables.ts';
import { change, HOUSE, UNKNOWN_OPERATOR } from '../../platform/trail/change.ts';
import { entriesOf } from '../../platform/trail/entries.ts';
import { mendHead } from '../../platform/trail/seal.ts';
import { chainTable, trailTable } from '../../platform/trail/tables.ts';
import { SETTLED } from '../../platform/trail/verify.ts';
import { happenedRoutes } from './happened.ts';

const chainEntries = (
  app: App,
  chain: string,
  { before, limit }: z.output<typeof trailQuerySchema>,
  visible?: SQL,
): Promise<TrailEntry[]> =>
  entriesOf(
    app.db,
    and(eq(trailTable.chain, chain), before === undefined ? undefined : lt(trailTable.name, before), visible),
    limit,
  );

/**
 * What an administrator sees of the house: the library, which all share, unknown sign-in names, and what was done by
 * people who also work at a site that they administer. Of others' sites they learn nothing.
 */
async function visibleTo(app: App, asking: SignedIn): Promise<SQL | undefined> {
  const sites = [...asking.roles.keys()].filter((site) => may(asking, site, 'keep the trail'));
  const people = await app.db
    .selectDistinct({ id: operatorSiteTable.operatorId })
    .from(operatorSiteTable)
    .where(inArray(operatorSiteTable.siteId, sites));
  const ids = [asking.id, UNKNOWN_OPERATOR, ...people.map((p) => p.id)];
  return or(inArray(trailTable.operatorId, ids), like(trailTable.action, 'format%'));
}

async function settle(app: App, operator: SignedIn, chain: string, reason: string) {
  const { unsettled, verification } = await app.verifier.verify(app, chain);
  if (unsettled.length === 0) throw conflict('nothing-to-settle', 'Nothing is open in this record.');
  await change(app, operator, chain, async (tx, record) => {
    await mendHead(tx, chain);
    record.trail({
      action: SETTLED,
      subject: verification.message,
      after: { reason, findings: unsettled },
    });
  });
  await app.sealer.now(chain);
  const [head] = await app.db.select().from(chainTable).where(eq(chainTable.id, chain));
  app.trail.place(chain, { seq: head!.trailSeq, hash: head!.trailHead });
  return (await app.verifier.verify(app, chain)).verification;
}

const list = handle(trailApi.list, ({ app, site, query }) => chainEntries(app, site, query));

const sealing = handle(trailApi.sealing, async ({ app, site }) => ({
  failsSince: app.sealer.failsSince(site)?.toISOString() ?? null,
}));

const verification = handle(
  trailApi.verification,
  async ({ app, site }) => (await app.verifier.verify(app, site)).verification,
);

const settlement = handle(trailApi.settlement, ({ app, operator, site, body }) =>
  settle(app, operator, site, body.reason),
);

const houseList = handle(trailApi.houseList, async ({ app, operator, query }) =>
  chainEntries(app, HOUSE, query, await visibleTo(app, operator)),
);

const houseVerification = handle(
  trailApi.houseVerification,
  async ({ app }) => (await app.verifier.verify(app, HOUSE)).verification,
);

const houseSettlement = handle(trailApi.houseSettlement, ({ app, operator, body }) =>
  settle(app, operator, HOUSE, body.reason),
);

export const trailRoutes = [
  ...happenedRoutes,
  list,
  sealing,
  verification,
  settlement,
  houseList,
  houseVerification,
  houseSettlement,
];
