/** Sets and their keys as a list to choose from: name, kind, and the check value of the version in use. */
import type { KeySet } from '@rawbits/api';
import { useState } from 'react';
import { Link } from 'react-router';
import { useSite } from '../../platform/site/useSite.ts';
import { KIND_WORDS, versionOf } from './words/words.ts';

interface Props {
  sets: KeySet[];
  chosen: string | undefined;
  onOpen: () => void;
}

export function KeyList({ sets, chosen, onOpen }: Props) {
  const { id: site } = useSite();
  const [search, setSearch] = useState('');
  const words = search.trim().toLowerCase();
  return (
    <>
      <input
        data-search
        value={search}
        onChange={(event) => setSearch(event.target.value)}
        placeholder="name or check value"
        aria-label="Search keys"
        className="input w-full"
      />
      <div className="min-h-0 flex-1 overflow-auto">
        {sets.map((set) => (
          <section key={set.id} aria-label={set.name} className="pb-2">
            <h2 title={set.notes || undefined}>{set.name}</h2>
            <ul>
              {set.keys
                .filter((key) =>
                  `${set.name} ${key.name} ${key.versions.map((v) => v.checkValue).join(' ')}`
                    .toLowerCase()
                    .includes(words),
                )
                .map((key) => {
                  const now = versionOf(key, key.current);
                  return (
                    <li key={key.id} className="border-t border-faint">
                      <Link
                        to={`/${site}/keys/${key.id}`}
                        onClick={onOpen}
                        aria-current={key.id === chosen ? 'true' : undefined}
                        className="grid grid-cols-[1fr_auto] gap-x-2 px-1 py-1.5 hover:bg-chosen aria-[current=true]:bg-chosen"
                      >
                        <span>{key.name}</span>
                        <span className="font-mono">{now?.checkValue ?? '–'}</span>
                        <span className="text-[0.9rem] text-ink-2">{KIND_WORDS[key.kind]}</span>
                        <span className="text-right text-[0.9rem] text-ink-2">
                          {key.retiredAt ? 'retired' : now ? `version ${now.version}` : 'none in use'}
                        </span>
                      </Link>
                    </li>
                  );
                })}
              {set.keys.length === 0 && <li className="py-1 text-ink-2">no key yet</li>}
            </ul>
          </section>
        ))}
      </div>
    </>
  );
}
