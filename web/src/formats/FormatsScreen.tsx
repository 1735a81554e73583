/** Formats: the library, what this site has adopted of it, and one format on a tape. */
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { useSite } from '../frame/useSite.ts';
import { FailureNote } from '../shared/FailureNote.tsx';
import { useFormatsQuery } from './endpoints.ts';
import { NewFormat } from './NewFormat.tsx';
import { OneFormat } from './OneFormat.tsx';

export function FormatsScreen() {
  const { id, may } = useSite();
  const { format: formatId } = useParams();
  const { data = [], error } = useFormatsQuery(id);
  const [search, setSearch] = useState('');
  const [adding, setAdding] = useState(false);
  const words = search.trim().toLowerCase();
  const rows = data.filter((f) => `${f.format.id} ${f.format.name} ${f.layout}`.toLowerCase().includes(words));
  const chosen = data.find((f) => f.format.id === formatId) ?? data.find((f) => f.adopted) ?? data[0];
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h1>Formats</h1>
        <span className="text-ink-2">
          {data.length} in the library, {data.filter((f) => f.adopted).length} in use at this site
        </span>
        {may('technician') && (
          <button type="button" className="btn btn-line ml-auto self-center" onClick={() => setAdding(true)}>
            New format …
          </button>
        )}
      </div>
      <FailureNote failure={error} />
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,19rem)_minmax(0,1fr)] gap-3 max-md:grid-cols-1">
        <section className="panel flex min-h-0 flex-col p-3" aria-label="Library">
          <input
            data-search
            value={search}
            onChange={(event) => setSearch(event.target.value)}
            placeholder="length, name, layout"
            aria-label="Search formats"
            className="input mb-2 w-full"
          />
          <ul className="min-h-0 flex-1 overflow-auto">
            {rows.map(({ format, adopted }) => (
              <li key={format.id} className="border-t border-faint">
                <Link
                  to={`/${id}/formats/${format.id}`}
                  onClick={() => setAdding(false)}
                  aria-current={!adding && format.id === chosen?.format.id ? 'true' : undefined}
                  className="grid grid-cols-[2.5rem_1fr_auto] gap-2 px-1 py-1.5 hover:bg-chosen aria-[current=true]:bg-chosen"
                >
                  <span className="text-right font-mono">{format.bits}</span>
                  <span>{format.name.replace(/^\d+ bits, /, '')}</span>
                  {adopted && <span className="tag self-start text-primary">in use</span>}
                </Link>
              </li>
            ))}
            {rows.length === 0 && data.length > 0 && (
              <li className="py-2 text-ink-2">No format has that in its name or layout.</li>
            )}
          </ul>
        </section>
        {adding ? (
          <NewFormat onDone={() => setAdding(false)} />
        ) : (
          chosen && <OneFormat key={chosen.format.id} entry={chosen} />
        )}
      </div>
    </div>
  );
}
