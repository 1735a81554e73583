/**
 * Keys for whoever encodes or sets readers up: what of a plan may go where is looked up in the use of each key, here and
 * nowhere else, before a key is opened. What comes out makes the key of one card, by the plan that was agreed to.
 */
import type { ChipPlan } from '@rawbits/api';
import type { HostKey } from '@rawbits/core/host';
import { CARD_KEY_KINDS, doorKey, keyNamesOf, keyOfPlan } from '@rawbits/core/plan';
import { hostMark } from '../../devices/offering.ts';
import type { App } from '../../platform/http/app.ts';
import { marksOf } from '../../platform/marks/index.ts';
import { conflict, type HttpProblem } from '../../platform/problem/problem.ts';
import type { Open } from '../../platform/vault/index.ts';
import { type Destination, refusalOf } from './allowed.ts';
import type { KeyRow, VersionRow } from './describe.ts';
import { keyOut, type WayOut } from './door.ts';
import { type KeyInPlan, keysInPlan, markOfPlan, markOfVersion, type PlanAt } from './planKeys.ts';
import { checkedUse, type KeyFacts, type KeyUse, keyFacts } from './use.ts';

export interface KeyMaterial {
  id: string;
  kind: KeyRow['kind'];
  /** The version in use, then the others, the newest first. */
  versions: {
    version: number;
    checkValue: string | null;
    /** The key of one card by the plan, or the one that is the same on all. */
    forCard(uid: Uint8Array, application: string | null): HostKey;
    /** The key of the store itself, where the plan puts it on cards as it is, or where it goes to a reader. */
    asItIs(): Uint8Array;
  }[];
}

export interface Material {
  /** The key that a plan means by a name; undefined where the store has none in use. Throws why the plan may not have it. */
  of(plan: ChipPlan, name: string): KeyMaterial | undefined;
  /** Why a plan gets none of its keys; undefined where it does. */
  refusal(plan: ChipPlan): HttpProblem | undefined;
}

/** The marks of some versions of plans, and of a host. */
async function marksFor(app: App, plans: readonly PlanAt[], to: Destination) {
  const versions = await marksOf(app, app.db, 'plan version', plans.map(markOfVersion));
  const heads = await marksOf(app, app.db, 'plan', plans.map(markOfPlan));
  const host =
    to.to === 'simulated card'
      ? 'holds'
      : ((await marksOf(app, app.db, 'device host', [hostMark(to.host)])).get(to.host.id) ?? 'none');
  return (at: PlanAt) => ({
    version: versions.get(markOfVersion(at).rowId) ?? 'none',
    plan: heads.get(at.planId) ?? 'none',
    host,
  });
}

/**
 * The keys of some versions of plans, for where they go. Throws 423 where the store is locked and a key is wanted. A plan
 * whose use is not agreed to has none of its keys (`refusal`). A few statements, whatever the number of plans and keys.
 */
export async function materialOf(app: App, site: string, plans: readonly PlanAt[], to: Destination): Promise<Material> {
  const namesOf = ({ plan }: PlanAt) => (to.to === 'reader' ? to.names : keyNamesOf(plan));
  if (plans.every((at) => namesOf(at).length === 0)) return { of: () => undefined, refusal: () => undefined };
  const open = await app.vault.open(site);
  const all = await keyFacts(app, app.db, site);
  const marks = await marksFor(app, plans, to);
  const uses = new Map<string, KeyUse>();
  const useOf = (facts: KeyFacts): KeyUse => {
    const use = uses.get(facts.key.id) ?? checkedUse(open, facts);
    uses.set(facts.key.id, use);
    return use;
  };
  const found = new Map<ChipPlan, Map<string, KeyMaterial>>();
  const refusals = new Map<ChipPlan, HttpProblem>();
  for (const at of plans) {
    try {
      const keys = keysInPlan(all, at.plan, [...namesOf(at)]);
      const refusal = refusalOf(at, to, keys, marks(at), useOf);
      if (refusal) throw refusal;
      found.set(at.plan, new Map(keys.map((key) => [key.name, bound(open, to.to, at.plan, key)])));
    } catch (error) {
      refusals.set(at.plan, error as HttpProblem);
    }
  }
  return {
    of: (plan, name) => {
      const refusal = refusals.get(plan);
      if (refusal) throw refusal;
      return found.get(plan)?.get(name);
    },
    refusal: (plan) => refusals.get(plan),
  };
}

/** A key bound to what the plan that was agreed to makes of it. */
function bound(open: Open, way: WayOut & Destination['to'], plan: ChipPlan, { name, facts, places }: KeyInPlan) {
  const { key, ready } = facts;
  const rank = ({ version }: VersionRow) => (version === key.current ? 256 : version);
  const origin = plan.kind === 'sectors' ? { name, each: 'all' as const, system: '' } : keyOfPlan(plan, name);
  const isPlain = way === 'reader' || places.some(({ asItIs }) => asItIs);
  const material: KeyMaterial = {
    id: key.id,
    kind: key.kind,
    versions: ready
      .toSorted((a, b) => rank(b) - rank(a))
      .map((row) => {
        let bytes: Uint8Array | undefined;
        const own = (): Uint8Array => {
          bytes ??= keyOut(open, way, key, row);
          return bytes;
        };
        const kind = CARD_KEY_KINDS.find((one) => one === key.kind);
        return {
          version: row.version,
          checkValue: row.checkValue,
          forCard: (uid, application) => {
            if (!kind)
              throw conflict(
                'key-kind',
                `The key "${name}" of the store is one of ${key.kind}; a file-system card has none of these.`,
                'Use another key in the plan.',
              );
            return doorKey({ kind, bytes: own(), version: row.version }, origin, uid, application);
          },
          asItIs: () => {
            if (!isPlain)
              throw conflict(
                'key-as-it-is',
                `Each card must have its own key made from "${name}".`,
                'Change the plan.',
              );
            return own();
          },
        };
      }),
  };
  return material;
}
