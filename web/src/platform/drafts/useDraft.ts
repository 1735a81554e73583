/** One value that was typed and not yet saved: it is there again after a reload, after leaving, and after a sign-in by the same person. */
import { useCallback, useEffect, useState } from 'react';
import { useSessionQuery } from '../endpoints/session.ts';
import { draftOf, keepDraft } from './store.ts';

/** The key of a draft of whoever is signed in. */
export function useDraftKey(about: string): string {
  const { data } = useSessionQuery();
  return `${data?.operator.id ?? ''} ${about}`;
}

/** The draft of a thing, or undefined where nothing was changed; `set` with undefined, or an empty text, forgets it. */
export function useDraft<T>(kind: string, about: string): [T | undefined, (value: T | undefined) => void] {
  const key = useDraftKey(about);
  const [state, setState] = useState<{ key: string; value: T | undefined }>();
  useEffect(() => setState({ key, value: draftOf<T>(kind, key)?.value }), [kind, key]);
  const set = useCallback(
    (value: T | undefined) => {
      setState({ key, value });
      keepDraft(kind, key, value === '' ? undefined : value);
    },
    [kind, key],
  );
  return [state?.key === key ? state.value : draftOf<T>(kind, key)?.value, set];
}
