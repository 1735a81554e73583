/** From keys of the store to the keys of one card: made from its UID where the plan says so, older versions after the one in use. */
import type { ChipPlan } from '@rawbits/api';
import { RawBitsError } from '@rawbits/core/failure';
import { doorKey, keyNamesOf, keyOfPlan, keyOriginOf, type Plan, type Ring, type RingKey } from '@rawbits/core/plan';
import type { App } from '../../platform/http/app.ts';
import { type KeyMaterial, materialOf } from '../keys/index.ts';

export type Material = ReadonlyMap<string, KeyMaterial>;

/** The keys of some plans, by the names that they have there. */
export function materialFor(app: App, site: string, plans: readonly ChipPlan[]): Promise<Map<string, KeyMaterial>> {
  const wanted = new Map(
    plans.flatMap((plan) => keyNamesOf(plan).map((name) => [name, { name, from: keyOriginOf(plan, name) }])),
  );
  return materialOf(app, site, [...wanted.values()]);
}

const KINDS = ['aes128', 'tdes2', 'tdes3'] as const;
type Kind = (typeof KINDS)[number];

/** The keys of the card with a UID, as the plan and those before it make them. */
export function ringFor(material: Material, plans: readonly Plan[], uid: Uint8Array): Ring {
  return (name, application) => {
    const key = material.get(name);
    if (!key || key.versions.length === 0) return undefined;
    if (!(KINDS as readonly string[]).includes(key.kind))
      throw new RawBitsError({
        code: 'key-kind',
        message: `The key "${name}" of the store is one of ${key.kind}; a file-system card has none of these.`,
        hint: 'Take another key in the plan.',
      });
    const kind = key.kind as Kind;
    const all = plans.flatMap((plan) =>
      key.versions.map(({ version, bytes }) =>
        doorKey({ kind, bytes, version }, keyOfPlan(plan, name), uid, application),
      ),
    );
    const [now, ...before] = all;
    return { now: now!, before } satisfies RingKey;
  };
}

/** Which version of each key a card has that was just brought along: the one in use. */
export const versionsOf = (material: Material): Record<string, number> =>
  Object.fromEntries(
    [...material].flatMap(([name, { versions }]) => (versions[0] ? [[name, versions[0].version]] : [])),
  );
