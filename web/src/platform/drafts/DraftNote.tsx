/** Says that what a form shows was typed earlier, and what somebody saved meanwhile that is to be decided. */
import { useEffect, useRef } from 'react';
import type { FieldValues } from 'react-hook-form';
import { useNow } from '../hooks/useNow.ts';
import { useSite } from '../site/useSite.ts';
import { age } from '../words/time.ts';
import type { FormDraft } from './useKeptForm.ts';
import { useWhoSaved } from './useWhoSaved.ts';

export function DraftNote<T extends FieldValues>({ draft: { since, afresh } }: { draft: FormDraft<T> }) {
  const now = useNow();
  const { zone } = useSite();
  if (since === undefined) return null;
  return (
    <p role="status" className="col-span-full w-full text-ink-2" data-testid="draft">
      What you typed here {age(new Date(since).toISOString(), now, zone)} is here again.{' '}
      <button type="button" className="switch-link underline" onClick={afresh}>
        Begin afresh
      </button>
    </p>
  );
}

/**
 * Where somebody saved otherwise while this was typed, and both changed the same: both, to be decided. `words` names a field and
 * tells a value of it; `subject` is what the trail calls the thing, so that it can be said who it was.
 */
export function Theirs<T extends FieldValues>({
  draft: { asked, tries, shows },
  words,
  subject,
}: {
  draft: FormDraft<T>;
  words: (field: keyof T & string, value: unknown) => [name: string, value: string];
  subject?: string;
}) {
  const who = useWhoSaved(asked.length > 0 ? subject : undefined);
  const first = useRef<HTMLButtonElement>(null);
  useEffect(() => {
    if (tries > 0) first.current?.focus();
  }, [tries]);
  useEffect(() => shows(), [shows]);
  if (asked.length === 0) return null;
  return (
    <div role="alert" className="col-span-full w-full border-l-4 border-signal pl-3" data-testid="theirs">
      <p>{who} saved this meanwhile, and you changed the same. Decide before you save.</p>
      {asked.map(({ field, key, mine, theirs, keepMine, takeTheirs }, i) => {
        const [name, value] = words(field, theirs);
        return (
          <p key={key}>
            {name}: yours is <strong>{words(field, mine)[1] || NONE}</strong>, theirs is{' '}
            <strong>{value || NONE}</strong>.{' '}
            <button
              type="button"
              ref={i === 0 ? first : undefined}
              className="switch-link underline"
              onClick={keepMine}
            >
              Keep yours
            </button>{' '}
            <button type="button" className="switch-link underline" onClick={takeTheirs}>
              Take theirs
            </button>
          </p>
        );
      })}
    </div>
  );
}

const NONE = 'nothing';
