/**
 * Follows the site's live feed: new reads are handed over, everything else is fetched again
 * where it changed, at most once a second. A page that
 * is out of sight gives its connection back (a browser allows few to one server) and goes on later where it was.
 */
import type { FeedEntry, Read } from '@rawbits/api';
import { useEffect } from 'react';
import { api } from '../api/api.ts';
import { sessionApi } from '../endpoints/session.ts';
import { followed } from '../frame/slice.ts';
import { useAppDispatch } from '../state/hooks.ts';
import { cardsChanged, controllersChanged, readArrived } from './fetchedAgain.ts';
import { loadProgressed } from './loadProgressed.ts';
import { EVERYTHING, outdatedBy } from './outdated.ts';

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
    let missed = false;
    const waiting: FeedEntry[] = [];
    let refetching: ReturnType<typeof setTimeout> | undefined;
    let refetchedAt = 0;

    const refetch = () => {
      refetching = undefined;
      refetchedAt = Date.now();
      const { tags, cards, controllers } = missed
        ? { tags: EVERYTHING, cards: [], controllers: [] }
        : outdatedBy(waiting);
      missed = false;
      waiting.length = 0;
      dispatch(api.util.invalidateTags(tags));
      void dispatch(cardsChanged(site, cards));
      void dispatch(controllersChanged(site, controllers));
    };
    const soon = () => {
      refetching ??= setTimeout(refetch, Math.max(0, refetchedAt + REFETCH_MS - Date.now()));
    };

    const take = (entry: FeedEntry) => {
      if (entry.kind === 'read') {
        const read = entry.data as Read;
        if (read.source === 'reader') onRead(read);
        if (!dispatch(readArrived(site, read))) dispatch(api.util.invalidateTags(['Reads']));
      }
      if (entry.kind === 'load') return void dispatch(loadProgressed(site, entry.data));
      waiting.push(entry);
      soon();
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
        missed = true;
        soon();
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
