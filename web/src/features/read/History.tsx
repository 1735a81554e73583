/** Earlier reads, with search by bits, hex, length or reader. */
import { useDeferredValue, useState } from 'react';
import { chosen, inHandOf, type ReadInHand } from '../../parts/inHand/slice.ts';
import { MiniTape } from '../../parts/tape/MiniTape.tsx';
import { useReadsQuery } from '../../platform/endpoints/reads.ts';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';

export function History({ current }: { current: ReadInHand }) {
  const clock = useClock();
  const { id } = useSite();
  const [search, setSearch] = useState('');
  const sought = useDeferredValue(search.trim());
  const { data = [], isFetching } = useReadsQuery({ site: id, search: sought || undefined, limit: 60 });
  const dispatch = useAppDispatch();
  return (
    <section
      className="panel [grid-area:history] flex min-h-40 max-md:max-h-96 flex-col gap-2 overflow-hidden p-3"
      aria-label="Reads kept"
    >
      <div className="flex items-baseline gap-2">
        <h2 className="whitespace-nowrap">Reads kept</h2>
        <input
          value={search}
          onChange={(event) => setSearch(event.target.value)}
          placeholder="hex, length, reader"
          aria-label="Search reads"
          className="input ml-auto w-40 min-w-0"
        />
      </div>
      <ul className="min-h-0 flex-1 overflow-auto">
        {data.map((read) => (
          <li key={read.id} className="border-t border-faint">
            <button
              type="button"
              onClick={() => dispatch(chosen(inHandOf(read)))}
              aria-current={read.id === current.id}
              className="grid w-full cursor-pointer grid-cols-[minmax(0,1fr)_auto] gap-x-2 px-1 py-1 text-left hover:bg-chosen aria-[current=true]:bg-chosen"
            >
              <span className="truncate">{read.reader?.name ?? `pasted, ${read.notation}`}</span>
              <span className="text-ink-2">{clock(read.at)}</span>
              <MiniTape bits={read.bits} width={120} />
              <span className="font-mono text-ink-2">{read.bits.length}</span>
            </button>
          </li>
        ))}
        {data.length === 0 && !isFetching && (
          <li className="py-2 text-ink-2">{sought ? 'No read kept has that.' : 'None yet.'}</li>
        )}
      </ul>
    </section>
  );
}
