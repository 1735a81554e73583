/** Ctrl+K: every screen and action by name, and people, cards, formats, codes and doors. The list itself comes when it is first opened. */
import { lazy, Suspense } from 'react';
import { useControllersQuery } from '../platform/endpoints/doors.ts';
import { useSite } from '../platform/site/useSite.ts';
import { useAppSelector } from '../platform/state/hooks.ts';

const Commands = lazy(async () => ({ default: (await import('./Commands.tsx')).Commands }));

export function CommandList() {
  const open = useAppSelector((state) => state.frame.commandsOpen);
  // What can be loaded is known before the list opens: what comes in late is not what Enter would take.
  useControllersQuery(useSite().id);
  return open ? (
    <Suspense fallback={null}>
      <Commands />
    </Suspense>
  ) : null;
}
