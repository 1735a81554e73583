/**
 * The numbers of a facility code on a line: boxes as bars above it, in lanes where they overlap; the cards on file as
 * columns along it, a column a number or a column for several, as high as the share of its numbers that are taken; what is
 * reserved below. Numbers are decimals and may be great; pixels are counted from the left of the drawing.
 */

/** What has become of a card, as far as a line shows it. */
export type Fate = 'in stock' | 'held' | 'out';
const FATES: Record<string, Fate> = { 'in stock': 'in stock', issued: 'held', active: 'held' };
export const fateOf = (state: string): Fate => FATES[state] ?? 'out';

export interface LineMap {
  from: string;
  to: string;
  boxes: readonly { id: string; name: string; first: string; last: string }[];
  reserved: readonly { from: string; to: string; note: string }[];
  /** Equal parts with cards in them: `size` numbers each, `count` of them. */
  parts: readonly { at: number; states: Readonly<Record<string, number>> }[];
  count: number;
  size: string;
}

export interface Bar {
  id: string;
  name: string;
  x: number;
  width: number;
  y: number;
  /** The box goes on beyond this part of the line. */
  cutLeft: boolean;
  cutRight: boolean;
}

export interface Column {
  at: number;
  x: number;
  width: number;
  /** From the line upwards. */
  pieces: { fate: Fate; y: number; height: number }[];
}

export interface LineGeometry {
  bars: Bar[];
  columns: Column[];
  reserved: { x: number; width: number; note: string }[];
  ticks: { x: number; number: string; anchor: 'start' | 'middle' | 'end' }[];
  /** Where the line is, and how much of the drawing lies above and below. */
  baseline: number;
  height: number;
  width: number;
}

export const BAR_HEIGHT = 20;
const LANE = BAR_HEIGHT + 4;
const MOST_LANES = 4;
const COLUMN_HEIGHT = 36;
const BELOW = 30;
const MOST_TICKS = 5;
/** Room for a number of some ten digits under the line. */
const TICK_WIDTH = 90;

export function layOutLine(map: LineMap, width: number): LineGeometry {
  const [from, to] = [BigInt(map.from), BigInt(map.to)];
  const whole = Number(to - from + 1n);
  const xOf = (number: bigint): number => (Number(number - from) / whole) * width;
  const within = (a: bigint, b: bigint): [number, number] => {
    const [left, right] = [xOf(a < from ? from : a), xOf((b > to ? to : b) + 1n)];
    return [left, Math.max(2, right - left)];
  };
  const lanes: number[] = [];
  const sorted = [...map.boxes].sort((a, b) => (BigInt(a.first) < BigInt(b.first) ? -1 : 1));
  const placed = sorted.map(({ id, name, first, last }) => {
    const [x, barWidth] = within(BigInt(first), BigInt(last));
    let lane = lanes.findIndex((end) => end <= x + 0.5);
    if (lane < 0) lane = Math.min(lanes.length, MOST_LANES - 1);
    lanes[lane] = Math.max(lanes[lane] ?? 0, x + barWidth);
    return { id, name, x, width: barWidth, lane, cutLeft: BigInt(first) < from, cutRight: BigInt(last) > to };
  });
  const above = Math.max(1, lanes.length) * LANE;
  const baseline = above + COLUMN_HEIGHT + 4;
  const size = BigInt(map.size);
  return {
    bars: placed.map(({ lane, ...bar }) => ({ ...bar, y: above - LANE * (lane + 1) + 2 })),
    columns: map.parts.map(({ at, states }) => {
      const [begin, end] = [from + BigInt(at) * size, from + BigInt(at + 1) * size - 1n];
      const [x, columnWidth] = within(begin, end);
      const numbers = Number((end > to ? to : end) - begin + 1n);
      return { at, x, width: columnWidth, pieces: piecesOf(states, numbers, baseline) };
    }),
    reserved: map.reserved.map(({ from: a, to: b, note }) => {
      const [x, w] = within(BigInt(a), BigInt(b));
      return { x, width: w, note };
    }),
    ticks: ticksOf(from, to, width),
    baseline,
    height: baseline + BELOW,
    width,
  };
}

