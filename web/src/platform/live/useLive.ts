/** Follows the site's live feed: new reads are handed over, everything else is fetched again where it changed. */
import type { Read } from '@rawbits/api';
import { useEffect } from 'react';
import { sessionApi } from '../endpoints/session.ts';
import { followed } from '../frame/slice.ts';
import { useAppDispatch } from '../state/hooks.ts';
import { Gathering } from './gathering.ts';
import { Stream } from './stream.ts';

/** `onRead` is told of every read that a reader delivered; it must stay the same function. */
export function useLive(site: string, onRead: (read: Read) => void): void {
  const dispatch = useAppDispatch();
  useEffect(() => {
    const gathering = new Gathering(site, dispatch, onRead);
    const askWho = () =>
      void dispatch(sessionApi.endpoints.session.initiate(undefined, { forceRefetch: true, subscribe: false }));
    const stream = new Stream(site, {
      entry: (entry) => gathering.take(entry),
      lost: () => gathering.lost(),
      followed: (is) => {
        dispatch(followed(is));
        // Asking who is signed in says whether the session has ended.
        if (!is) askWho();
      },
      // Whether the server is there at all.
      broke: askWho,
    });
    return () => {
      gathering.close();
      stream.close();
    };
  }, [dispatch, site, onRead]);
}
