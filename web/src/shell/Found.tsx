/** What the command list finds at the site by what was typed: people, cards, facility codes, doors. */
import { Command } from 'cmdk';
import { useDeferredValue, useEffect } from 'react';
import { useCodes } from '../parts/facility/codeNames.ts';
import { useCardholdersQuery, useCardsInfiniteQuery } from '../platform/endpoints/cards.ts';
import { useControllersQuery } from '../platform/endpoints/doors.ts';
import { useFacilityCodesQuery } from '../platform/endpoints/facilityCodes.ts';
import { useSite } from '../platform/site/useSite.ts';

/** So many of a kind are listed. */
const MOST = 5;
/** Fewer characters find too much. */
const LEAST = 2;

interface Props {
  text: string;
  className: string;
  go: (path: string) => () => void;
  /** Told the first of what was found, as soon as it is. */
  onFirst: (value: string) => void;
}

export function Found({ text, className, go, onFirst }: Props) {
  const { id } = useSite();
  const typed = text.trim();
  const search = useDeferredValue(typed);
  const skip = search.length < LEAST;
  const { data: people } = useCardholdersQuery({ site: id, search, limit: MOST }, { skip });
  const { data: cards } = useCardsInfiniteQuery({ site: id, search, limit: MOST }, { skip });
  const { data: codes = [] } = useFacilityCodesQuery(id, { skip });
  const { data: controllers = [] } = useControllersQuery(id, { skip });
  const nameOf = useCodes();
  // The server has looked already: what it found stands first, however it found it.
  const named = (kind: string, own: string) => `${typed} ${kind} ${own}`;
  const [person] = people?.cardholders ?? [];
  const [card] = cards?.pages[0]?.cards ?? [];
  const first = skip ? undefined : person ? named('person', person.id) : card && named('card', card.id);
  useEffect(() => {
    if (first) onFirst(first);
  }, [first, onFirst]);
  if (skip) return null;
  const says = (words: string) => words.toLowerCase().includes(search.toLowerCase());
  return (
    <>
      {people?.cardholders.map(({ id: person, name, department, cards: held }) => (
        <Command.Item
          key={person}
          value={named('person', person)}
          onSelect={go(`/${id}/stock/people/${person}`)}
          className={className}
        >
          {name}{' '}
          <span className="text-ink-2">
            {[department, held === 1 ? '1 card' : `${held} cards`].filter(Boolean).join(', ')}
          </span>
        </Command.Item>
      ))}
      {cards?.pages[0]?.cards.map((card) => (
        <Command.Item
          key={card.id}
          value={named('card', card.id)}
          onSelect={go(`/${id}/stock/${card.id}`)}
          className={className}
        >
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
          <Command.Item
            key={own}
            value={named('code', own)}
            onSelect={go(`/${id}/formats?part=codes`)}
            className={className}
          >
            Facility code <span className="font-mono">{code}</span> <span className="text-ink-2">{name}</span>
          </Command.Item>
        ))}
      {controllers
        .filter(({ name, device }) => says(name) || says(device))
        .slice(0, MOST)
        .map(({ id: own, name }) => (
          <Command.Item
            key={own}
            value={named('door', own)}
            onSelect={go(`/${id}/doors?controller=${own}`)}
            className={className}
          >
            Controller {name}
          </Command.Item>
        ))}
    </>
  );
}
