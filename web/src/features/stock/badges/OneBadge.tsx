/** One badge as it will be printed, which card's number stands on it, and whether it is to be printed. */
import type { Badge } from '@rawbits/api';
import { useMemo } from 'react';
import { usePhotographQuery } from '../../../platform/endpoints/people.ts';
import { useSite } from '../../../platform/site/useSite.ts';
import { pictureOf } from './resources.ts';
import { svgOf } from './svg.ts';
import type { Drawing } from './useDrawing.ts';

export const dataOf = (svg: string): string => `data:image/svg+xml;utf8,${encodeURIComponent(svg)}`;

interface Props {
  badge: Badge;
  card: string | undefined;
  draw: NonNullable<Drawing['draw']>;
  isIn: boolean;
  onIn: (is: boolean) => void;
  onCard: (id: string) => void;
  onSvg: (name: string, svg: string) => void;
}

export function OneBadge({ badge, card, draw, isIn, onIn, onCard, onSvg }: Props) {
  const { id: site, may } = useSite();
  const { holder, cards } = badge;
  const { currentData } = usePhotographQuery(
    { site, id: holder.id },
    { skip: !holder.hasPhotograph || !may('see photographs') },
  );
  const sheet = useMemo(
    () => draw(badge, card, currentData && pictureOf(currentData.type, currentData.data)),
    [draw, badge, card, currentData],
  );
  const svg = useMemo(() => svgOf(sheet), [sheet]);
  return (
    <figure className={`flex flex-col gap-1 ${isIn ? '' : 'opacity-60'}`}>
      <img
        src={dataOf(svg)}
        alt={`Badge of ${sheet.title}`}
        className={`border border-base-300 ${sheet.width > sheet.height ? 'w-[19.5rem]' : 'w-[12.3rem]'}`}
      />
      <figcaption className="flex max-w-[19.5rem] flex-col">
        <span className="flex flex-wrap items-center gap-x-3">
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={isIn}
              onChange={(event) => onIn(event.target.checked)}
            />
            {holder.name}
          </label>
          <button type="button" className="switch-link underline" onClick={() => onSvg(holder.name, svg)}>
            SVG
          </button>
          {cards.length > 1 && (
            <select
              value={card ?? cards[0]!.id}
              aria-label={`Card of ${holder.name}`}
              onChange={(event) => onCard(event.target.value)}
              className="select w-44"
            >
              {cards.map(({ id, facility, number, state }) => (
                <option key={id} value={id}>
                  {facility !== null && `${facility}/`}
                  {number}, {state}
                </option>
              ))}
            </select>
          )}
        </span>
        {sheet.short.map((words) => (
          <span key={words} className="text-signal">
            {words}
          </span>
        ))}
      </figcaption>
    </figure>
  );
}
