/** Who breaks an assertion, where, and when first. */
import type { Access } from '@rawbits/api';

type Broken = Access['assertions'][number]['broken'];

const more = (count: number) => `${count.toLocaleString('en')} more`;
const ONCE_ACTIVE = 'once a card of theirs is active';

export function BrokenBy({ broken }: { broken: Broken }) {
  return (
    <ul className="list-disc pl-5">
      {broken.map(({ person, people, later, group, schedule, door, date, time }) => {
        const others = (people || later) - 1;
        return (
          <li key={`${person} ${group} ${door} ${schedule}`}>
            {person}
            {others > 0 && ` and ${more(others)}`} could pass {door} on {date} at {time}
            {group === null ? ': any active card passes it' : `, through ${group} by ${schedule}`}
            {people === 0 && `, ${ONCE_ACTIVE}`}
            {people > 0 && later > 0 && `; ${more(later)}, ${ONCE_ACTIVE}`}.
          </li>
        );
      })}
    </ul>
  );
}
