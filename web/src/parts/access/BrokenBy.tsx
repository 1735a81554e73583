/** Who breaks an assertion, where, and when first. */
import type { Access } from '@rawbits/api';

type Broken = Access['assertions'][number]['broken'];

export function BrokenBy({ broken }: { broken: Broken }) {
  return (
    <ul className="list-disc pl-5">
      {broken.map(({ person, people, group, schedule, door, date, time }) => (
        <li key={`${person} ${group} ${door} ${schedule}`}>
          {person}
          {people > 1 && ` and ${(people - 1).toLocaleString('en')} more`} could pass {door} on {date} at {time}
          {group === null ? ': any active card passes it' : `, through ${group} by ${schedule}`}.
        </li>
      ))}
    </ul>
  );
}
