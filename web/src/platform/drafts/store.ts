/**
 * Drafts: what was typed and not yet saved, kept in the browser by kind, operator and what it is about (a site, a card, a
 * format of it). One service for all: a hook for a single value, one for a form.
 */

const KEY = 'rawbits drafts of';
/** Drafts of a kind that are kept at most: the oldest go. */
const MOST = 40;

export interface Kept<T = unknown> {
  /** When it was last typed at, in milliseconds. */
  at: number;
  value: T;
}

function all(kind: string): Record<string, Kept> {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(`${KEY} ${kind}`) ?? '{}');
    return typeof kept === 'object' && kept !== null ? (kept as Record<string, Kept>) : {};
  } catch {
    return {};
  }
}

export const draftOf = <T>(kind: string, key: string): Kept<T> | undefined => all(kind)[key] as Kept<T> | undefined;

/** The drafts of a kind whose key begins so, the newest first, each with the rest of its key. */
export const draftsUnder = <T>(kind: string, beginning: string): (Kept<T> & { about: string })[] =>
  Object.entries(all(kind))
    .filter(([key]) => key.startsWith(beginning))
    .map(([key, kept]) => ({ ...(kept as Kept<T>), about: key.slice(beginning.length) }))
    .sort((a, b) => b.at - a.at);

/** Keeps a draft; forgets it where it is undefined. */
export function keepDraft(kind: string, key: string, value: unknown, at = Date.now()): void {
  const { [key]: before, ...rest } = all(kind);
  if (value === undefined && before === undefined) return;
  const drafts = value === undefined ? rest : { ...rest, [key]: { at, value } };
  const newest = Object.entries(drafts)
    .sort(([, a], [, b]) => b.at - a.at)
    .slice(0, MOST);
  try {
    localStorage.setItem(`${KEY} ${kind}`, JSON.stringify(Object.fromEntries(newest)));
  } catch {
    // A browser that keeps nothing more: what is typed is on the screen all the same.
  }
}
