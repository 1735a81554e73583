/** What the command list finds at the site by what was typed: people, cards, facility codes, doors. */
import { Command } from 'cmdk';
import { useDeferredValue } from 'react';
import { useCodes } from '../parts/facility/codeNames.ts';
import { useCardholdersQuery, useCardsInfiniteQuery } from '../platform/endpoints/cards.ts';
import { useControllersQuery } from '../platform/endpoints/doors.ts';
import { useFacilityCodesQuery } from '../platform/endpoints/facilityCodes.ts';
import { useSite } from '../platform/site/useSite.ts';

/** So many of a kind are listed. */
const MOST = 5;
/** Fewer characters find too much. */
const LEAST = 2;

export function Found({ text, className, go }: { text: string; className: string; go: (path: string) => () => void }) {
  const { id } = useSite();
  const typed = text.trim();
  const search = useDeferredValue(typed);
  const skip = search.length < LEAST;
  const { data: people } = useCardholdersQuery({ site: id, search, limit: MOST }, { skip });
  const { data: cards } = useCardsInfiniteQuery({ site: id, search, limit: MOST }, { skip });
  const { data: codes = [] } = useFacilityCodesQuery(id, { skip });
  const { data: controllers = [] } = useControllersQuery(id, { skip });
  const nameOf = useCodes();
  if (skip) return null;
  const says = (words: string) => words.toLowerCase().includes(search.toLowerCase());
  // The server has looked already: what it found is shown, however it found it.
  const found = { className, keywords: [typed] };
  return (
    <>
      {people?.cardholders.map(({ id: person, name, department, cards: held }) => (
        <Command.Item
          key={person}
          value={`person ${person}`}
          onSelect={go(`/${id}/stock?search=${encodeURIComponent(name)}`)}
          {...found}
        >
          {name}{' '}
          <span className="text-ink-2">
            {[department, held === 1 ? '1 card' : `${held} cards`].filter(Boolean).join(', ')}
          </span>
        </Command.Item>
      ))}
      {cards?.pages[0]?.cards.map((card) => (
        <Command.Item key={card.id} value={`card ${card.id}`} onSelect={go(`/${id}/stock/${card.id}`)} {...found}>
          Card{' '}
          <span className="font-mono">
            {card.facility === null ? '' : `${card.facility}/`}
            {card.number}
          </span>{' '}
          <span className="text-ink-2">
            {[nameOf(card.facility, card.formatId)?.name, card.holder?.name ?? card.state].filter(Boolean).join(', ')}
          </span>
        </Command.Item>
      ))}
      {codes
        .filter(({ code, name }) => code.startsWith(search) || says(name))
        .slice(0, MOST)
        .map(({ id: own, code, name }) => (
          <Command.Item key={own} value={`code ${own}`} onSelect={go(`/${id}/formats?part=codes`)} {...found}>
            Facility code <span className="font-mono">{code}</span> <span className="text-ink-2">{name}</span>
          </Command.Item>
        ))}
      {controllers
        .filter(({ name, device }) => says(name) || says(device))
        .slice(0, MOST)
        .map(({ id: own, name }) => (
          <Command.Item key={own} value={`door ${own}`} onSelect={go(`/${id}/doors?controller=${own}`)} {...found}>
            Controller {name}
          </Command.Item>
        ))}
    </>
  );
}
