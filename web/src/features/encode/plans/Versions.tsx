/** The versions of a plan, the newest first, and what differs between two of them. */
import type { OnePlan } from '@rawbits/api';
import { differencesOf } from '@rawbits/core/plan';
import { useState } from 'react';
import { useSite } from '../../../platform/site/useSite.ts';
import { clock } from '../../../platform/words/time.ts';
import { Differences } from './Differences.tsx';

export function Versions({ saved }: { saved: OnePlan }) {
  const { zone } = useSite();
  const [open, setOpen] = useState<number>();
  return (
    <ol className="grid gap-2">
      {saved.versions.map(({ version, notes, madeBy, madeAt, cards, plan }, i) => {
        const older = saved.versions[i + 1];
        return (
          <li key={version} className="panel p-3">
            <p>
              <strong>Version {version}</strong> by {madeBy}, {clock(madeAt, zone)}; {cards}{' '}
              {cards === 1 ? 'card carries' : 'cards carry'} it.
            </p>
            {notes && <p>{notes}</p>}
            {older && (
              <button
                type="button"
                className="cursor-pointer underline"
                aria-expanded={open === version}
                onClick={() => setOpen(open === version ? undefined : version)}
              >
                What differs from version {older.version}
              </button>
            )}
            {older && open === version && <Differences differences={differencesOf(older.plan, plan)} />}
          </li>
        );
      })}
    </ol>
  );
}
