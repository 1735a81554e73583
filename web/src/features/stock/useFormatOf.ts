/** A format of a layout, taken up at the site: the one that is there already, or a new one called by its structure. */
import type { LibraryFormat } from '@rawbits/api';
import { parseLayoutLine, printLayoutLine, structuralId } from '@rawbits/core/format';
import { useAddFormatMutation, useAdoptFormatMutation, useLibraryQuery } from '../../platform/endpoints/formats.ts';
import { useSite } from '../../platform/site/useSite.ts';

/** So many formats of one structure are told apart by a number behind it. */
const MOST_ALIKE = 50;

/** The format of this very layout that is in the library; of several the first. */
export const formatWith = <F extends Pick<LibraryFormat, 'layout' | 'retiredAt'>>(
  formats: readonly F[],
  line: string,
): F | undefined => {
  const layout = printLayoutLine(parseLayoutLine(line));
  return formats.find((one) => one.layout === layout && one.retiredAt === null);
};

export function useFormatOf() {
  const { id: site, may } = useSite();
  const { data: library } = useLibraryQuery();
  const [add, adding] = useAddFormatMutation();
  const [adopt, adopting] = useAdoptFormatMutation();
  /** Its id; undefined where it could not be (`error` says why). */
  const takeUp = async (line: string, name: string): Promise<string | undefined> => {
    const there = library && formatWith(library, line);
    const id = there?.format.id ?? (await made(line, name));
    if (id === undefined) return undefined;
    return 'error' in (await adopt({ site, format: id })) ? undefined : id;
  };
  const made = async (layout: string, name: string): Promise<string | undefined> => {
    const own = structuralId(parseLayoutLine(layout));
    const taken = new Set(library?.map(({ format }) => format.id));
    for (let n = 1; n <= MOST_ALIKE; n++) {
      const id = n === 1 ? own : `${own}-${n}`;
      if (taken.has(id)) continue;
      return (await add({ id, name, layout })).data?.format.id;
    }
    return undefined;
  };
  return {
    takeUp,
    mayTakeUp: may('use formats') && may('define formats'),
    busy: library === undefined || adding.isLoading || adopting.isLoading,
    error: adding.error ?? adopting.error,
  };
}
