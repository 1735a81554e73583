/** What is in hand is there again when the page is loaded again: in this tab, for this operator, at this site. */
import { useEffect } from 'react';
import { useDraftKey } from '../../platform/drafts/useDraft.ts';
import { useAppDispatch, useAppSelector } from '../../platform/state/hooks.ts';
import { type HandKept, handFound } from './slice.ts';

const KEY = 'rawbits in hand of';

function keptUnder(key: string): HandKept | undefined {
  try {
    const kept = JSON.parse(sessionStorage.getItem(`${KEY} ${key}`) ?? 'null') as HandKept | null;
    return typeof kept?.inHand?.bits === 'string' ? kept : undefined;
  } catch {
    return undefined;
  }
}

export function useHandKept(site: string): void {
  const key = useDraftKey(site);
  const dispatch = useAppDispatch();
  const { inHand, printed, prints, pinned, formatId } = useAppSelector((state) => state.read);
  useEffect(() => {
    const kept = keptUnder(key);
    if (kept) dispatch(handFound(kept));
  }, [key, dispatch]);
  useEffect(() => {
    if (!inHand) return;
    try {
      sessionStorage.setItem(`${KEY} ${key}`, JSON.stringify({ inHand, printed, prints, pinned, formatId }));
    } catch {
      // A browser that keeps nothing more: what is in hand is on the screen all the same.
    }
  }, [key, inHand, printed, prints, pinned, formatId]);
}
