/** What is said of a card and the doors: by what the controllers hold, as far as it is known. */
import type { Card } from '@rawbits/api';
import { counted } from '../../platform/words/words.ts';

type Known = Pick<Card, 'state' | 'loaded' | 'opens'>;

/** States in which a card should open nothing. */
const STOPPED: readonly string[] = ['in stock', 'issued', 'suspended', 'lost', 'expired', 'withdrawn'];
export const isStopped = (state: string): boolean => STOPPED.includes(state);

/** Whether controllers have yet to be loaded with the card as it is on file. */
export const isWaiting = ({ state, loaded }: Known): boolean => state !== 'in stock' && loaded.in < loaded.of;

/** `opens 2 doors`, `STILL OPENS 2 doors`, `opens none yet`. */
export function opensWords(card: Known): string {
  const { state, loaded, opens } = card;
  const unknown = opens.unknownAt.length > 0 ? `; not known at ${opens.unknownAt.join(', ')}` : '';
  const doors = counted(opens.doors.length, 'door');
  if (opens.doors.length > 0) {
    if (isStopped(state)) return `STILL OPENS ${doors}${unknown}`;
    return `opens ${doors}${unknown || (isWaiting(card) ? '; changes not loaded' : '')}`;
  }
  if (isStopped(state)) return `opens none${unknown}`;
  if (loaded.of === 0) return `opens none: no controller accepts its format${unknown}`;
  return `${isWaiting(card) ? 'opens none yet' : 'opens none'}${unknown}`;
}

/** Whether it needs attention: it opens what it should not, or something has to be loaded. */
export const isAlarming = (card: Known): boolean =>
  card.opens.unknownAt.length > 0 || (isStopped(card.state) ? card.opens.doors.length > 0 : isWaiting(card));

/** As whom its bits would be let in without it: `Boat shed as 3801588, Isak, by 26-0-24`. */
export const otherWords = ({ opens }: Known): string[] =>
  opens.asOther.map(
    ({ door, card, holder, format }) => `${door} as ${card}${holder ? `, ${holder}` : ''}, by ${format}`,
  );
