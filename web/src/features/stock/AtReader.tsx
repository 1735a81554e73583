/** The reader at which the next card is taken: armed by name for a while, for one operator at once. */
import type { Armed } from '@rawbits/api';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { useArmedQuery, useArmMutation, useDisarmMutation } from '../../platform/endpoints/arming.ts';
import { useReadersQuery } from '../../platform/endpoints/doors.ts';
import { FailureNote } from '../../platform/forms/FailureNote.tsx';
import { useNow } from '../../platform/hooks/useNow.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { keeping, keptUnder } from '../../platform/state/kept.ts';

interface Choice {
  reader: string;
  seconds: number;
}
const KEPT = 'rawbits.reader';
const SECONDS = [15, 30, 60, 120] as const;

export function AtReader() {
  const { id: site, may } = useSite();
  const { data: readers = [] } = useReadersQuery(site);
  const { data: armed = [] } = useArmedQuery(site);
  const [arm, { error, isLoading }] = useArmMutation();
  const [choice, setChoice] = useState<Choice>(() => ({ reader: '', seconds: 30, ...keptUnder<Choice>(KEPT) }));
  const [keep] = useState(() => keeping<Choice>(KEPT, choice));
  const mine = armed.find(({ isMine }) => isMine);
  const reader = readers.find(({ id }) => id === choice.reader) ?? readers.find(({ kind }) => kind === 'enrolment');
  const chosen = reader ?? readers[0];
  if (!may('take reads') || !chosen) return null;
  if (mine)
    return (
      <Waiting key={mine.until} armed={mine} opens={readers.find(({ id }) => id === mine.readerId)?.kind === 'door'} />
    );
  const choose = (next: Choice) => {
    setChoice(next);
    keep(next);
  };
  return (
    <div className="flex items-center gap-1.5 max-sm:flex-wrap" data-testid="at-reader">
      <button
        type="button"
        className="btn btn-line btn-small shrink-0"
        disabled={isLoading}
        onClick={() => void arm({ site, id: chosen.id, seconds: choice.seconds })}
      >
        Wait for a card
      </button>
      at
      <select
        aria-label="Reader"
        className="select w-40 min-w-0"
        value={chosen.id}
        onChange={({ target: { value } }) => choose({ ...choice, reader: value })}
      >
        {readers.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
      for
      <select
        aria-label="How long"
        className="select w-20 shrink-0"
        value={choice.seconds}
        onChange={({ target: { value } }) => choose({ ...choice, seconds: Number(value) })}
      >
        {SECONDS.map((seconds) => (
          <option key={seconds} value={seconds}>
            {seconds} s
          </option>
        ))}
      </select>
      <FailureNote failure={error} />
    </div>
  );
}

/** The reader is armed: what is held to it next is taken, and the form begins with it. */
function Waiting({ armed, opens }: { armed: Armed; opens: boolean }) {
  const { id: site } = useSite();
  const navigate = useNavigate();
  const [disarm, { error }] = useDisarmMutation();
  const now = useNow(500);
  const { readerId, read } = armed;
  // By what the server said is left: the browser’s clock may be another.
  const [ends] = useState(() => Date.now() + armed.leftMs);
  const left = Math.ceil((ends - now) / 1000);
  useEffect(() => {
    if (!read) return;
    void disarm({ site, id: readerId });
    void navigate(`/${site}/stock?issue=${read.bits}`);
  }, [read, readerId, disarm, navigate, site]);
  const isOver = left <= 0;
  useEffect(() => {
    if (isOver && !read) void disarm({ site, id: readerId });
  }, [isOver, read, readerId, disarm, site]);
  return (
    <p role="status" className="border-l-4 border-primary pl-3" data-testid="armed">
      <strong>Hold the card to {armed.reader}</strong>, {Math.max(0, left)} s left.
      {opens && ' The door opens meanwhile for a card that may pass it.'}{' '}
      <button type="button" className="switch-link underline" onClick={() => void disarm({ site, id: readerId })}>
        wait no more
      </button>
      <FailureNote failure={error} />
    </p>
  );
}
