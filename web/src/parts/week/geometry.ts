/**
 * The geometry of a week: a row a day, hours from left to right, a lane in it for each band. Plain numbers, so that it is
 * tested without a view; the component only draws.
 */
import { dayName, minutesInWords } from '@rawbits/core/access/rights';
import { DAY, type MinuteRange, timeInWords } from '@rawbits/core/access/schedule';

export interface Day {
  /** Empty for a day that is no date: any holiday. */
  date: string;
  weekday: number;
  holiday: string | null;
  holds: readonly MinuteRange[];
  twice: readonly MinuteRange[];
  never: readonly MinuteRange[];
}

/** A schedule, a group or a door: what is drawn as one band. */
export interface Band {
  name: string;
  days: readonly Day[];
}

/** Textures by band, in their order; a band beyond them begins again. */
export const TEXTURES = ['full', 'rising', 'falling', 'dots', 'level'] as const;
export type Texture = (typeof TEXTURES)[number];
export const textureOf = (band: number): Texture => TEXTURES[band % TEXTURES.length]!;

export const LABELS = 118;
export const HEAD = 20;
const LANE = 13;
const PADDING = 4;
/** Hours apart enough that their numbers do not touch. */
const LEAST_HOUR = 30;

export interface Bar {
  x: number;
  y: number;
  width: number;
  height: number;
}
export interface Row extends Bar {
  label: string;
  note: string;
  bars: (Bar & { band: number })[];
  twice: Bar[];
  never: Bar[];
}
export interface WeekGeometry {
  width: number;
  height: number;
  hours: { x: number; label: string }[];
  rows: Row[];
}

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];
/** `Mon 30 Nov`. */
const dateLabel = ({ date, weekday }: Day): string =>
  `${dayName(weekday).slice(0, 3)} ${Number(date.slice(8))} ${MONTHS[Number(date.slice(5, 7)) - 1]}`;

export function layOutWeek(bands: readonly Band[], width: number): WeekGeometry {
  const room = width - LABELS;
  const xOf = (minute: number): number => LABELS + (minute / DAY) * room;
  const days = bands[0]?.days ?? [];
  const height = Math.max(1, bands.length) * LANE + 2 * PADDING;
  const spanning = ({ from, to }: MinuteRange, y: number, tall: number): Bar => ({
    x: xOf(from),
    y,
    width: xOf(to) - xOf(from),
    height: tall,
  });
  const rows = days.map((day, i): Row => {
    const y = HEAD + i * height;
    return {
      x: LABELS,
      y,
      width: room,
      height,
      label: day.date === '' ? day.holiday! : dateLabel(day),
      note: day.date === '' ? '' : (day.holiday ?? ''),
      bars: bands.flatMap((band, lane) =>
        band.days[i]!.holds.map((range) => ({ ...spanning(range, y + PADDING + lane * LANE, LANE - 2), band: lane })),
      ),
      twice: day.twice.map((range) => spanning(range, y, height)),
      never: day.never.map((range) => spanning(range, y, height)),
    };
  });
  const step = [1, 2, 3, 6].find((hours) => (room / 24) * hours >= LEAST_HOUR) ?? 6;
  const hours = Array.from({ length: 24 / step + 1 }, (_, i) => ({ x: xOf(i * step * 60), label: String(i * step) }));
  return { width, height: HEAD + rows.length * height, hours, rows };
}

/** A place in a week: which day, and the minute of it. */
export interface Place {
  day: number;
  minute: number;
}

/** What is under a point of the drawing. */
export function placeAt({ rows, width }: WeekGeometry, x: number, y: number): Place {
  const day = Math.min(
    rows.length - 1,
    Math.max(
      0,
      rows.findIndex((row) => y < row.y + row.height),
    ),
  );
  const minute = Math.floor(((x - LABELS) / (width - LABELS)) * DAY);
  return { day: y >= (rows.at(-1)?.y ?? 0) ? rows.length - 1 : day, minute: Math.min(DAY - 1, Math.max(0, minute)) };
}

export const xAt = ({ width }: WeekGeometry, minute: number): number => LABELS + (minute / DAY) * (width - LABELS);

/** One place in words: the day, the time, and which bands hold there. */
export function placeInWords(bands: readonly Band[], { day, minute }: Place): string {
  const of = bands[0]?.days[day];
  if (!of) return '';
  const within = (ranges: readonly MinuteRange[]) => ranges.some(({ from, to }) => from <= minute && minute < to);
  const holding = bands.filter((band) => within(band.days[day]!.holds)).map(({ name }) => name);
  const when = `${of.date === '' ? of.holiday : `${dayName(of.weekday)} ${of.date}`} ${timeInWords(minute)}`;
  const clocks = within(of.never)
    ? ' (the clocks leave this time out)'
    : within(of.twice)
      ? ' (the clocks show this time twice)'
      : '';
  const named = of.date !== '' && of.holiday ? `, ${of.holiday}` : '';
  return `${when}${named}${clocks}: ${holding.length === 0 ? 'nothing holds' : holding.join(', ')}`;
}

/** A band in words, day by day. */
export const bandInWords = ({ name, days }: Band): string =>
  `${name}: ${days
    .map((day) => {
      const called = day.date === '' ? day.holiday : dayName(day.weekday);
      const holiday = day.date !== '' && day.holiday ? ` (${day.holiday})` : '';
      return `${called}${holiday} ${minutesInWords(day.holds)}`;
    })
    .join('; ')}.`;
