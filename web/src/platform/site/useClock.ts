/** Instants on the clocks of the site that is shown, whatever zone the browser is in. */
import { useCallback } from 'react';
import { clock } from '../words/time.ts';
import { useSite } from './useSite.ts';

export function useClock(): (instant: string) => string {
  const { zone } = useSite();
  return useCallback((instant) => clock(instant, zone), [zone]);
}
