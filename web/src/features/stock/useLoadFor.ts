/** Loading the controllers that a change of a card waits for, in the same step as the change. */
import { useLazyControllersQuery, useLoadMutation } from '../../platform/endpoints/doors.ts';
import { useSite } from '../../platform/site/useSite.ts';

/** Begins to load the controllers that have, or should have, cards of some formats; says what it did. */
export function useLoadFor(): (formats: readonly string[]) => Promise<string> {
  const { id: site } = useSite();
  const [ask] = useLazyControllersQuery();
  const [load] = useLoadMutation();
  return async (formats) => {
    const { data } = await ask(site);
    if (!data) return 'the controllers could not be asked for: load them at Doors';
    const isConcerned = ({ wantedFormats, loadedFormats, waitingCount }: (typeof data)[number]) =>
      waitingCount > 0 && [...wantedFormats, ...loadedFormats].some((id) => formats.includes(id));
    const begun = await Promise.all(
      data.filter(isConcerned).map(async ({ id, name }) => ({ name, failed: 'error' in (await load({ site, id })) })),
    );
    const named = (failed: boolean) => begun.flatMap((one) => (one.failed === failed ? [one.name] : [])).join(', ');
    if (begun.length === 0) return 'no controller has anything to be loaded';
    return [
      named(false) && `loading ${named(false)}`,
      named(true) && `could not begin to load ${named(true)}: load it at Doors`,
    ]
      .filter(Boolean)
      .join('; ');
  };
}
