/** The key of the draft of a format: of whoever is signed in, at this site. */
import { useDraftKey } from '../../../platform/drafts/useDraft.ts';
import { useSite } from '../../../platform/site/useSite.ts';

export function useFormatDraftKey(format: string): string {
  const { id: site } = useSite();
  return useDraftKey(`${site} ${format}`);
}
