/** What the browser keeps of the interface, for all tabs of it. */

type Kept = Record<string, unknown>;

/** What is kept under a name; nothing where it is none of ours, or the browser keeps nothing. */
export function keptUnder<T extends object>(name: string): Partial<T> {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(name) ?? '{}');
    return typeof kept === 'object' && kept !== null ? (kept as Partial<T>) : {};
  } catch {
    return {};
  }
}

/**
 * Gives what keeps a state under a name: of each change only what is changed, so that what another tab has kept meanwhile
 * stays. `first` is what this tab began with.
 */
export function keeping<T extends object>(name: string, first: T): (now: T) => void {
  let before = first as Kept;
  return (state) => {
    const now = state as Kept;
    const changed = [...new Set([...Object.keys(before), ...Object.keys(now)])].filter(
      (key) => before[key] !== now[key],
    );
    before = now;
    if (changed.length === 0) return;
    const kept: Kept = keptUnder(name);
    for (const key of changed) {
      if (key in now) kept[key] = now[key];
      else delete kept[key];
    }
    try {
      localStorage.setItem(name, JSON.stringify(kept));
    } catch {
      // A full storage loses nothing on the screen.
    }
  };
}
