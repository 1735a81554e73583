/** One value that was typed and not yet saved: it is there again after a reload, after leaving, and after a sign-in by the same person. */
import { useCallback, useSyncExternalStore } from 'react';
import { useSessionQuery } from '../endpoints/session.ts';
import { draftOf, keepDraft, onDrafts } from './store.ts';

/** The key of a draft of whoever is signed in. */
export function useDraftKey(about: string): string {
  const { data } = useSessionQuery();
  return `${data?.operator.id ?? ''} ${about}`;
}

/** The draft of a thing, or undefined where nothing was changed; `set` with undefined, or an empty text, forgets it. */
export function useDraft<T>(kind: string, about: string): [T | undefined, (value: T | undefined) => void] {
  const key = useDraftKey(about);
  const value = useSyncExternalStore(onDrafts, () => draftOf<T>(kind, key)?.value);
  const set = useCallback((next: T | undefined) => keepDraft(kind, key, next === '' ? undefined : next), [kind, key]);
  return [value, set];
}
