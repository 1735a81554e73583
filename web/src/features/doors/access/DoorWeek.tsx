/** Who may pass a door, a band a group, over a week and at one moment. */
import type { Door } from '@rawbits/api';
import type { Way } from '@rawbits/core/access/rights';
import { dateOf, dayOf, weekdayOf } from '@rawbits/core/access/schedule';
import { useState } from 'react';
import { Link } from 'react-router';
import { MomentField, useMoment } from '../../../parts/access/MomentField.tsx';
import { textureOf } from '../../../parts/week/geometry.ts';
import { Week } from '../../../parts/week/Week.tsx';
import { BandSign } from '../../../parts/week/WeekLegend.tsx';
import { useAccessOfDoorQuery } from '../../../platform/endpoints/access.ts';
import { FailureNote } from '../../../platform/forms/FailureNote.tsx';
import { useSite } from '../../../platform/site/useSite.ts';
import { counted } from '../../../platform/words/words.ts';

export function DoorWeek({ door, zone }: { door: Door; zone: string }) {
  const { id: site } = useSite();
  const ways = (['in', 'out'] as const).filter((way) => door.readers.some((reader) => reader.way === way));
  const [way, setWay] = useState<Way>(ways[0] ?? 'in');
  const moment = useMoment(zone);
  const monday = dateOf(dayOf(moment.date) - (weekdayOf(dayOf(moment.date)) - 1));
  const { data, error } = useAccessOfDoorQuery({
    site,
    id: door.id,
    way,
    from: monday,
    ...(moment.at !== undefined && { at: moment.at }),
  });
  const bands = (data?.groups ?? []).map(({ name, week }) => ({ name, days: week }));
  return (
    <section className="panel flex shrink-0 flex-col gap-3 p-4" aria-label="Who may pass">
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
        <h2 className="text-[1.15rem]">{door.name}</h2>
        {ways.length > 1 && (
          <fieldset className="flex gap-1">
            <legend className="sr-only">Way</legend>
            {ways.map((one) => (
              <button
                key={one}
                type="button"
                className="switch-link"
                aria-pressed={one === way}
                onClick={() => setWay(one)}
              >
                {one}
              </button>
            ))}
          </fieldset>
        )}
        <span className="text-ink-2">{ways.length === 1 && `the way ${way}`}</span>
        <MomentField moment={moment} />
      </div>
      <FailureNote failure={error} />
      {data?.open && (
        <p className="text-signal">
          Anybody with an active card passes at any time: this door does not ask for access groups.
        </p>
      )}
      {bands.length > 0 && (
        <Week
          label={`Who may pass ${door.name}, ${way}`}
          bands={bands}
          mark={{ day: weekdayOf(dayOf(moment.date)) - 1, minute: moment.minute }}
        />
      )}
      {data && !data.open && bands.length === 0 && (
        <p className="text-signal">Nobody: no access group has this door, {way}.</p>
      )}
      {data && data.groups.length > 0 && (
        <table className="grid-table" aria-label="Groups that have this door">
          <thead>
            <tr>
              <th>Group</th>
              <th>People</th>
              <th>By</th>
              <th>{moment.words}</th>
            </tr>
          </thead>
          <tbody>
            {data.groups.map((group, i) => (
              <tr key={group.id}>
                <td>
                  <BandSign band={group.id} texture={textureOf(i)} />
                  <Link to={`/${site}/doors/groups/${group.id}`} className="underline">
                    {group.name}
                  </Link>
                </td>
                <td>{counted(group.members, 'person', 'people')}</td>
                <td>
                  {group.through.map(({ schedule, when }) => (
                    <span key={schedule} className="block">
                      {schedule}: <span className="text-ink-2">{when}</span>
                    </span>
                  ))}
                </td>
                <td className={group.now ? 'font-bold text-primary' : 'text-ink-2'}>
                  {group.now ? 'may pass' : 'may not'}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
