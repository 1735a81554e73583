import type { AccessEvent } from '@rawbits/api';
import { useNavigate } from 'react-router';
import { useEventsQuery } from '../../platform/endpoints/doors.ts';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { useAppDispatch } from '../../platform/state/hooks.ts';
import { inSiteDays } from '../../platform/words/siteDays.ts';
import { useCodeWords } from '../facility/codeNames.ts';
import { chosen } from '../inHand/slice.ts';

export function EventList() {
  const { id } = useSite();
  const { data = [], isLoading } = useEventsQuery({ site: id });
  return (
    <section className="panel flex min-h-48 flex-col p-3" aria-label="Last events">
      <h2>Last events</h2>
      <ul className="min-h-0 flex-1 overflow-auto">
        {data.map((event) => (
          <EventLine key={event.id} event={event} />
        ))}
        {!isLoading && data.length === 0 && (
          <li className="py-2 text-ink-2">Nothing has happened yet: hold a card to a door’s reader.</li>
        )}
      </ul>
    </section>
  );
}

const STEP_WORDS = {
  chip: 'at the chip',
  length: 'at the length',
  checks: 'at the checks',
  number: 'at the number',
  facility: 'at the facility code',
  state: 'at the card’s state',
  dates: 'at its dates',
  group: 'at its access groups',
  schedule: 'at the schedule',
} as const;

/** `time` stands in front, where the day is said elsewhere. */
export function EventLine({ event, time }: { event: AccessEvent; time?: string }) {
  const clock = useClock();
  const { id, zone } = useSite();
  const withNames = useCodeWords();
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const openRead = () => {
    dispatch(
      chosen({
        bits: event.bits!,
        from: event.reader?.name ?? 'a reader',
        at: event.at,
        id: event.readId,
        readings: [],
      }),
    );
    void navigate(`/${id}/read`);
  };
  const outcome = event.kind === 'presented' ? event.outcome : event.kind;
  return (
    <li
      className="grid grid-cols-[7.5rem_5rem_minmax(0,1fr)] gap-x-3 max-sm:grid-cols-2 max-sm:*:last:col-span-2 border-t border-faint py-1.5"
      data-event={event.id}
    >
      <span className="text-ink-2">{time ?? clock(event.at)}</span>
      <strong className={event.outcome === 'refused' || event.kind === 'load failed' ? 'text-signal' : 'text-primary'}>
        {outcome}
      </strong>
      <span className="min-w-0">
        <strong>{event.reader?.name ?? event.controller?.name}</strong>
        {event.card?.holder && `, ${event.card.holder}`}
        {event.bits && (
          <button type="button" className="switch-link ml-2 underline underline-offset-2" onClick={openRead}>
            {event.bits.length} bits
          </button>
        )}
        <span className="block">
          {event.stoppedAt && <span className="text-ink-2">stopped {STEP_WORDS[event.stoppedAt]}: </span>}
          {withNames(inSiteDays(event.reason, zone))}
        </span>
        {event.chip && event.stoppedAt === 'chip' && <ChipSteps steps={event.chip} />}
        {event.advice && <span className="block font-bold">{inSiteDays(event.advice, zone)}</span>}
      </span>
    </li>
  );
}

/** What a reader that reads chips did up to where it stopped. */
function ChipSteps({ steps }: { steps: NonNullable<AccessEvent['chip']> }) {
  return (
    <ol className="text-[0.9rem]" aria-label="Steps of the reader">
      {steps.map(({ step, holds }) => (
        <li key={step} className={holds ? 'text-ink-2' : 'font-bold text-signal'}>
          {holds ? '✓' : '✗'} {step}
        </li>
      ))}
    </ol>
  );
}
