/** Ctrl+K: every screen and action by name, and people, cards, formats, codes and doors. The list itself comes when it is first opened. */
import { lazy, Suspense } from 'react';
import { useAppSelector } from '../platform/state/hooks.ts';

const Commands = lazy(async () => ({ default: (await import('./Commands.tsx')).Commands }));

export function CommandList() {
  const open = useAppSelector((state) => state.frame.commandsOpen);
  return open ? (
    <Suspense fallback={null}>
      <Commands />
    </Suspense>
  ) : null;
}
