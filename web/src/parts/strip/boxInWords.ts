/** How far a box is known, as one sentence. */
import type { BoxFinding } from '@rawbits/core/identify';

const number = (text: string): string => BigInt(text).toLocaleString('en');

type Counted = Pick<BoxFinding, 'from' | 'to' | 'of' | 'proven' | 'settled' | 'likely' | 'open'> &
  Partial<Pick<BoxFinding, 'cards'>>;

/** `Of the 200 cards 118,400 to 118,599 the bits of 37 are proven, 151 settled, 12 likely, none open.` */
export function boxInWords({ from, to, of, cards, proven, settled, likely, open }: Counted): string {
  const counts = Object.entries({ proven, settled, likely, open }).map(([standing, count], i) => {
    const many = count === 0 ? 'none' : String(count);
    return `${many}${i === 0 ? ' are' : ''} ${standing}`;
  });
  const listed = cards === undefined || String(cards.length) === of ? '' : `, of which ${cards.length} are listed,`;
  return `Of the ${number(of)} cards ${number(from)} to ${number(to)}${listed} the bits of ${counts.join(', ')}.`;
}
