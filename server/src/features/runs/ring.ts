/** From keys of the store to the keys of one card: made from its UID where the plan says so, older versions after the one in use. */
import type { ChipPlan } from '@rawbits/api';
import { keyNamesOf, type Plan, type Ring, type RingKey } from '@rawbits/core/plan';
import type { Material } from '../keys/index.ts';

/** The keys of the card with a UID, as the plan and those before it make them; plans that get no keys are left out, but for the first. */
export function ringFor(material: Material, plans: readonly Plan[], uid: Uint8Array): Ring {
  const [own, ...others] = plans;
  const there = own ? [own, ...others.filter((plan) => !material.refusal(plan))] : [];
  return (name, application) => {
    const all = there.flatMap((plan) =>
      (material.of(plan, name)?.versions ?? []).map((version) => version.forCard(uid, application)),
    );
    const [now, ...before] = all;
    return now && ({ now, before } satisfies RingKey);
  };
}

/** A key of the store that a card carries, by the plan's name of it. */
export type CarriedKeys = ReadonlyMap<string, { id: string; version: number }>;

/** Which version of each key a card has that was just brought along: the one in use. `had` names others, where it has those. */
export function carriedBy(material: Material, plan: ChipPlan, had: Record<string, number> = {}): CarriedKeys {
  return new Map(
    keyNamesOf(plan).flatMap((name) => {
      const key = material.of(plan, name);
      const version = key?.versions.find((one) => one.version === had[name]) ?? key?.versions[0];
      return key && version ? [[name, { id: key.id, version: version.version }] as const] : [];
    }),
  );
}
