/**
 * Something typed and not yet saved, kept in the browser by kind, site and what it is about: it is there again after a reload,
 * after leaving, and after a sign-in by the same person.
 */
import { useCallback, useEffect, useState } from 'react';
import { useSessionQuery } from '../endpoints/session.ts';

const KEY = 'rawbits drafts of';
/** Drafts of a kind that are kept at most: the oldest go. */
const MOST = 40;

type Drafts = Record<string, { at: number; value: unknown }>;

function read(kind: string): Drafts {
  try {
    return JSON.parse(localStorage.getItem(`${KEY} ${kind}`) ?? '{}') as Drafts;
  } catch {
    return {};
  }
}

function write(kind: string, drafts: Drafts): void {
  const kept = Object.entries(drafts)
    .sort(([, a], [, b]) => b.at - a.at)
    .slice(0, MOST);
  try {
    localStorage.setItem(`${KEY} ${kind}`, JSON.stringify(Object.fromEntries(kept)));
  } catch {
    // A browser that keeps nothing more: what is typed is on the screen all the same.
  }
}

/** The draft of a thing, or undefined where nothing was changed; `set` with undefined forgets it. */
export function useDraft<T>(kind: string, about: string): [T | undefined, (value: T | undefined) => void] {
  const { data } = useSessionQuery();
  const key = `${data?.operator.id ?? ''} ${about}`;
  const [state, setState] = useState<{ key: string; value: T | undefined }>();
  useEffect(() => setState({ key, value: read(kind)[key]?.value as T | undefined }), [kind, key]);
  const set = useCallback(
    (value: T | undefined) => {
      setState({ key, value });
      const { [key]: _before, ...rest } = read(kind);
      write(kind, value === undefined ? rest : { ...rest, [key]: { at: Date.now(), value } });
    },
    [kind, key],
  );
  const value = state?.key === key ? state.value : (read(kind)[key]?.value as T | undefined);
  return [value, set];
}
