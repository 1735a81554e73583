/** Whose reads come in by themselves: those of every reader of the site, or of some. */
import { useEffect, useRef } from 'react';
import { useReadersQuery } from '../platform/endpoints/doors.ts';
import { Checks } from '../platform/forms/controls.tsx';
import { readersChosen } from '../platform/frame/slice.ts';
import { useSite } from '../platform/site/useSite.ts';
import { useAppDispatch, useAppSelector } from '../platform/state/hooks.ts';

const EVERY: string[] = [];

/** The readers that were chosen at this site; none for all. */
export const useMyReaders = (): string[] => {
  const { id } = useSite();
  return useAppSelector((state) => state.frame.myReaders[id] ?? EVERY);
};

export function MyReaders() {
  const { id: site } = useSite();
  const { data: readers = [] } = useReadersQuery(site);
  const mine = useMyReaders();
  const dispatch = useAppDispatch();
  const details = useRef<HTMLDetailsElement>(null);
  useEffect(() => {
    const close = (event: PointerEvent) => {
      const { current } = details;
      if (current && event.target instanceof Node && !current.contains(event.target)) current.open = false;
    };
    document.addEventListener('pointerdown', close);
    return () => document.removeEventListener('pointerdown', close);
  }, []);
  if (readers.length < 2) return null;
  const nameOf = (reader: string) => readers.find(({ id }) => id === reader)?.name;
  const known = mine.filter((id) => nameOf(id) !== undefined);
  const [only] = known;
  const words = known.length === 0 ? 'every reader' : known.length === 1 ? nameOf(only!)! : `${known.length} readers`;
  return (
    <details
      ref={details}
      className="relative shrink-0"
      onKeyDown={(event) => {
        if (event.key !== 'Escape' || !details.current!.open) return;
        details.current!.open = false;
        details.current!.querySelector('summary')!.focus();
      }}
    >
      <summary
        className="min-h-6 max-w-36 cursor-pointer truncate py-1 text-ink-2"
        title="Whose reads come in by themselves"
      >
        from {words}
      </summary>
      <fieldset className="panel absolute top-full right-0 z-30 mt-1 flex w-72 flex-col gap-1 p-3">
        <legend className="sr-only">Whose reads come in by themselves</legend>
        <p className="text-ink-2">
          Reads of these come in by themselves. With none chosen, those of every reader do. All of them stand in the
          history.
        </p>
        <Checks
          names={readers.map(({ name }) => name)}
          chosen={known.map((id) => nameOf(id)!)}
          onChange={(names) =>
            dispatch(
              readersChosen({
                site,
                readers: readers.filter(({ name }) => names.includes(name)).map(({ id }) => id),
              }),
            )
          }
        />
      </fieldset>
    </details>
  );
}
