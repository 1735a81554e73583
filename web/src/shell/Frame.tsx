/** The frame around every screen: rail, intake, rig drawer, command list, shortcuts. */
import type { Read } from '@rawbits/api';
import { Suspense, useCallback, useEffect, useRef } from 'react';
import { Outlet, useLocation, useParams } from 'react-router';
import { RigDrawer } from '../features/rig/RigDrawer.tsx';
import { arrived, inHandOf, siteLeft } from '../parts/inHand/slice.ts';
import { useHandKept } from '../parts/inHand/useHandKept.ts';
import { useLive } from '../platform/live/useLive.ts';
import { useSite } from '../platform/site/useSite.ts';
import { useAppDispatch } from '../platform/state/hooks.ts';
import { Away } from './Away.tsx';
import { CommandList } from './CommandList.tsx';
import { Help } from './Help.tsx';
import { IntakeBar } from './IntakeBar.tsx';
import { useMyReaders } from './MyReaders.tsx';
import { Rail } from './Rail.tsx';
import { ShortcutList } from './ShortcutList.tsx';
import { StatusLine } from './StatusLine.tsx';
import { OTHER_SCREENS, SCREENS } from './screens.ts';
import { UnderWay } from './UnderWay.tsx';
import { useFocusKept } from './useFocusKept.ts';
import { useFrameKeys } from './useFrameKeys.ts';
import { YetToLoad } from './YetToLoad.tsx';

export function Frame() {
  const { site: id } = useParams();
  const { site } = useSite();
  return site && id ? (
    <FrameOfSite key={id} siteId={id} />
  ) : (
    <p className="p-6">
      There is no such site for you.{' '}
      <a className="link" href="/">
        Go to your sites
      </a>
      .
    </p>
  );
}

/** The page is called by its screen and its site, so that tabs can be told apart. */
function useTitle(siteName: string | undefined): void {
  const [, , path] = useLocation().pathname.split('/');
  const screen = [...SCREENS, ...OTHER_SCREENS].find((known) => known.path === path)?.name;
  useEffect(() => {
    document.title = [screen ?? 'No such page', siteName, 'Raw Bits'].filter(Boolean).join(' · ');
  }, [screen, siteName]);
}

function FrameOfSite({ siteId }: { siteId: string }) {
  const dispatch = useAppDispatch();
  const { site } = useSite();
  const mine = useRef<string[]>([]);
  mine.current = useMyReaders();
  // The same function throughout: the feed is followed with it.
  const onRead = useCallback(
    (read: Read) => {
      const { current } = mine;
      if (current.length === 0 || current.includes(read.reader?.id ?? '')) dispatch(arrived(inHandOf(read)));
    },
    [dispatch],
  );
  useHandKept(siteId);
  useLive(siteId, onRead);
  useFrameKeys();
  useFocusKept();
  useTitle(site?.shortName);
  useEffect(
    () => () => {
      dispatch(siteLeft());
    },
    [dispatch],
  );
  return (
    <div className="grid h-dvh min-h-0 grid-cols-[84px_minmax(0,1fr)_auto] grid-rows-[auto_auto_minmax(0,1fr)] max-sm:grid-cols-[56px_minmax(0,1fr)_auto]">
      <a
        href="#screen"
        className="sr-only focus:not-sr-only focus:absolute focus:top-2 focus:left-24 focus:z-50 focus:bg-base-100 focus:p-2"
      >
        Skip to the screen
      </a>
      <Rail />
      <IntakeBar />
      <div className="col-start-2 row-start-2 min-w-0">
        <Away />
        <UnderWay />
        <YetToLoad />
      </div>
      <main id="screen" tabIndex={-1} className="col-start-2 row-start-3 min-h-0 min-w-0 overflow-auto">
        <Suspense fallback={<p className="p-6">Loading …</p>}>
          <Outlet />
        </Suspense>
      </main>
      {site?.hasRig && <RigDrawer />}
      <CommandList />
      <ShortcutList />
      <Help />
      <StatusLine />
    </div>
  );
}
