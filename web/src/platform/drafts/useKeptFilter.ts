/** What a list is looked through by: kept as it was typed, through a reload and other screens, until it is cleared. */
import { useCallback, useMemo } from 'react';
import { useDraft } from './useDraft.ts';

/** `about` tells lists apart; `plain` is the filter that lets everything through, which is not kept. It is a constant. */
export function useKeptFilter<T extends object>(about: string, plain: T): [T, (next: T) => void] {
  const [kept, keep] = useDraft<Partial<T>>('filter', about);
  // What a version before has kept may lack what this one asks for.
  const filter = useMemo(() => (kept ? { ...plain, ...kept } : plain), [kept, plain]);
  const set = useCallback(
    (next: T) => {
      const isPlain = (Object.keys(plain) as (keyof T)[]).every((key) => next[key] === plain[key]);
      keep(isPlain ? undefined : next);
    },
    [keep, plain],
  );
  return [filter, set];
}
