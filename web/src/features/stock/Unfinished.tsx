/** Forms that were begun at this site and neither saved nor given up: a way back to each. */
import { Link } from 'react-router';
import { draftsUnder } from '../../platform/drafts/store.ts';
import { useDraftKey } from '../../platform/drafts/useDraft.ts';
import { useClock } from '../../platform/site/useClock.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { BY_HAND, ISSUING } from './useIssuing.ts';

export function Unfinished({ but }: { but: string }) {
  const { id: site } = useSite();
  const key = useDraftKey(site);
  const clock = useClock();
  const open = draftsUnder(ISSUING, `${key} `).filter(({ about }) => about !== but);
  if (open.length === 0) return null;
  return (
    <ul className="border-t border-faint pt-2 text-ink-2" aria-label="Unfinished forms">
      {open.slice(0, 4).map(({ about, at }) => (
        <li key={about} className="flex flex-wrap items-center gap-2">
          Unfinished, {clock(new Date(at).toISOString())}:
          <Link to={`/${site}/stock?issue=${about === BY_HAND ? 'new' : about}`} className="underline">
            {about === BY_HAND ? 'a card by hand' : `a card of ${about.length} bits`}
          </Link>
        </li>
      ))}
    </ul>
  );
}
