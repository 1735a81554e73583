/** The simulated cards on which the exchange of a card with a plan is played again: the blanks that it may have been. */
import { blankFiles, blankSectors, type CardKeyKind } from '../../chip/index.ts';
import { wordOf } from '../../cipher/index.ts';
import { fail } from '../../failure/index.ts';
import { type HostKey, trailerBytes } from '../../host/index.ts';
import { blankTag } from '../../lf/index.ts';
import { ReplayedFiles, ReplayedSectors, ReplayedTag, type Simulated } from '../../replay/index.ts';
import { factoryKey, type Ring } from '../bring/index.ts';
import type { Plan } from '../schema/index.ts';
import { FACTORY, type SectorPlan, sectorsToBring } from '../sectors/index.ts';
import type { AnyPlan } from './kinds.ts';

const MASTER_KEYS: Record<Plan['card']['keyKind'], CardKeyKind> = { aes128: 'aes', tdes2: 'des', tdes3: 'tdes3' };
const AS_DELIVERED = { data: [0, 0, 0], trailer: 1 };
const PLAIN = 0x69;

/**
 * `plans` are those that it had, the likeliest first, all of one kind. `ring` gives the keys of a file-system card: without
 * them what was done under them is answered otherwise. Of sector cards and tags no key is kept, and none is needed.
 */
export function blanksOf(plans: readonly AnyPlan[], uid: Uint8Array, ring: Ring): (() => Simulated)[] {
  const [first] = plans;
  if (!first) return fail('no-plan', 'There is no plan of which this is a card.', { field: 'plan' });
  if (first.kind === 'tag')
    return [() => new ReplayedTag(blankTag([wordOf(uid.subarray(0, 4)), wordOf(uid.subarray(4))]))];
  if (first.kind === 'sectors') {
    const own = plans.filter((plan): plan is SectorPlan => plan.kind === 'sectors');
    return [() => new ReplayedSectors(blankSectors(first.size, uid), (sector) => trailersOf(own, sector))];
  }
  const own = plans.filter((plan): plan is Plan & { kind: 'files' } => plan.kind === 'files');
  const { generation, capacity, card } = first;
  // A blank's own key can be of any kind, as it comes from the factory.
  const masterKeys = new Set([MASTER_KEYS[card.keyKind], ...Object.values(MASTER_KEYS)]);
  const levels = new Map<number, HostKey[]>();
  const keys = (application: number) => {
    const known = levels.get(application) ?? keysOfLevel(own, ring, application);
    levels.set(application, known);
    return known;
  };
  return [...masterKeys].map(
    (masterKey) => () => new ReplayedFiles(blankFiles({ generation, capacity, masterKey, uid: uid.slice() }), keys),
  );
}

/** Every key that plans may have put on a level, and the factory's. */
function keysOfLevel(plans: readonly Plan[], ring: Ring, application: number): HostKey[] {
  const id = application === 0 ? null : application.toString(16).toUpperCase().padStart(6, '0');
  const names = plans.flatMap(({ card, applications }) =>
    id === null ? [card.key] : applications.filter((one) => one.id === id).flatMap(({ keys }) => keys),
  );
  const known = [...new Set(names)].flatMap((name) => (name === null ? [] : (ring(name, id) ?? [])));
  return [
    ...known.map(({ now }) => now),
    ...known.flatMap(({ before }) => before),
    ...(['aes128', 'tdes2', 'tdes3'] as const).map(factoryKey),
  ];
}

/** The trailers that plans may have put on a sector, apart from their keys, which nobody is shown. */
function trailersOf(plans: readonly SectorPlan[], number: number): Uint8Array[] {
  const planned = plans.flatMap((plan) =>
    sectorsToBring(plan).flatMap((sector) => (sector.number === number ? [sector.access] : [])),
  );
  const all = [...planned, AS_DELIVERED].map(({ data, trailer }) => [...data, trailer]);
  return [...new Map(all.map((bits) => [bits.join(''), bits])).values()].map((bits) =>
    trailerBytes(FACTORY, bits, PLAIN, FACTORY),
  );
}
