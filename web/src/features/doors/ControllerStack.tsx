/** The controllers of a site, one below another: of many only those in sight are drawn, and some are found by name. */
import type { Controller } from '@rawbits/api';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type RefObject, useState } from 'react';
import { counted } from '../../platform/words/words.ts';
import { ControllerPanel } from './ControllerPanel.tsx';

/** More than so many are drawn as they come in sight. */
export const MANY = 30;
const ABOUT_PX = 190;
const GAP_PX = 12;

interface Props {
  controllers: readonly Controller[];
  /** The one to begin with. */
  lead: string | undefined;
  /** What scrolls. */
  scroller: RefObject<HTMLDivElement | null>;
}

export function ControllerStack({ controllers, lead, scroller }: Props) {
  const [search, setSearch] = useState('');
  if (controllers.length <= MANY)
    return controllers.map((controller) => (
      <ControllerPanel key={controller.id} controller={controller} lead={controller.id === lead} />
    ));
  const words = search.trim().toLowerCase();
  const found = controllers.filter(({ name, device, readers }) =>
    [name, device, ...readers.map((reader) => reader.name)].some((text) => text.toLowerCase().includes(words)),
  );
  return (
    <>
      <label className="sticky top-0 z-10 flex shrink-0 items-center gap-2 bg-base-100 pb-1">
        <span className="text-ink-2">{counted(found.length, 'controller')}</span>
        <input
          data-search
          className="input w-72"
          placeholder="controller, device or reader"
          aria-label="Search controllers"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
      </label>
      <InSight controllers={found} lead={lead} scroller={scroller} />
    </>
  );
}

function InSight({ controllers, lead, scroller }: Props) {
  const virtual = useVirtualizer({
    count: controllers.length,
    getScrollElement: () => scroller.current,
    getItemKey: (i) => controllers[i]!.id,
    estimateSize: () => ABOUT_PX,
    gap: GAP_PX,
    overscan: 4,
  });
  return (
    <div className="relative shrink-0" style={{ height: virtual.getTotalSize() }}>
      {virtual.getVirtualItems().map(({ index, key, start }) => {
        const controller = controllers[index]!;
        return (
          <div
            key={key}
            ref={virtual.measureElement}
            data-index={index}
            className="absolute inset-x-0"
            style={{ transform: `translateY(${start}px)` }}
          >
            <ControllerPanel controller={controller} lead={controller.id === lead} />
          </div>
        );
      })}
    </div>
  );
}
