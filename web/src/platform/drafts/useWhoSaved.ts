/** Who saved a thing last, by what the trail calls it. */
import { useNewestQuery } from '../endpoints/trail.ts';
import { useSite } from '../site/useSite.ts';

/** Their name, or `Somebody` where it is not known (yet); nothing is asked without a subject. */
export function useWhoSaved(subject: string | undefined): string {
  const { id: site } = useSite();
  const { data } = useNewestQuery(
    { site, show: 'changes', search: subject ?? '' },
    { skip: subject === undefined || site === '' },
  );
  const [row] = data?.rows ?? [];
  return row?.kind === 'change' && row.change.subject === subject ? row.change.operator : 'Somebody';
}
