/** What a site still needs before keys can be used, step by step; nothing once all of it is there, or while it is not known. */
import { Check, Circle } from 'lucide-react';
import { Link, useLocation } from 'react-router';
import { useKeyStoreQuery } from '../../platform/endpoints/keys.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { keySteps } from './keySteps.ts';

export function KeysReady() {
  const { id: site, may } = useSite();
  const { pathname } = useLocation();
  const { data: store } = useKeyStoreQuery(site);
  if (!store) return null;
  const steps = keySteps(store);
  const next = steps.findIndex(({ done }) => !done);
  if (next < 0) return null;
  return (
    <section className="panel grid max-w-3xl gap-1 p-3" aria-label="Before keys can be used">
      <h2>Before keys can be used</h2>
      <ol className="grid gap-1">
        {steps.map(({ what, done, count, at, needs, who }, i) => (
          <li key={what} className="flex items-start gap-2">
            {done ? (
              <Check className="mt-1 size-4 shrink-0 text-primary" aria-label="done" />
            ) : (
              <Circle className="mt-1 size-4 shrink-0 text-ink-2" aria-label="missing" />
            )}
            <span className={i === next ? 'font-bold' : 'text-ink-2'}>
              {what}
              {count && ` (${count})`}
              {i === next && (may(needs) ? ' ' : `. ${who} does that.`)}
              {i === next && may(needs) && !pathname.endsWith(`/${at}`) && (
                <Link to={`/${site}/${at}`} className="underline">
                  {at === 'keys' ? 'Open Keys' : 'Open Operators'}
                </Link>
              )}
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}
