/** What a change does to who may pass: assertions that break, who loses and gains which doors, when it reaches them. */
import type { AccessReview } from '@rawbits/api';
import { counted } from '../../platform/words/words.ts';
import { BrokenBy } from './BrokenBy.tsx';

export function AccessEffect({ review: { gains, losses, breaks, controllers } }: { review: AccessReview }) {
  return (
    <>
      {breaks.map(({ id, name, broken }) => (
        <div key={id} className="text-signal">
          <p>
            <strong>“{name}” would hold no more.</strong>
          </p>
          <BrokenBy broken={broken} />
        </div>
      ))}
      <Moved title="Loses" sign="−" rows={losses} />
      <Moved title="Gains" sign="+" rows={gains} />
      <p className="text-ink-2">
        {controllers.length === 0
          ? 'No controller has anything to be loaded for it.'
          : `It reaches the doors with the next load of ${controllers.join(', ')}.`}
      </p>
    </>
  );
}

interface BreakProps {
  breaks: AccessReview['breaks'];
  isBreaking: boolean;
  onBreaking: (is: boolean) => void;
}

/** Nothing where nothing breaks. */
export function BreakKnowingly({ breaks, isBreaking, onBreaking }: BreakProps) {
  if (breaks.length === 0) return null;
  return (
    <label className="flex items-center gap-2">
      <input
        type="checkbox"
        className="checkbox checkbox-sm"
        checked={isBreaking}
        onChange={(event) => onBreaking(event.target.checked)}
      />
      break {breaks.length === 1 ? 'it' : 'them'} knowingly; the trail keeps who did
    </label>
  );
}

/** Who they are: `Isak, Oline and 3 more: 4 people with an active card, 1 without`. */
export function peopleInWords({
  people,
  later,
  names,
}: Pick<AccessReview['gains'][number], 'people' | 'later' | 'names'>) {
  const more = people + later - names.length;
  const who = more > 0 ? `${names.join(', ')} and ${more.toLocaleString('en')} more` : names.join(', ');
  if (later > 0)
    return people === 0
      ? `${who}: without an active card yet`
      : `${who}: ${counted(people, 'person', 'people')} with an active card, ${later.toLocaleString('en')} without`;
  return more > 0 ? `${who}: ${counted(people, 'person', 'people')}` : who;
}

function Moved({ title, sign, rows }: { title: string; sign: string; rows: AccessReview['gains'] }) {
  if (rows.length === 0) return null;
  return (
    <table className="grid-table" aria-label={title}>
      <thead>
        <tr>
          <th>{title}</th>
          <th>Door</th>
          <th>When</th>
          <th>First</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={`${row.door} ${row.way} ${row.when} ${row.first}`}>
            <td>
              <span className="font-mono font-bold">{sign}</span> {peopleInWords(row)}
            </td>
            <td>
              {row.door}, {row.way}
            </td>
            <td>{row.when}</td>
            <td className="whitespace-nowrap font-mono">{row.first}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
