/** What a change of a plan of any kind means for the cards that carry it, worked out on one simulated card. */
import { Bits } from '../../bits/index.ts';
import { blankSectors, SectorsCard, sectorFrame } from '../../chip/index.ts';
import { failureOf } from '../../failure/index.ts';
import { SectorsHost, TagHost } from '../../host/index.ts';
import { blankTag } from '../../lf/index.ts';
import type { CardStep } from '../bring/index.ts';
import { type PlanChange, planChange, standInValues } from '../change/index.ts';
import type { Known } from '../fields/index.ts';
import { bringSectors, type SectorPlan, type SectorRing, standInSectorKey } from '../sectors/index.ts';
import { bringTag, standInPassword, type TagPlan, type TagRing, tagTransport } from '../tags/index.ts';
import { type AnyPlan, CHIPS, filledBy } from './kinds.ts';

const UID = Uint8Array.of(0xa1, 0xb2, 0xc3, 0xd4);
const TRACE = [0xe0150000, 1] as const;
type Draw = (count: number) => Uint8Array;
type Before = (step: CardStep) => void;

/** Something that stands for what the fields of a plan take, of the right kind and as short as can be. */
export const standInKnownOf = (plan: AnyPlan): Known => ({
  values: standInValues(filledBy(plan).flatMap(({ fields }) => fields)),
  bits: Bits.fromBinary('0'),
});

/** From one version of a plan to another. One of another kind of chip is refused. */
export async function changeOfPlan(was: AnyPlan, next: AnyPlan, draw: Draw): Promise<PlanChange> {
  if (was.kind === 'files' && next.kind === 'files') return planChange(was, next, draw);
  if (was.kind === 'sectors' && next.kind === 'sectors') return sectorsChange(was, next);
  if (was.kind === 'tag' && next.kind === 'tag') return tagChange(was, next);
  return { steps: [], keys: [], refused: `The cards that are about are ${CHIPS[was.kind]}.` };
}

/** Steps as they are taken, and the keys that were asked for on the way. */
async function told<R>(
  ringOf: (asked: (name: string) => void) => R,
  work: (ring: R, before: Before) => Promise<unknown>,
): Promise<PlanChange> {
  const keys = new Set<string>();
  const steps: CardStep[] = [];
  try {
    await work(
      ringOf((name) => void keys.add(name)),
      (step) => void steps.push(step),
    );
    return { steps, keys: steps.length === 0 ? [] : [...keys] };
  } catch (error) {
    return { steps: [], keys: [], refused: failureOf(error).message };
  }
}

function sectorsChange(was: SectorPlan, next: SectorPlan): Promise<PlanChange> {
  const ringOf =
    (asked: (name: string) => void): SectorRing =>
    (name) => {
      asked(name);
      return { now: standInSectorKey(name), before: [] };
    };
  return told(ringOf, async (ring, before) => {
    const card = new SectorsCard(blankSectors(was.size, UID));
    const host = new SectorsHost({ transmitRaw: async (frame) => sectorFrame(card, frame) }, UID);
    await bringSectors(host, { plan: was, ring: ringOf(() => {}), known: standInKnownOf(was) });
    await bringSectors(host, { plan: next, was, ring, known: standInKnownOf(next), before });
  });
}

function tagChange(was: TagPlan, next: TagPlan): Promise<PlanChange> {
  const ringOf =
    (asked: (name: string) => void): TagRing =>
    (name) => {
      asked(name);
      return { now: standInPassword(name), before: [] };
    };
  return told(ringOf, async (ring, before) => {
    const host = new TagHost(tagTransport(blankTag(TRACE)));
    await bringTag(host, { plan: was, ring: ringOf(() => {}), known: standInKnownOf(was) });
    await bringTag(host, { plan: next, was, ring, known: standInKnownOf(next), before });
  });
}
