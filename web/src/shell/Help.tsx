/** Help for the screen: the guide over the page, opened where it speaks of it. The page stays as it is below. */
import { lazy, Suspense, useEffect, useRef } from 'react';
import { useLocation } from 'react-router';
import { chapterOf } from '../features/help/chapters.ts';
import { helpShown } from '../platform/frame/slice.ts';
import { useAppDispatch, useAppSelector } from '../platform/state/hooks.ts';

const Guide = lazy(async () => ({ default: (await import('../features/help/Guide.tsx')).Guide }));

export function Help() {
  const help = useAppSelector((state) => state.frame.help);
  return help === null ? null : <OpenHelp heading={help} />;
}

function OpenHelp({ heading }: { heading: string }) {
  const dispatch = useAppDispatch();
  const dialog = useRef<HTMLDialogElement>(null);
  const screen = useLocation().pathname.split('/')[2];
  useEffect(() => dialog.current!.showModal(), []);
  return (
    <dialog
      ref={dialog}
      aria-label="Help"
      onClose={() => dispatch(helpShown(null))}
      className="panel m-auto h-[88vh] max-h-none w-[min(72rem,96vw)] max-w-none text-base-content backdrop:bg-black/40"
    >
      <div className="flex h-full min-h-0 flex-col gap-3 p-5">
        <div className="flex items-baseline gap-4">
          <h2 className="text-[1.15rem]">Help</h2>
          <button type="button" className="btn btn-line btn-small ml-auto" onClick={() => dialog.current!.close()}>
            Close <kbd className="kbd">Esc</kbd>
          </button>
        </div>
        <Suspense fallback={<p>Loading …</p>}>
          <Guide at={heading || chapterOf(screen)} />
        </Suspense>
      </div>
    </dialog>
  );
}
