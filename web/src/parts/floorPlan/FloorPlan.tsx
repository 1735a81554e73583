/** The floor plan of a chip, drawn: houses and rooms to scale, doors with the key that opens them, and what somebody's keys light up. */
import type { Plan, Who } from '@rawbits/core/plan';
import { useMemo } from 'react';
import { useElementWidth } from '../../platform/hooks/useElementWidth.ts';
import { FloorLegend } from './FloorLegend.tsx';
import { doorMark, doorWords, type Ground, groundOf, type House, type Lit, type Room, roomWords } from './geometry.ts';

export type Chosen = { application: string; file?: number } | undefined;

interface Props {
  plan: Plan;
  height: number;
  chosen: Chosen;
  onChoose: (chosen: Chosen) => void;
  lit: ReadonlyMap<string, Lit>;
  /** While somebody walks: how many commands they have sent; everything is lit without it. */
  walked?: number;
}

export function FloorPlan({ plan, height, chosen, onChoose, lit, walked }: Props) {
  const [frame, width] = useElementWidth<HTMLElement>();
  const ground = useMemo(() => groundOf(plan, width, height), [plan, width, height]);
  return (
    <figure ref={frame} className="min-w-0" aria-label="Floor plan of the chip">
      <MemoryStrip ground={ground} width={width} />
      <FloorLegend />
      <svg width={width} height={height} className="block" aria-label="Applications and their files">
        <defs>
          <pattern id="lit-read" width="9" height="9" patternUnits="userSpaceOnUse">
            <path d="M0 9 L9 0" className="stroke-secondary" strokeWidth="1" />
          </pattern>
          <pattern id="lit-alter" width="11" height="11" patternUnits="userSpaceOnUse">
            <path d="M0 11 L11 0 M0 0 L11 11" className="stroke-signal" strokeWidth="0.8" />
          </pattern>
        </defs>
        {ground.houses.map((house) => (
          <HouseDrawn key={house.id} house={house} chosen={chosen} onChoose={onChoose} lit={lit} walked={walked} />
        ))}
      </svg>
    </figure>
  );
}

/** The whole memory to scale: what is taken, and what is free or over. */
function MemoryStrip({ ground: { capacity, used, free, houses }, width }: { ground: Ground; width: number }) {
  const scale = width / Math.max(capacity, used);
  let at = 0;
  return (
    <div className="pb-1">
      <svg width={width} height={12} aria-hidden="true">
        <rect
          x={0.5}
          y={0.5}
          width={Math.max(1, capacity * scale - 1)}
          height={11}
          className="fill-base-200 stroke-base-300"
        />
        {houses.map(({ id, bytes }) => {
          const x = at * scale;
          at += bytes;
          return (
            <rect
              key={id}
              x={x + 0.5}
              y={0.5}
              width={Math.max(1, bytes * scale - 1)}
              height={11}
              className="fill-chosen stroke-primary"
            />
          );
        })}
        {free < 0 && <rect x={capacity * scale} y={0} width={-free * scale} height={12} className="fill-signal" />}
      </svg>
      <figcaption className={free < 0 ? 'font-bold text-signal' : 'text-[0.9rem] text-ink-2'}>
        {free < 0
          ? `${-free} bytes more than the chip has: ${used} of ${capacity}`
          : `${used} of ${capacity} bytes taken, ${free} free. Rooms are drawn to scale.`}
      </figcaption>
    </div>
  );
}

interface HouseProps extends Omit<Props, 'plan' | 'height'> {
  house: House;
}

function HouseDrawn({ house, chosen, onChoose, lit, walked }: HouseProps) {
  const { id, name, x, y, width, height, hall, rooms, bytes } = house;
  const isChosen = chosen?.application === id && chosen.file === undefined;
  return (
    <g>
      {/* biome-ignore lint/a11y/useSemanticElements: SVG has no button of its own. */}
      <g
        role="button"
        tabIndex={0}
        aria-pressed={isChosen}
        aria-label={`Application ${id}${name ? `, ${name}` : ''}, ${bytes} bytes`}
        className="cursor-pointer"
        onClick={() => onChoose({ application: id })}
        onKeyDown={(event) => (event.key === 'Enter' || event.key === ' ') && onChoose({ application: id })}
      >
        <rect
          x={x}
          y={y}
          width={width}
          height={height}
          className={`${isChosen ? 'fill-chosen' : 'fill-base-100'} stroke-base-content`}
          strokeWidth={2}
        />
      </g>
      {/* Words stand beside what is pressed, not in it: its name says more than fits here. */}
      <g pointerEvents="none">
        <svg x={x} y={y} width={width} height={22} aria-hidden="true">
          <text x={7} y={15.5} className="fill-base-content text-[0.95rem] font-bold">
            {name ? `${name} ` : ''}
            <tspan className="font-mono font-normal">{id}</tspan>
          </text>
        </svg>
        <svg x={hall.x} y={hall.y} width={hall.width} height={hall.height} aria-hidden="true">
          <text x={6} y={14} className="fill-ink-2 text-[0.85rem]">
            keys
          </text>
          {hall.width >= 84 &&
            house.keys.slice(0, Math.floor((hall.height - 16) / 14)).map((name, slot) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a slot is its number.
              <text key={slot} x={6} y={28 + 14 * slot} className="fill-base-content text-[0.85rem]">
                {slot} {name ?? 'the factory’s'}
              </text>
            ))}
        </svg>
      </g>
      {rooms.map((room) => (
        <RoomDrawn
          key={room.file.number}
          room={room}
          isChosen={chosen?.application === id && chosen.file === room.file.number}
          onChoose={() => onChoose({ application: id, file: room.file.number })}
          lit={litNow(lit.get(`${id} ${room.file.number}`), walked)}
        />
      ))}
    </g>
  );
}

