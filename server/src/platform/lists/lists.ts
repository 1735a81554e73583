/** Lists in pieces, and by what their entries have in common. */

export const chunks = <T>(all: readonly T[], size: number): T[][] =>
  Array.from({ length: Math.ceil(all.length / size) }, (_, i) => all.slice(i * size, (i + 1) * size));

/** The entries that share a key, by that key, each in their order. */
export function groupedBy<T>(all: Iterable<T>, keyOf: (entry: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const entry of all) {
    const key = keyOf(entry);
    const own = groups.get(key);
    if (own) own.push(entry);
    else groups.set(key, [entry]);
  }
  return groups;
}
