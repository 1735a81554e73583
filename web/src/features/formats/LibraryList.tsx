/** The library as a list: to search, and to choose one format from. */
import type { SiteFormat } from '@rawbits/api';
import { useState } from 'react';
import { Link } from 'react-router';
import { useSite } from '../../platform/site/useSite.ts';

export function LibraryList({
  formats,
  retired,
  chosen,
  onOpen,
}: {
  formats: SiteFormat[];
  retired: SiteFormat[];
  chosen: string | undefined;
  onOpen: () => void;
}) {
  const { id } = useSite();
  const [search, setSearch] = useState('');
  const [withRetired, setWithRetired] = useState(false);
  const words = search.trim().toLowerCase();
  const all = withRetired ? [...formats, ...retired] : formats;
  const rows = all.filter((f) => `${f.format.id} ${f.format.name} ${f.layout}`.toLowerCase().includes(words));
  return (
    <section className="panel flex min-h-0 flex-col p-3 print:hidden" aria-label="Library">
      <input
        data-search
        value={search}
        onChange={(event) => setSearch(event.target.value)}
        placeholder="length, name, layout"
        aria-label="Search formats"
        className="input mb-2 w-full"
      />
      <ul className="min-h-0 flex-1 overflow-auto">
        {rows.map(({ format, adopted, retiredAt }) => (
          <li key={format.id} className="border-t border-faint">
            <Link
              to={`/${id}/formats/${format.id}`}
              onClick={onOpen}
              aria-current={format.id === chosen ? 'true' : undefined}
              className="grid grid-cols-[2.5rem_1fr_auto] gap-2 px-1 py-1.5 hover:bg-chosen aria-[current=true]:bg-chosen"
            >
              <span className="text-right font-mono">{format.bits}</span>
              <span>{format.name.replace(/^\d+ bits, /, '')}</span>
              {adopted && <span className="tag self-start text-primary">in use</span>}
              {retiredAt && <span className="tag self-start text-ink-2">retired</span>}
            </Link>
          </li>
        ))}
        {rows.length === 0 && all.length > 0 && (
          <li className="py-2 text-ink-2">No format has that in its name or layout.</li>
        )}
      </ul>
      {retired.length > 0 && (
        <label className="mt-2 flex items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={withRetired}
            onChange={(event) => setWithRetired(event.target.checked)}
          />
          {retired.length} retired
        </label>
      )}
    </section>
  );
}
