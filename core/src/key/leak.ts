/**
 * Who knows what: a version of a key is known to some holders when one of them holds it whole, or when together they hold
 * every component of it. Any components but all of them say nothing of the key (`components.ts`).
 */

export interface Holding {
  keyId: string;
  version: number;
  /** Whoever holds it: one name for one holder. */
  holder: string;
  what: 'whole' | 'part';
}

export interface Known {
  keyId: string;
  version: number;
  /** Whether one of them holds it whole, or only all of them together. */
  how: 'whole' | 'together';
}

/** `parts` says of how many components a version was put together; 0 where of none. In the order of the holdings. */
export function knownTo(
  holders: ReadonlySet<string>,
  holdings: readonly Holding[],
  parts: (keyId: string, version: number) => number,
): Known[] {
  const found = new Map<string, Known & { holding: Set<string> }>();
  for (const { keyId, version, holder, what } of holdings) {
    if (!holders.has(holder)) continue;
    const at = `${keyId} ${version}`;
    const known = found.get(at) ?? { keyId, version, how: 'together', holding: new Set() };
    if (what === 'whole') known.how = 'whole';
    else known.holding.add(holder);
    found.set(at, known);
  }
  return [...found.values()]
    .filter(({ how, holding, keyId, version }) => {
      const needed = parts(keyId, version);
      return how === 'whole' || (needed > 0 && holding.size >= needed);
    })
    .map(({ keyId, version, how }) => ({ keyId, version, how }));
}
