/** Keys for somebody who asks: where only a custodian's agreement is in the way, it is asked for. */
import { and, eq, isNull } from 'drizzle-orm';
import { allowedOf } from '../../devices/offering.ts';
import { deviceHostTable, type HostRow } from '../../devices/tables.ts';
import type { Queryable } from '../../platform/database/index.ts';
import type { App, Asking } from '../../platform/http/app.ts';
import { conflict } from '../../platform/problem/problem.ts';
import type { Record } from '../../platform/trail/change.ts';
import { type Destination, lackingOf } from './allowed.ts';
import { type Material, materialOf } from './material.ts';
import { keysInPlan, type PlanAt } from './planKeys.ts';
import { keyFacts } from './use.ts';
import {
  aboutPlan,
  aboutReader,
  askForUse,
  dropRequestsOf,
  putRequest,
  type Reach,
  reachOfKeys,
} from './useRequests.ts';

/**
 * The keys of a plan for where they go. Throws why it may not have them; where nothing but an agreement is missing, that has
 * been asked for then.
 */
export async function materialFor(
  app: App,
  who: Asking,
  site: string,
  at: PlanAt,
  to: Exclude<Destination, { to: 'reader' }> | ReaderDestination,
): Promise<Material> {
  const material = await materialOf(app, site, [at], to);
  const refusal = material.refusal(at.plan);
  if (!refusal) return material;
  if (refusal.code === 'key-use-waits') {
    const keys = keysInPlan(await keyFacts(app, app.db, site), at.plan, to.to === 'reader' ? [...to.names] : undefined);
    const reach = await reachOfKeys(app, at.plan);
    const about =
      to.to === 'reader'
        ? aboutReader(at, keys, to.reader, to.host, reach)
        : aboutPlan(at, keys, to.to === 'card on a pad' ? [to.host] : [], reach);
    await askForUse(app, who, site, about);
    throw conflict(
      refusal.code,
      refusal.message,
      'It was asked for. Do this again when a custodian has agreed on the screen Keys.',
    );
  }
  throw refusal;
}

export type ReaderDestination = Extract<Destination, { to: 'reader' }> & { reader: { name: string } };

/** The hosts of a site whose pads cards are encoded on. */
const padHosts = async (db: Queryable, site: string): Promise<HostRow[]> =>
  (
    await db
      .select()
      .from(deviceHostTable)
      .where(and(eq(deviceHostTable.siteId, site), isNull(deviceHostTable.revokedAt)))
  ).filter((host) => allowedOf(host).includes('pads'));

/**
 * With a plan that is saved: asks for its keys, over the pads that the site has, where it exposes them otherwise than before.
 * `reach` is what its keys can do then (`reachOfKeys`), worked out before the transaction.
 */
export async function askWithPlan(
  app: App,
  tx: Queryable,
  record: Record,
  who: Asking,
  site: string,
  at: PlanAt,
  reach: Reach,
): Promise<void> {
  await dropRequestsOf(app, tx, site, at.planId);
  const keys = keysInPlan(await keyFacts(app, tx, site), at.plan);
  const isNew = keys.some(({ facts }) => lackingOf(facts.use, at, { to: 'simulated card' }).plan);
  if (isNew) await putRequest(app, tx, record, who, site, aboutPlan(at, keys, await padHosts(tx, site), reach));
}
