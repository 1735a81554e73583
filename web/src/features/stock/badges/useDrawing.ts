/** Badges drawn: what stands on each, with its photograph and its mark. */
import type { Badge } from '@rawbits/api';
import { useEffect, useMemo, useState } from 'react';
import { peopleApi, useMarksQuery } from '../../../platform/endpoints/people.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { useAppDispatch } from '../../../platform/state/hooks.ts';
import { badgeOf, type Lettering, type Picture, type Sheet } from './badge.ts';
import { DESIGNS } from './designs.ts';
import { lettering, pictureOf } from './resources.ts';
import type { BadgeSettings } from './useBadgeSettings.ts';

/** Photographs are fetched so many at once. */
const AT_ONCE = 6;

export interface Drawing {
  /** Undefined until what it is drawn with has been loaded. */
  draw: ((badge: Badge, card: string | undefined, photograph: Picture | undefined) => Sheet) | undefined;
  failed: boolean;
  /** All of them, with their photographs; tells how many are done. */
  drawAll: (badges: readonly Drawn[], onDone: (count: number) => void) => Promise<Sheet[]>;
}

/** A badge, and the card whose number is to stand on it. */
export interface Drawn {
  badge: Badge;
  card: string | undefined;
}

export function useDrawing({ design: name, code, numberOf }: BadgeSettings): Drawing {
  const { id: site, site: known, may } = useSite();
  const siteName = known?.name ?? '';
  const dispatch = useAppDispatch();
  const { data: marks } = useMarksQuery(site);
  const [letters, setLetters] = useState<Lettering>();
  const [failed, setFailed] = useState(false);
  useEffect(() => {
    let isHere = true;
    lettering().then(
      (loaded) => isHere && setLetters(loaded),
      () => isHere && setFailed(true),
    );
    return () => {
      isHere = false;
    };
  }, []);
  const pictures = useMemo(
    () => new Map(marks?.map(({ organisation, data }) => [organisation, pictureOf('image/png', data)])),
    [marks],
  );
  const design = DESIGNS.find((one) => one.name === name) ?? DESIGNS[0]!;
  const draw = useMemo(() => {
    if (!letters || !marks) return undefined;
    const wanted = { design, code, numberOf, site: siteName };
    return (badge: Badge, card: string | undefined, photograph: Picture | undefined): Sheet => {
      const { holder, cards } = badge;
      const shown = card === undefined ? cards[0] : cards.find(({ id }) => id === card);
      const mark = pictures.get(holder.organisation.toLowerCase()) ?? pictures.get('');
      return badgeOf({ holder, card: shown, photograph, mark }, wanted, letters);
    };
  }, [letters, marks, pictures, design, code, numberOf, siteName]);
  const photographOf = async ({ holder }: Badge): Promise<Picture | undefined> => {
    if (!holder.hasPhotograph || !design.photograph || !may('see photographs')) return undefined;
    const asked = dispatch(peopleApi.endpoints.photograph.initiate({ site, id: holder.id }));
    const { data, error } = await asked;
    asked.unsubscribe();
    if (error) throw error;
    return data && pictureOf(data.type, data.data);
  };
  const drawAll: Drawing['drawAll'] = async (badges, onDone) => {
    const sheets: Sheet[] = [];
    for (let from = 0; from < badges.length; from += AT_ONCE) {
      const some = badges.slice(from, from + AT_ONCE);
      const photographs = await Promise.all(some.map(({ badge }) => photographOf(badge)));
      for (const [i, { badge, card }] of some.entries()) sheets.push(draw!(badge, card, photographs[i]));
      onDone(sheets.length);
      // The page answers meanwhile.
      await new Promise((resolve) => setTimeout(resolve));
    }
    return sheets;
  };
  return { draw, failed, drawAll };
}
