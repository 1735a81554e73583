/** What stands at the foot of every printed page: which site, when, by whom, with which version; the page has its number. */
import { useEffect, useState } from 'react';
import { flushSync } from 'react-dom';
import { useSessionQuery } from '../../platform/endpoints/session.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { momentWithZone } from '../../platform/words/siteDays.ts';
import { VERSION } from '../../platform/words/version.ts';

export function PrintFoot() {
  const { site, zone } = useSite();
  const { data: session } = useSessionQuery();
  const [at, setAt] = useState(() => new Date().toISOString());
  useEffect(() => {
    // The page is taken to the printer as soon as this returns.
    const printed = () => flushSync(() => setAt(new Date().toISOString()));
    window.addEventListener('beforeprint', printed);
    return () => window.removeEventListener('beforeprint', printed);
  }, []);
  return (
    <p className="print-foot hidden print:block" aria-hidden="true">
      {site?.name} · printed {momentWithZone(at, zone)} by {session?.operator.name} · Raw Bits {VERSION}
    </p>
  );
}