function piecesOf(states: Readonly<Record<string, number>>, numbers: number, baseline: number): Column['pieces'] {
  const counts: Record<Fate, number> = { 'in stock': 0, held: 0, out: 0 };
  for (const [state, cards] of Object.entries(states)) counts[fateOf(state)] += cards;
  let y = baseline;
  return (['held', 'in stock', 'out'] as const).flatMap((fate) => {
    if (counts[fate] === 0) return [];
    // A single card among thousands is still to be seen.
    const height = Math.max(3, (counts[fate] / numbers) * COLUMN_HEIGHT);
    y -= height;
    return [{ fate, y, height }];
  });
}

function ticksOf(from: bigint, to: bigint, width: number): LineGeometry['ticks'] {
  const span = to - from;
  const room = Math.max(1, Math.min(MOST_TICKS, Math.floor(width / TICK_WIDTH) - 1));
  const steps = span < BigInt(room) ? Number(span) : room;
  return Array.from({ length: steps + 1 }, (_, i) => {
    const number = steps === 0 ? from : from + (span * BigInt(i)) / BigInt(steps);
    const x = (Number(number - from) / Number(span + 1n)) * width;
    return { x, number: number.toString(), anchor: i === 0 ? 'start' : i === steps ? 'end' : 'middle' };
  });
}

/** The part of the line at a place. */
export const partAt = ({ count }: Pick<LineMap, 'count'>, width: number, x: number): number =>
  Math.max(0, Math.min(count - 1, Math.floor((x / width) * count)));

/** The first and the last number of a part. */
export function numbersOf({ from, to, size }: LineMap, at: number): { from: bigint; to: bigint } {
  const begin = BigInt(from) + BigInt(at) * BigInt(size);
  const end = begin + BigInt(size) - 1n;
  return { from: begin, to: end > BigInt(to) ? BigInt(to) : end };
}

export interface Range {
  from: string;
  to: string;
}
const LEAST_SPAN = 10n;

/** Closer (`by` below 1) or further away, around a number that stays where it is; within 0 and `most`. */
export function zoomed({ from, to }: Range, by: number, around: bigint, most: bigint): Range {
  const span = BigInt(to) - BigInt(from) + 1n;
  const scaled = (span * BigInt(Math.round(by * 1000))) / 1000n;
  const limit = most + 1n;
  const next = scaled < LEAST_SPAN ? (LEAST_SPAN < limit ? LEAST_SPAN : limit) : scaled > limit ? limit : scaled;
  const left = ((around - BigInt(from)) * next) / span;
  return within(around - left, next, most);
}

/** Along the line by a share of what is in sight. */
export function panned({ from, to }: Range, share: number, most: bigint): Range {
  const span = BigInt(to) - BigInt(from) + 1n;
  const by = (span * BigInt(Math.round(share * 1000))) / 1000n;
  const step = by === 0n ? BigInt(Math.sign(share)) : by;
  return within(BigInt(from) + step, span, most);
}

function within(from: bigint, span: bigint, most: bigint): Range {
  const last = most + 1n - span;
  const begin = from < 0n ? 0n : from > last ? (last < 0n ? 0n : last) : from;
  const end = begin + span - 1n;
  return { from: begin.toString(), to: (end > most ? most : end).toString() };
}

/** A range with room on both sides, in round numbers: what a line begins with. */
export function roundAbout(least: string, greatest: string, most: bigint): Range {
  const [a, b] = [BigInt(least), BigInt(greatest)];
  let unit = 10n;
  while (unit * 20n < b - a + 1n) unit *= 10n;
  const from = (a / unit) * unit;
  const to = (b / unit + 1n) * unit - 1n;
  return { from: from.toString(), to: (to > most ? most : to).toString() };
}

/** A part in words: its numbers, what is on file of them, the boxes and reservations that name them. */
export function partInWords(map: LineMap, at: number): string {
  const { from, to } = numbersOf(map, at);
  const states = map.parts.find((part) => part.at === at)?.states ?? {};
  const numbers = from === to ? `Number ${from}` : `${from} to ${to}`;
  const meets = (a: string, b: string) => BigInt(a) <= to && BigInt(b) >= from;
  const counts = Object.entries(states).map(([state, cards]) => (from === to ? state : `${cards} ${state}`));
  const boxes = map.boxes.filter(({ first, last }) => meets(first, last)).map(({ name }) => `box ${name}`);
  const reserved = map.reserved.filter((r) => meets(r.from, r.to)).map(({ note }) => `reserved: ${note || 'no note'}`);
  const told = [counts.join(', ') || 'nothing on file', ...boxes.slice(0, 3), ...reserved].join('; ');
  return `${numbers}: ${told}`;
}
