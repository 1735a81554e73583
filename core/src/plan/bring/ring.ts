/**
 * The keys that a card may have in a slot: the one that it is to have, and those that it may still have, from before a key
 * rolled over, from an older plan, or from the factory.
 */
import { sameBytes } from '../../cipher/index.ts';
import type { HostKey, HostKeyKind } from '../../host/index.ts';
import type { Plan } from '../schema/index.ts';
import { factoryKey, type KeyBytes, keyOf } from './keys.ts';

export interface RingKey {
  now: HostKey;
  /** The newest first. */
  before: readonly HostKey[];
}

/** A key of a plan by its name, for an application (null for the card itself); undefined where it is not at hand. */
export type Ring = (name: string, application: string | null) => RingKey | undefined;

/** A ring of one key a name, as a card has them that was never brought along. */
export const ringOf =
  ({ card, applications }: Plan, bytes: KeyBytes): Ring =>
  (name, application) => {
    const kind =
      application === null ? card.keyKind : (applications.find(({ id }) => id === application)?.keyKind ?? 'aes128');
    return { now: keyOf(kind, name, bytes), before: [] };
  };

/** What a slot is to have and may have. */
export interface SlotKeys {
  /** Undefined where the plan's key is not at hand. */
  wanted: HostKey | undefined;
  /** In the order in which they are tried. */
  candidates: HostKey[];
  /** The plan's name of it. */
  name: string | null;
}

const isSame = (a: HostKey, b: HostKey): boolean => a.kind === b.kind && sameBytes(a.bytes, b.bytes);

export const isWanted = (there: HostKey, { wanted }: SlotKeys): boolean =>
  wanted !== undefined && isSame(there, wanted) && (wanted.version ?? 0) === (there.version ?? 0);

/** `names` are the slot's in the plan and, if it is another, in the plan before it. */
export function slotKeys(
  ring: Ring,
  application: string | null,
  kind: HostKeyKind,
  names: readonly (string | null)[],
): SlotKeys {
  const [name = null] = names;
  const rings = names.map((one) => (one === null ? undefined : ring(one, application)));
  const wanted = name === null ? factoryKey(kind) : rings[0]?.now;
  // A blank's own key can be of any kind, as it comes from the factory.
  const kinds: HostKeyKind[] = application === null ? [kind, 'aes128', 'tdes2', 'tdes3'] : [kind];
  const all = [
    ...(wanted ? [wanted] : []),
    ...rings.flatMap((one) => (one ? [one.now, ...one.before] : [])),
    ...kinds.map(factoryKey),
  ];
  const candidates = all.filter((key, i) => all.findIndex((other) => isSame(other, key)) === i);
  return { name, wanted, candidates };
}
