/** What stands at the foot of every printed page: which site, when, by whom, with which version; the page has its number. */
import { useEffect } from 'react';
import { useSessionQuery } from '../../platform/endpoints/session.ts';
import { useSite } from '../../platform/site/useSite.ts';
import { momentWithZone } from '../../platform/words/siteDays.ts';
import { VERSION } from '../../platform/words/version.ts';

const PROPERTY = '--print-foot';

/** Has no place in the page: `@page` in styles.css takes the text from the root. */
export function PrintFoot() {
  const { site, zone } = useSite();
  const { data: session } = useSessionQuery();
  const name = session?.operator.name;
  useEffect(() => {
    const { style } = document.documentElement;
    const set = () => {
      const moment = momentWithZone(new Date().toISOString(), zone);
      style.setProperty(PROPERTY, JSON.stringify(`${site?.name} · ${moment} · ${name} · Raw Bits ${VERSION}`));
    };
    set();
    // The page is taken to the printer as soon as this returns.
    window.addEventListener('beforeprint', set);
    return () => {
      window.removeEventListener('beforeprint', set);
      style.removeProperty(PROPERTY);
    };
  }, [site?.name, zone, name]);
  return null;
}
