/**
 * Drafts: what was typed and not yet saved, kept in the browser by kind, operator and what it is about (a site, a card, a
 * format of it). One service for all: a hook for a single value, one for a form. A tab goes by what it has itself; what
 * another tab types at the same thing does not change it under the hand, and the last to type is found after a reload.
 */

const KEY = 'rawbits drafts of';
/** Drafts of a kind that are kept at most: the oldest go. */
const MOST = 40;

export interface Kept<T = unknown> {
  /** When it was last typed at, in milliseconds. */
  at: number;
  value: T;
}

/** What this tab has met; a draft that is not there has null. */
const met = new Map<string, Kept | null>();
const listeners = new Set<() => void>();

function all(kind: string): Record<string, Kept> {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(`${KEY} ${kind}`) ?? '{}');
    return typeof kept === 'object' && kept !== null ? (kept as Record<string, Kept>) : {};
  } catch {
    return {};
  }
}

/** A draft; the same object as long as it stays the same. */
export function draftOf<T>(kind: string, key: string): Kept<T> | undefined {
  const name = `${kind} ${key}`;
  if (!met.has(name)) met.set(name, all(kind)[key] ?? null);
  return (met.get(name) ?? undefined) as Kept<T> | undefined;
}

/** The drafts of a kind whose key begins so, the newest first, each with the rest of its key. */
export const draftsUnder = <T>(kind: string, beginning: string): (Kept<T> & { about: string })[] =>
  Object.entries(all(kind))
    .filter(([key]) => key.startsWith(beginning))
    .map(([key, kept]) => ({ ...(kept as Kept<T>), about: key.slice(beginning.length) }))
    .sort((a, b) => b.at - a.at);

/** Keeps a draft; forgets it where it is undefined. */
export function keepDraft(kind: string, key: string, value: unknown, at = Date.now()): void {
  const { [key]: before, ...rest } = all(kind);
  met.set(`${kind} ${key}`, value === undefined ? null : { at, value });
  for (const listener of listeners) listener();
  if (value === undefined && before === undefined) return;
  const drafts = value === undefined ? rest : { ...rest, [key]: { at, value } };
  const newest = Object.entries(drafts)
    .sort(([, a], [, b]) => b.at - a.at)
    .slice(0, MOST);
  try {
    localStorage.setItem(`${KEY} ${kind}`, JSON.stringify(Object.fromEntries(newest)));
  } catch {
    // A browser that keeps nothing more: this tab has it all the same.
  }
}

/** Told of every draft that this tab keeps or forgets. */
export function onDrafts(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** As a page that is loaded begins: only what the browser has. */
export const meetAgain = (): void => met.clear();
