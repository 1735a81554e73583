/** The rig at the right edge: a narrow strip when closed, the tray and readers when open. */
import { ChevronsLeft, ChevronsRight } from 'lucide-react';
import { lazy, Suspense } from 'react';
import { rigToggled } from '../../platform/frame/slice.ts';
import { useAppDispatch, useAppSelector } from '../../platform/state/hooks.ts';

const RigPanel = lazy(async () => ({ default: (await import('./RigPanel.tsx')).RigPanel }));

export function RigDrawer() {
  const open = useAppSelector((state) => state.frame.rigOpen);
  const dispatch = useAppDispatch();
  const Icon = open ? ChevronsRight : ChevronsLeft;
  return (
    <aside
      aria-label="Rig"
      className="col-start-3 row-span-3 row-start-1 flex min-h-0 border-l border-base-300 bg-base-200"
    >
      <button
        type="button"
        aria-expanded={open}
        title="Open or close the rig (g)"
        onClick={() => dispatch(rigToggled())}
        className="flex w-8 cursor-pointer flex-col items-center gap-3 py-4 text-ink-2 hover:text-primary"
      >
        <Icon size={18} aria-hidden="true" />
        <span className="[writing-mode:vertical-rl]">Rig: cards and readers</span>
        <kbd className="kbd">g</kbd>
      </button>
      {open && (
        <Suspense fallback={null}>
          <RigPanel />
        </Suspense>
      )}
    </aside>
  );
}
