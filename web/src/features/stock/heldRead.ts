/**
 * The read that a form began with: later ones do not replace it. It stands in the address, so that a reload keeps it, and
 * beside the draft of the form is kept where it came from.
 */
import { useEffect } from 'react';
import { useLocation, useNavigate } from 'react-router';
import type { ReadInHand } from '../../parts/inHand/slice.ts';
import { draftOf, keepDraft } from '../../platform/drafts/store.ts';
import { useDraftKey } from '../../platform/drafts/useDraft.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppSelector } from '../../platform/state/hooks.ts';

const KIND = 'reads that are being issued';

export interface Held {
  read: Pick<ReadInHand, 'bits' | 'from' | 'at'>;
  printed: string;
  /** When the newest read came that was there when the form began. */
  newest: string;
}

/** What `?issue=` asks for: the read in hand, the latest, one by its bits, or none. */
export const readAsked = (issue: string): 'read' | 'latest' | { bits: string } | null =>
  issue === 'read' || issue === 'latest' ? issue : /^[01]{1,512}$/.test(issue) ? { bits: issue } : null;

/** `take` begins anew with the later read, with what was typed of the holder. */
export function useHeldRead(issue: string): {
  held: Held | undefined;
  later: ReadInHand | undefined;
  take: () => void;
} {
  const { id: site } = useSite();
  const asked = readAsked(issue);
  const { inHand, latest, printed } = useAppSelector((state) => state.read);
  const navigate = useNavigate();
  const { pathname, search } = useLocation();
  const key = useDraftKey(site);
  const offered = asked === 'read' ? inHand : asked === 'latest' ? latest : null;
  const begin = (read: ReadInHand, typed: string) => {
    const { bits, from, at } = read;
    keepDraft(KIND, `${key} ${bits}`, { read: { bits, from, at }, printed: typed, newest: latest?.at ?? at });
    const query = new URLSearchParams(search);
    query.set('issue', bits);
    void navigate(`${pathname}?${query}`, { replace: true });
  };
  // A page that has just been loaded has no read yet: the first one is what the form begins with.
  useEffect(() => {
    if (offered) begin(offered, offered.bits === inHand?.bits ? printed : '');
  });
  if (asked === null || typeof asked === 'string') return { held: undefined, later: undefined, take: () => undefined };
  const held = draftOf<Held>(KIND, `${key} ${asked.bits}`)?.value ?? {
    read: { bits: asked.bits, from: '', at: '' },
    printed: '',
    newest: latest?.at ?? '',
  };
  const later = latest && latest.at > held.newest && latest.bits !== held.read.bits ? latest : undefined;
  return { held, later, take: () => later && begin(later, '') };
}