/** What is lit after so many commands. */
function litNow(lit: Lit | undefined, walked: number | undefined): Lit {
  if (!lit || walked === undefined) return lit ?? {};
  return Object.fromEntries(Object.entries(lit).filter(([, commands]) => commands <= walked));
}

interface RoomProps {
  room: Room;
  isChosen: boolean;
  onChoose: () => void;
  lit: Lit;
}

function RoomDrawn({ room, isChosen, onChoose, lit }: RoomProps) {
  const { x, y, width, height, file, doors } = room;
  const [w, h] = [Math.max(2, width - 3), Math.max(2, height - 3)];
  const words = [
    lit.reads !== undefined && `read in ${lit.reads}`,
    lit.alters !== undefined && `altered in ${lit.alters}`,
  ].filter((word) => word !== false);
  const isTall = h >= 40 + 14 * doors.length && w >= 92;
  return (
    <g>
      {/* biome-ignore lint/a11y/useSemanticElements: SVG has no button of its own. */}
      <g
        role="button"
        tabIndex={0}
        aria-pressed={isChosen}
        aria-label={`${roomWords(room)} ${words.length > 0 ? `With these keys: ${words.join(', ')} commands.` : ''}`}
        className="cursor-pointer"
        onClick={onChoose}
        onKeyDown={(event) => (event.key === 'Enter' || event.key === ' ') && onChoose()}
      >
        <title>{roomWords(room)}</title>
        <rect
          x={x}
          y={y}
          width={w}
          height={h}
          className={`${isChosen ? 'fill-chosen stroke-primary' : 'fill-base-200 stroke-ink-2'}`}
          strokeWidth={isChosen ? 3 : 1.2}
        />
        {lit.reads !== undefined && lit.alters === undefined && (
          <rect x={x + 1} y={y + 1} width={w - 2} height={h - 2} fill="url(#lit-read)" />
        )}
        {lit.alters !== undefined && <rect x={x + 1} y={y + 1} width={w - 2} height={h - 2} fill="url(#lit-alter)" />}
      </g>
      <svg x={x} y={y} width={w} height={h} pointerEvents="none" aria-hidden="true">
        <Legible x={5} y={3} text={`${file.number}${file.name ? ` ${file.name}` : ''}`} bold room={w} />
        {isTall
          ? doors.map(({ right, who }, i) => (
              <Legible
                key={right}
                x={14}
                y={20 + 14 * i}
                text={`${right === 'both' ? 'both' : right}: ${doorWords(who)}`}
                room={w - 12}
                quiet={who === 'never'}
              />
            ))
          : h >= 36 && <Legible x={5} y={19} text={doors.map(({ who }) => doorMark(who)).join(' ')} room={w} quiet />}
        {isTall && doors.map(({ right, who }, i) => <DoorDrawn key={right} who={who} y={22 + 14 * i} />)}
        {words.length > 0 && h >= 54 && (
          <Legible x={5} y={h - 19} text={words.join(', ')} bold room={w} signal={lit.alters !== undefined} />
        )}
      </svg>
    </g>
  );
}

/** A text on ground of its own, so that a texture behind it does not break it up. */
function Legible(props: {
  x: number;
  y: number;
  text: string;
  room: number;
  bold?: boolean;
  quiet?: boolean;
  signal?: boolean;
}) {
  const { x, y, text, room, bold, quiet, signal } = props;
  const fits = Math.max(1, Math.floor((room - 8) / 7.2));
  const shown = text.length > fits ? `${text.slice(0, Math.max(1, fits - 1))}…` : text;
  const colour = signal ? 'fill-signal' : quiet ? 'fill-ink-2' : 'fill-base-content';
  return (
    <>
      <rect x={x - 2} y={y} width={Math.min(room, shown.length * 7.1 + 5)} height={15} className="fill-base-100" />
      <text x={x} y={y + 11.5} className={`${colour} text-[0.87rem] ${bold ? 'font-bold' : ''}`}>
        {shown}
      </text>
    </>
  );
}

/** A door in the wall: a gap where it is open, a bar where a key opens it, wall where it is walled up. */
function DoorDrawn({ who, y }: { who: Who; y: number }) {
  if (who === 'never') return <rect x={0} y={y} width={6} height={10} className="fill-ink-2" />;
  if (who === 'free')
    return (
      <>
        <rect x={-1} y={y} width={5} height={10} className="fill-base-100" />
        <path d={`M1 ${y} l8 3`} className="stroke-base-content" strokeWidth={1.5} />
      </>
    );
  return <rect x={0} y={y} width={3.5} height={10} className="fill-base-100 stroke-base-content" strokeWidth={1.5} />;
}
