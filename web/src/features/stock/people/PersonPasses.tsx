/** Where and when somebody may pass, and through which groups. */
import type { OneCardholder } from '@rawbits/api';
import { dateOf, dayOf, weekdayOf } from '@rawbits/core/access/schedule';
import { Link } from 'react-router';
import { MomentField, useMoment } from '../../../parts/access/MomentField.tsx';
import { textureOf } from '../../../parts/week/geometry.ts';
import { Week } from '../../../parts/week/Week.tsx';
import { BandSign } from '../../../parts/week/WeekLegend.tsx';
import { useAccessOfHolderQuery } from '../../../platform/endpoints/access.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';

export function PersonPasses({ person }: { person: OneCardholder }) {
  const { id: site, zone } = useSite();
  const moment = useMoment(zone);
  const monday = dateOf(dayOf(moment.date) - (weekdayOf(dayOf(moment.date)) - 1));
  const { data, error } = useAccessOfHolderQuery({
    site,
    id: person.id,
    from: monday,
    ...(moment.at !== undefined && { at: moment.at }),
  });
  const guarded = (data?.passages ?? []).filter(({ open }) => !open);
  const open = (data?.passages ?? []).filter((passage) => passage.open);
  const bands = guarded.map(({ door, way, week }) => ({ name: `${door.name}, ${way}`, days: week }));
  return (
    <div className="flex flex-col gap-2 border-t border-faint pt-3">
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
        <h3 className="font-bold">May pass</h3>
        <MomentField moment={moment} />
      </div>
      <p className="text-ink-2">
        By the rights as they are saved, with an active card. What each card opens now is said beside it above.
      </p>
      <FailureNote failure={error} />
      {bands.length > 0 && (
        <Week
          label={`Where ${person.name} may pass`}
          bands={bands}
          mark={{ day: weekdayOf(dayOf(moment.date)) - 1, minute: moment.minute }}
        />
      )}
      {guarded.length > 0 && (
        <table className="grid-table" aria-label="Doors that they may pass">
          <thead>
            <tr>
              <th>Door</th>
              <th>Through</th>
              <th>{moment.words}</th>
            </tr>
          </thead>
          <tbody>
            {guarded.map(({ door, way, through, now }, i) => (
              <tr key={`${door.id} ${way}`}>
                <td>
                  <BandSign band={`${door.id}${way}`} texture={textureOf(i)} />
                  <Link to={`/${site}/doors/passing/${door.id}`} className="underline">
                    {door.name}
                  </Link>
                  , {way}
                </td>
                <td>{through.map(({ group, schedule }) => `${group}, by ${schedule}`).join('; ')}</td>
                <td className={now ? 'font-bold text-primary' : 'text-ink-2'}>{now ? 'may pass' : 'may not'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {data && guarded.length === 0 && <p>No door that asks for access groups.</p>}
      {open.length > 0 && (
        <p className="text-ink-2">
          And as anybody with an active card, at any time:{' '}
          {open.map(({ door, way }) => `${door.name}, ${way}`).join('; ')}.
        </p>
      )}
    </div>
  );
}
