/**
 * Pasted reads that the server could not keep when they were taken: they wait in the browser, each with the key of its
 * request, and are sent once it answers again. Sent twice, by two tabs or after a reload, they are kept once.
 */
import { useCallback, useEffect, useRef } from 'react';
import { kept } from '../parts/inHand/slice.ts';
import type { ApiError } from '../platform/api/api.ts';
import { draftOf, keepDraft } from '../platform/drafts/store.ts';
import { useDraft, useDraftKey } from '../platform/drafts/useDraft.ts';
import { useKeepReadMutation } from '../platform/endpoints/reads.ts';
import { said } from '../platform/frame/slice.ts';
import { useSite } from '../platform/site/useSite.ts';
import { useAppDispatch, useAppSelector } from '../platform/state/hooks.ts';
import { counted } from '../platform/words/words.ts';

const KIND = 'reads to send';
/** More than so many do not wait: the first stay on the screen alone. */
const MOST = 500;

export interface WaitingRead {
  bits: string;
  notation: string;
  /** The key of its request. */
  key: string;
}

/** Statuses that tell what is sent from when it is sent: signed out, too early, too often. */
const LATER = new Set([0, 401, 408, 423, 425, 429]);
/** A read is tried again after so long where the server is there and cannot keep it now. */
const AGAIN_MS = 10_000;

/** Whether a read that was not kept is worth sending again: it was not refused for what it is. */
export const waitsFor = ({ status }: ApiError): boolean => LATER.has(status) || status >= 500;

export const newKey = (): string => crypto.getRandomValues(new Uint32Array(4)).join('-');

/** How many wait; to be used once a page, since it sends them. */
export function useWaitingReads(): number {
  const { id: site } = useSite();
  const about = useDraftKey(site);
  const [waiting = [], setWaiting] = useDraft<WaitingRead[]>(KIND, site);
  const isAway = useAppSelector(({ away, session }) => away.since !== null || session.ended);
  const [keepRead] = useKeepReadMutation();
  const dispatch = useAppDispatch();
  const sending = useRef(false);
  const send = useCallback(async () => {
    if (sending.current) return;
    sending.current = true;
    let sent = 0;
    try {
      for (;;) {
        const [first] = draftOf<WaitingRead[]>(KIND, about)?.value ?? [];
        if (!first) break;
        const { data, error } = await keepRead({ site, ...first });
        // What was refused for what it is goes no second time; all else waits on.
        if (error && waitsFor(error as ApiError)) break;
        if (data) {
          dispatch(kept({ bits: data.bits, id: data.id }));
          sent++;
        }
        const rest = (draftOf<WaitingRead[]>(KIND, about)?.value ?? []).filter(({ key }) => key !== first.key);
        setWaiting(rest.length === 0 ? undefined : rest);
      }
    } finally {
      sending.current = false;
    }
    if (sent > 0)
      dispatch(said(`${counted(sent, 'read')} that waited ${sent === 1 ? 'is' : 'are'} kept on the server`));
  }, [about, dispatch, keepRead, setWaiting, site]);
  const count = waiting.length;
  useEffect(() => {
    if (isAway || count === 0) return;
    void send();
    const timer = setInterval(() => void send(), AGAIN_MS);
    return () => clearInterval(timer);
  }, [isAway, count, send]);
  return count;
}

/** Lets a read wait until the server answers. */
export function useLetWait(): (read: WaitingRead) => void {
  const { id: site } = useSite();
  const about = useDraftKey(site);
  return useCallback(
    (read) => {
      const before = draftOf<WaitingRead[]>(KIND, about)?.value ?? [];
      keepDraft(KIND, about, [...before, read].slice(-MOST));
    },
    [about],
  );
}
