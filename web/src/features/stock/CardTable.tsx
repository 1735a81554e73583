import type { Card } from '@rawbits/api';
import { Link } from 'react-router';
import { useSite } from '../../platform/site/useSite.ts';
import { dateField } from '../../platform/words/time.ts';

/** Whether the doors have the card as it is on file, in words. */
export function loadedWords({ state, loaded }: Card): string {
  if (state === 'in stock') return 'opens nothing';
  if (loaded.of === 0) return 'no controller accepts its format';
  if (loaded.in === loaded.of) return loaded.of === 1 ? 'loaded' : `loaded in all ${loaded.of}`;
  return loaded.in === 0 ? 'not loaded' : `loaded in ${loaded.in} of ${loaded.of}`;
}

export const isWaiting = ({ state, loaded }: Card): boolean => state !== 'in stock' && loaded.in < loaded.of;

export function CardTable({ cards, chosen, empty }: { cards: Card[]; chosen?: string; empty: string }) {
  const { id } = useSite();
  return (
    <table className="grid-table">
      <thead>
        <tr>
          <th>facility</th>
          <th>number</th>
          <th>printed</th>
          <th>held by</th>
          <th>state</th>
          <th>until</th>
          <th>format</th>
          <th>at the doors</th>
        </tr>
      </thead>
      <tbody>
        {cards.map((card) => (
          <tr key={card.id} aria-selected={card.id === chosen}>
            <td className="font-mono">{card.facility ?? <span className="font-sans text-ink-2">none</span>}</td>
            <td className="font-mono font-bold">
              <Link
                to={`/${id}/stock/${card.id}`}
                className="underline decoration-base-300 underline-offset-4 hover:text-primary"
              >
                {card.number}
              </Link>
            </td>
            <td className="font-mono">{card.printed}</td>
            <td>{card.holder?.name ?? <span className="text-ink-2">nobody</span>}</td>
            <td className={['suspended', 'lost', 'expired', 'withdrawn'].includes(card.state) ? 'text-signal' : ''}>
              {card.state}
            </td>
            <td className="whitespace-nowrap">{dateField(card.validTo)}</td>
            <td className="font-mono whitespace-nowrap text-ink-2">{card.formatId}</td>
            <td className={isWaiting(card) ? 'text-signal' : 'text-ink-2'}>{loadedWords(card)}</td>
          </tr>
        ))}
        {cards.length === 0 && (
          <tr>
            <td colSpan={8} className="text-ink-2">
              {empty}
            </td>
          </tr>
        )}
      </tbody>
    </table>
  );
}
