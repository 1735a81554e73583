/** Follows the site's live feed: new reads come in hand, everything else is fetched again where it changed. */
import type { FeedEntry, Read } from '@rawbits/core/api';
import { useEffect } from 'react';
import { api } from '../app/api.ts';
import { useAppDispatch } from '../app/store.ts';
import { loadProgressed } from '../doors/progress.ts';
import { arrived, inHandOf } from '../read/slice.ts';

type Tag = Parameters<typeof api.util.invalidateTags>[0][number];

const STALE: Record<FeedEntry['kind'], Tag[]> = {
  read: ['Reads'],
  event: ['Events'],
  cards: ['Cards', 'Controllers'],
  formats: ['Formats'],
  controllers: ['Controllers', 'Rig'],
  load: [],
  operators: ['Operators'],
  trail: ['Trail'],
};

export function useLive(site: string): void {
  const dispatch = useAppDispatch();
  useEffect(() => {
    const source = new EventSource(`/api/sites/${site}/live`);
    source.addEventListener('change', (event) => {
      const entry = JSON.parse((event as MessageEvent<string>).data) as FeedEntry;
      if (entry.kind === 'read') {
        const read = entry.data as Read;
        if (read.source === 'reader') dispatch(arrived(inHandOf(read)));
      }
      if (entry.kind === 'load') dispatch(loadProgressed(site, entry.data));
      if (STALE[entry.kind].length > 0) dispatch(api.util.invalidateTags(STALE[entry.kind]));
    });
    source.addEventListener('reset', () => dispatch(api.util.invalidateTags(Object.values(STALE).flat())));
    return () => source.close();
  }, [dispatch, site]);
}
