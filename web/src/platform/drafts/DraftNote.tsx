/** Says that what a form shows was typed earlier, and gives a way to begin afresh. */
import type { FieldValues } from 'react-hook-form';
import { useNow } from '../hooks/useNow.ts';
import { useSite } from '../site/useSite.ts';
import { age } from '../words/time.ts';
import type { FormDraft } from './useKeptForm.ts';

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

/** Where somebody saved otherwise while this was typed: both, and a way to take theirs. `words` names a field and tells a value. */
export function Theirs<T extends FieldValues>({
  draft: { theirs, takeTheirs },
  words,
}: {
  draft: FormDraft<T>;
  words: (field: keyof T & string, value: unknown) => [name: string, value: string];
}) {
  const fields = Object.keys(theirs) as (keyof T & string)[];
  if (fields.length === 0) return null;
  return (
    <div role="status" className="col-span-full w-full border-l-4 border-signal pl-3" data-testid="theirs">
      <p>Somebody saved this meanwhile. What you typed stands in the fields; saving puts it over theirs.</p>
      {fields.map((field) => {
        const [name, value] = words(field, theirs[field]);
        return (
          <p key={field}>
            {name}: theirs is <strong>{value || 'nothing'}</strong>.{' '}
            <button type="button" className="switch-link underline" onClick={() => takeTheirs(field)}>
              Take theirs
            </button>
          </p>
        );
      })}
    </div>
  );
}
