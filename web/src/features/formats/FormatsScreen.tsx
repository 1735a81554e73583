/** Formats: the library and one format of it; facility codes; one card with two numbers; files. */
import { lazy, Suspense, useState } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { useFormatsQuery, useLibraryQuery } from '../../platform/endpoints/formats.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useSite } from '../../platform/site/useSite.ts';
import { Files } from './Files.tsx';
import { LibraryList } from './LibraryList.tsx';
import { NewFormat } from './NewFormat.tsx';
import { OneFormat } from './OneFormat.tsx';

const FacilityCodes = lazy(async () => ({
  default: (await import('../facilityCodes/FacilityCodes.tsx')).FacilityCodes,
}));
const TwoNumbers = lazy(async () => ({ default: (await import('../translate/TwoNumbers.tsx')).TwoNumbers }));

const PARTS = [
  ['library', 'Library'],
  ['codes', 'Facility codes'],
  ['numbers', 'One card, two numbers'],
  ['files', 'Files'],
] as const;

export function FormatsScreen() {
  const { id, may } = useSite();
  const { format: formatId } = useParams();
  const [params, setParams] = useSearchParams();
  const part = PARTS.find(([name]) => name === params.get('part'))?.[0] ?? 'library';
  const { data = [], error } = useFormatsQuery(id);
  const { data: library = [] } = useLibraryQuery();
  const retired = library
    .filter((f) => f.retiredAt && !data.some((other) => other.format.id === f.format.id))
    .map((f) => ({ ...f, adopted: false }));
  const [adding, setAdding] = useState(params.get('new') !== null);
  const all = [...data, ...retired];
  const chosen = all.find((f) => f.format.id === formatId) ?? data.find((f) => f.adopted) ?? data[0];
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 p-4 px-5">
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 print:hidden">
        <h1>Formats</h1>
        <nav aria-label="Parts of Formats" className="flex flex-wrap gap-x-2">
          {PARTS.map(([name, words]) => (
            <button
              key={name}
              type="button"
              className="switch-link"
              aria-pressed={part === name}
              onClick={() => setParams(name === 'library' ? {} : { part: name })}
            >
              {words}
            </button>
          ))}
        </nav>
        <span className="text-ink-2">
          {data.length} in the library, {data.filter((f) => f.adopted).length} in use at this site
        </span>
        {part === 'library' && may('define formats') && !adding && (
          <button type="button" className="btn btn-line ml-auto self-center" onClick={() => setAdding(true)}>
            New format …
          </button>
        )}
      </div>
      <FailureNote failure={error} />
      {part === 'library' ? (
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,17rem)_minmax(0,1fr)] gap-3 max-md:grid-cols-1 print:block">
          <LibraryList
            formats={data}
            retired={retired}
            chosen={adding ? undefined : chosen?.format.id}
            onOpen={() => setAdding(false)}
          />
          {adding ? (
            <NewFormat onDone={() => setAdding(false)} />
          ) : (
            chosen && <OneFormat key={`${chosen.format.id} ${chosen.version}`} entry={chosen} />
          )}
        </div>
      ) : (
        <Suspense fallback={<p>Loading …</p>}>
          {part === 'codes' && <FacilityCodes />}
          {part === 'numbers' && <TwoNumbers />}
          {part === 'files' && <Files />}
        </Suspense>
      )}
    </div>
  );
}
