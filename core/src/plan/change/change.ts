/**
 * What a change of a plan, or of its keys, means for the cards that carry it: worked out on one simulated card, since all
 * that carry the same version are brought along by the same steps.
 */
import { Bits } from '../../bits/index.ts';
import { blankFiles, FilesCard } from '../../chip/index.ts';
import { failureOf } from '../../failure/index.ts';
import { FilesHost, type HostKey } from '../../host/index.ts';
import { bringCard, type CardStep, type Ring, ringOf, standInKeys } from '../bring/index.ts';
import type { Field, Known } from '../fields/index.ts';
import { keyNames, type Plan } from '../schema/index.ts';

const UID = Uint8Array.of(0x04, 0xa1, 0xb2, 0xc3, 0xd4, 0xe5, 0xf6);
const CHIP_KINDS = { aes128: 'aes', tdes2: 'des', tdes3: 'tdes3' } as const;

export interface PlanChange {
  steps: CardStep[];
  /** The plan's names of the keys that are needed. */
  keys: string[];
  /** Why such a card cannot be brought along; undefined where it can. */
  refused?: string;
}

/** Something that stands for what fields take, of the right kind and as short as can be. */
export function standInValues(fields: readonly Field[]): Record<string, string> {
  const values: Record<string, string> = {};
  for (const { content } of fields)
    if ('of' in content) values[content.of] = content.is === 'day' ? '2000-01-01' : content.is === 'number' ? '0' : '';
  return values;
}

/** The same for all fields of a plan. */
export const standInKnown = ({ applications }: Plan): Known => ({
  values: standInValues(
    applications.flatMap(({ files }) => files.flatMap((file) => ('fields' in file ? file.fields : []))),
  ),
  bits: Bits.fromBinary('0'),
});

/** A card with a plan on it, its fields filled with what stands in for them. */
async function cardOf(plan: Plan, draw: (count: number) => Uint8Array) {
  const { generation, capacity } = plan;
  const card = new FilesCard(blankFiles({ generation, capacity, masterKey: CHIP_KINDS[plan.card.keyKind], uid: UID }));
  const host = new FilesHost({ transmit: async (apdu) => card.transmit(apdu, draw) }, draw);
  const ring = ringOf(plan, standInKeys(plan));
  await bringCard(host, { plan, ring, known: standInKnown(plan), selected: UID });
  card.powerOff();
  return host;
}

/**
 * From one version of a plan to another, or to itself where only keys have rolled over (`rolled` names them). A plan with
 * errors is refused by the chip, and this is told like any other refusal.
 */
export async function planChange(
  was: Plan,
  next: Plan,
  draw: (count: number) => Uint8Array,
  rolled: readonly string[] = [],
): Promise<PlanChange> {
  const names = new Set([...keyNames(was), ...keyNames(next)]);
  const [before, after] = [ringOf(was, standInKeys(was)), ringOf(next, standInKeys(next))];
  const ring: Ring = (name, application) => {
    if (!names.has(name)) return undefined;
    const now = (keyNames(next).includes(name) ? after : before)(name, application)!.now;
    if (!rolled.includes(name)) return { now, before: [before(name, application)!.now] };
    const newer: HostKey = { ...now, bytes: now.bytes.map((byte) => byte ^ 0x3c), version: 2 };
    return { now: newer, before: [now, before(name, application)!.now] };
  };
  const steps: CardStep[] = [];
  try {
    const host = await cardOf(was, draw);
    const selected = was.randomUid ? Uint8Array.of(8, 1, 2, 3) : UID;
    const known = standInKnown(next);
    const { keys } = await bringCard(host, {
      plan: next,
      was,
      ring,
      known,
      selected,
      before: (step) => void steps.push(step),
    });
    return { steps, keys };
  } catch (error) {
    return { steps: [], keys: [], refused: failureOf(error).message };
  }
}
