/**
 * Follows the site's live feed: new reads are handed over, everything else is fetched again where it changed. A page that
 * is out of sight gives its connection back (a browser allows few to one server) and goes on later where it was.
 */
import type { FeedEntry, Read } from '@rawbits/api';
import { useEffect } from 'react';
import { api } from '../api/api.ts';
import { sessionApi } from '../endpoints/session.ts';
import { followed } from '../frame/slice.ts';
import { useAppDispatch } from '../state/hooks.ts';
import { loadProgressed } from './loadProgressed.ts';

type Tag = Parameters<typeof api.util.invalidateTags>[0][number];

const STALE: Record<FeedEntry['kind'], Tag[]> = {
  read: ['Reads'],
  event: ['Events'],
  cards: ['Cards', 'Controllers'],
  formats: ['Formats'],
  controllers: ['Controllers', 'Rig', 'Hosts'],
  load: [],
  operators: ['Operators'],
  trail: ['Trail'],
  cases: ['Cases'],
  work: ['Work'],
};

const REFUSED_AGAIN_MS = 5000;
/** What became stale is asked for again at most this often, however much happens. */
const REFETCH_MS = 1000;

/** `onRead` is told of every read that a reader delivered; it must stay the same function. */
export function useLive(site: string, onRead: (read: Read) => void): void {
  const dispatch = useAppDispatch();
  useEffect(() => {
    let source: EventSource | undefined;
    let last: number | undefined;
    let again: ReturnType<typeof setTimeout> | undefined;
    const stale = new Set<Tag>();
    let refetching: ReturnType<typeof setTimeout> | undefined;
    let refetchedAt = 0;

    const refetch = () => {
      refetching = undefined;
      refetchedAt = Date.now();
      const tags = [...stale];
      stale.clear();
      dispatch(api.util.invalidateTags(tags));
    };
    const outdated = (tags: readonly Tag[]) => {
      for (const tag of tags) stale.add(tag);
      if (stale.size > 0) refetching ??= setTimeout(refetch, Math.max(0, refetchedAt + REFETCH_MS - Date.now()));
    };

    const take = (entry: FeedEntry) => {
      if (entry.kind === 'read') {
        const read = entry.data as Read;
        if (read.source === 'reader') onRead(read);
      }
      if (entry.kind === 'load') dispatch(loadProgressed(site, entry.data));
      outdated(STALE[entry.kind]);
    };
    const connect = () => {
      if (source) return;
      source = new EventSource(`/api/sites/${site}/live${last === undefined ? '' : `?after=${last}`}`);
      source.addEventListener('hello', (event) => {
        dispatch(followed(true));
        last ??= Number(event.lastEventId);
      });
      source.addEventListener('change', (event) => {
        last = Number(event.lastEventId);
        take(JSON.parse((event as MessageEvent<string>).data) as FeedEntry);
      });
      source.addEventListener('error', () => {
        // A stream that broke off is opened again by the browser; one that was refused is closed for good: the session
        // has ended (asking who is signed in says so), or there are too many streams.
        if (source?.readyState !== EventSource.CLOSED) return;
        disconnect();
        dispatch(followed(false));
        void dispatch(sessionApi.endpoints.session.initiate(undefined, { forceRefetch: true, subscribe: false }));
        again = setTimeout(onVisibility, REFUSED_AGAIN_MS);
      });
      source.addEventListener('reset', (event) => {
        last = Number(event.lastEventId);
        outdated(Object.values(STALE).flat());
      });
    };
    const disconnect = () => {
      clearTimeout(again);
      source?.close();
      source = undefined;
    };
    const onVisibility = () => (document.visibilityState === 'visible' ? connect() : disconnect());
    onVisibility();
    document.addEventListener('visibilitychange', onVisibility);
    window.addEventListener('pagehide', disconnect);
    window.addEventListener('pageshow', onVisibility);
    return () => {
      clearTimeout(refetching);
      disconnect();
      document.removeEventListener('visibilitychange', onVisibility);
      window.removeEventListener('pagehide', disconnect);
      window.removeEventListener('pageshow', onVisibility);
    };
  }, [dispatch, site, onRead]);
}
