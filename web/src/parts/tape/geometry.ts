/**
 * The tape's geometry, without a view: where each cell, ruler number, bracket, label and thread stands. Positions are
 * 1-based in the order shown; lengths are CSS pixels. Lines are never broken inside a group of the ruler.
 */

export type SpanLook = 'facility' | 'number' | 'issue' | 'value' | 'fixed' | 'check' | 'parity' | 'found';

export interface TapeSpan {
  id: string;
  look: SpanLook;
  /** Positions in the order shown, 1-based; any order. */
  positions: number[];
  name: string;
  value?: string;
}

export interface TapeThread {
  id: string;
  /** The parity or check bits. */
  at: number[];
  covers: number[];
  /** Undefined where only the structure is drawn. */
  holds?: boolean;
  /** In words, short: `bit 1 even over 2-13`. */
  text: string;
}

export interface TapeRequest {
  length: number;
  width: number;
  spans: TapeSpan[];
  threads: TapeThread[];
  /** The ruler's group; 8 unless told. */
  group?: number;
  /** The largest cell, for small tapes. */
  largestCell?: number;
  compact?: boolean;
}

export interface Segment {
  spanId: string;
  look: SpanLook;
  x1: number;
  x2: number;
  y: number;
}

export interface Label {
  spanId: string;
  look: SpanLook;
  name: string;
  value?: string;
  x: number;
  y: number;
}

export interface ThreadPiece {
  threadId: string;
  holds?: boolean;
  /** The horizontal bar over the covered bits of this line. */
  x1: number;
  x2: number;
  y: number;
  /** Where the bar drops to a covered bit. */
  ticks: number[];
  /** Where the bar rises from the check's own bits; none on a line without them. */
  rings: number[];
  /** The bottom of ticks and stems. */
  foot: number;
  text?: { x: number; y: number; anchor: 'start' | 'end'; text: string };
}

export interface TapeLine {
  from: number;
  to: number;
  /** Top of the cells. */
  cellY: number;
  /** Baseline of the ruler's numbers. */
  rulerY: number;
  segments: Segment[];
  labels: Label[];
  threads: ThreadPiece[];
}

export interface TapeGeometry {
  cell: { width: number; height: number };
  group: number;
  lines: TapeLine[];
  width: number;
  height: number;
  /** Left edge of a position's cell. */
  xOf(position: number): number;
  /** The position whose cell is at a point, or undefined between and beside the lines of cells. */
  positionAt(x: number, y: number): number | undefined;
}

const GROUP_GAP = 7;
const SMALLEST_ON_ONE_LINE = 17;
const WRAPPED_CELL = 22;
/** The largest cell; on a wide screen, where a short read would leave half of it empty, larger. */
const LARGEST_CELL = 34;
const LARGEST_WHEN_WIDE = 48;
const WIDE = 1500;
const THREAD_LEVEL = 24;
const LABEL_ROW = { withValue: 34, plain: 17 };
const NARROW_CHARACTER = 6.6;
const WIDE_CHARACTER = 10.5;

/** How wide cells are and how many stand on a line: one line while they stay readable, else whole groups a line. */
export function fitCells(
  length: number,
  width: number,
  group: number,
  largest = width >= WIDE ? LARGEST_WHEN_WIDE : LARGEST_CELL,
): { cell: number; perLine: number } {
  const gaps = (count: number) => Math.floor((count - 1) / group) * GROUP_GAP;
  const onOne = Math.floor((width - gaps(length)) / length);
  if (onOne >= SMALLEST_ON_ONE_LINE) return { cell: Math.min(onOne, largest), perLine: length };
  const cell = Math.min(WRAPPED_CELL, largest, Math.max(10, Math.floor((width - gaps(group)) / group)));
  const groups = Math.max(1, Math.floor((width + GROUP_GAP) / (group * cell + GROUP_GAP)));
  return { cell, perLine: groups * group };
}

/** Runs of neighbouring positions, each rising. */
export function runsOf(positions: readonly number[]): [number, number][] {
  const runs: [number, number][] = [];
  for (const p of [...positions].sort((a, b) => a - b)) {
    const last = runs.at(-1);
    if (last && p === last[1] + 1) last[1] = p;
    else runs.push([p, p]);
  }
  return runs;
}

/** Lays things with an extent out in rows so that none touch; gives each one's row. */
export function packRows(extents: readonly { x1: number; x2: number }[], gap: number): number[] {
  const ends: number[] = [];
  return extents.map(({ x1, x2 }) => {
    let row = ends.findIndex((end) => x1 >= end + gap);
    if (row < 0) row = ends.length;
    ends[row] = x2;
    return row;
  });
}

const labelWidth = (span: TapeSpan): number =>
  Math.max(span.name.length * NARROW_CHARACTER, (span.value?.length ?? 0) * WIDE_CHARACTER) + 6;

