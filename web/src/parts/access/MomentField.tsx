/** A moment on the clocks of the site: now, or one that is chosen. */
import { dateOf, dayOf, instantShowing, timeInWords, wallClock } from '@rawbits/core/access/schedule';
import { useMemo, useState } from 'react';
import { useNow } from '../../platform/hooks/useNow.ts';

export interface Moment {
  date: string;
  minute: number;
  /** The instant, where one was chosen and the clocks show it. */
  at: string | undefined;
  words: string;
  /** What was chosen, as it is typed; the moment is now where either is empty. */
  chosen: { date: string; time: string };
  isNever: boolean;
  choose(next: { date: string; time: string }): void;
}

const NOW = { date: '', time: '' };

export function useMoment(zone: string): Moment {
  const [chosen, choose] = useState(NOW);
  const now = useNow(30_000);
  return useMemo(() => {
    const shown = wallClock(zone)(now);
    const here = { date: dateOf(shown.day), minute: shown.minute };
    const time = /^(\d{1,2}):(\d{2})$/.exec(chosen.time);
    const minute = time ? Number(time[1]) * 60 + Number(time[2]) : undefined;
    // While a year is typed it passes through others.
    const isDay = /^[1-9]\d{3}-/.test(chosen.date);
    if (!isDay || minute === undefined || minute > 1439)
      return { ...here, at: undefined, words: 'Now', chosen, isNever: false, choose };
    const instant = instantShowing(zone, { day: dayOf(chosen.date), minute });
    return {
      date: chosen.date,
      minute,
      at: instant === undefined ? undefined : new Date(instant).toISOString(),
      words: `${chosen.date} ${timeInWords(minute)}`,
      chosen,
      isNever: instant === undefined,
      choose,
    };
  }, [chosen, zone, now]);
}

export function MomentField({ moment }: { moment: Moment }) {
  const { chosen, choose } = moment;
  return (
    <span className="ml-auto flex flex-wrap items-center gap-2">
      <span className="text-ink-2">at</span>
      <input
        type="date"
        aria-label="Day"
        value={chosen.date}
        onChange={({ target: { value } }) => choose({ time: chosen.time || '12:00', date: value })}
        className="input w-40 font-mono"
      />
      <input
        aria-label="Time"
        value={chosen.time}
        placeholder="21:04"
        maxLength={5}
        onChange={({ target: { value } }) => choose({ date: chosen.date || moment.date, time: value })}
        className="input w-20 font-mono"
      />
      {(chosen.date || chosen.time) && (
        <button type="button" className="switch-link underline" onClick={() => choose(NOW)}>
          now
        </button>
      )}
      {moment.isNever && <span className="text-signal">The clocks leave this time out.</span>}
    </span>
  );
}