export function layOutTape(request: TapeRequest): TapeGeometry {
  const group = request.group ?? 8;
  const { cell, perLine } = fitCells(request.length, request.width, group, request.largestCell);
  const height = Math.round(cell * 1.25);
  const xOf = (position: number) => {
    const i = (position - 1) % perLine;
    return i * cell + Math.floor(i / group) * GROUP_GAP;
  };
  const lines: TapeLine[] = [];
  let y = 0;
  for (let from = 1; from <= request.length; from += perLine) {
    const to = Math.min(request.length, from + perLine - 1);
    const context: LineContext = { from, to, cell, xOf, width: request.width };
    const threads = placeThreads(request.threads, context, y);
    const threadsBottom = y + threads.levels * THREAD_LEVEL;
    const rulerY = threadsBottom + (request.compact ? 0 : 12);
    const cellY = rulerY + (request.compact ? 0 : 5);
    for (const piece of threads.pieces) piece.foot = threadsBottom;
    const below = placeSpans(request.spans, context, cellY + height + 4);
    lines.push({ from, to, cellY, rulerY, segments: below.segments, labels: below.labels, threads: threads.pieces });
    y = below.bottom + 12;
  }
  const positionAt = (x: number, y: number) => {
    const line = lines.find((l) => y >= l.cellY - 2 && y <= l.cellY + height + 2);
    if (!line || x < 0) return undefined;
    const groupWidth = group * cell + GROUP_GAP;
    const inGroup = Math.min(Math.floor((x % groupWidth) / cell), group - 1);
    const position = line.from + Math.floor(x / groupWidth) * group + inGroup;
    return position <= line.to ? position : undefined;
  };
  return {
    cell: { width: cell, height },
    group,
    lines,
    width: request.width,
    height: Math.max(0, y - 12),
    xOf,
    positionAt,
  };
}

interface LineContext {
  from: number;
  to: number;
  cell: number;
  width: number;
  xOf(position: number): number;
}

/** A thread in words: `bit 1 even over 2-13 holds`. */
export const wordsOf = ({ text, holds }: TapeThread): string =>
  holds === undefined ? text : `${text} ${holds ? 'holds' : 'fails'}`;

function placeThreads(
  threads: readonly TapeThread[],
  line: LineContext,
  top: number,
): { pieces: ThreadPiece[]; levels: number } {
  const centre = (p: number) => line.xOf(p) + line.cell / 2;
  const inside = (p: number) => p >= line.from && p <= line.to;
  const drafts = threads.flatMap((thread) => {
    const ticks = thread.covers.filter(inside).map(centre);
    const rings = thread.at.filter(inside).map(centre);
    const all = [...ticks, ...rings];
    if (all.length === 0) return [];
    const [x1, x2] = [Math.min(...all), Math.max(...all)];
    const words = wordsOf(thread);
    const textWidth = rings.length === 0 ? 0 : words.length * 6.2 + 14;
    const fromRight = rings.length > 0 && Math.min(...rings) > (x1 + x2) / 2;
    const extent = fromRight ? { x1: Math.min(x1, x2 - textWidth), x2 } : { x1, x2: Math.max(x2, x1 + textWidth) };
    return [{ thread, ticks, rings, x1, x2, words, fromRight, extent }];
  });
  const rows = packRows(
    drafts.map((d) => d.extent),
    8,
  );
  const pieces = drafts.map(({ thread, ticks, rings, x1, x2, words, fromRight }, i) => {
    const y = top + rows[i]! * THREAD_LEVEL + 17;
    const text =
      rings.length === 0
        ? undefined
        : ({ x: fromRight ? x2 - 8 : x1 + 8, y: y - 7, anchor: fromRight ? 'end' : 'start', text: words } as const);
    return { threadId: thread.id, holds: thread.holds, x1, x2, y, ticks, rings, foot: 0, text };
  });
  return { pieces, levels: rows.length === 0 ? 0 : Math.max(...rows) + 1 };
}

function placeSpans(
  spans: readonly TapeSpan[],
  line: LineContext,
  top: number,
): { segments: Segment[]; labels: Label[]; bottom: number } {
  const segments: Segment[] = [];
  const wanted: { span: TapeSpan; x: number; width: number }[] = [];
  for (const span of spans) {
    const here = runsOf(span.positions.filter((p) => p >= line.from && p <= line.to));
    for (const [a, b] of here)
      segments.push({ spanId: span.id, look: span.look, x1: line.xOf(a), x2: line.xOf(b) + line.cell, y: top });
    if (here.length === 0 || span.look === 'parity') continue;
    const widest = here.reduce((best, run) => (run[1] - run[0] > best[1] - best[0] ? run : best));
    const width = labelWidth(span);
    const middle = (line.xOf(widest[0]) + line.xOf(widest[1]) + line.cell) / 2;
    wanted.push({ span, width, x: Math.min(Math.max(middle, width / 2), Math.max(line.width - width / 2, width / 2)) });
  }
  wanted.sort((a, b) => a.x - b.x);
  const rows = packRows(
    wanted.map(({ x, width }) => ({ x1: x - width / 2, x2: x + width / 2 })),
    4,
  );
  const rowHeight = wanted.some(({ span }) => span.value !== undefined) ? LABEL_ROW.withValue : LABEL_ROW.plain;
  const labels = wanted.map(({ span, x }, i) => ({
    spanId: span.id,
    look: span.look,
    name: span.name,
    value: span.value,
    x,
    y: top + 22 + rows[i]! * rowHeight,
  }));
  const used = rows.length === 0 ? 0 : (Math.max(...rows) + 1) * rowHeight;
  return { segments, labels, bottom: top + (segments.length > 0 ? 10 : 0) + used };
}
