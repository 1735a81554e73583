/**
 * A line as a logic analyser has recorded it: a value change dump (IEEE 1364-2005 §18), a table of levels, or a list of edges.
 * What it gives are the pulses of both data wires; what a receiver makes of them is `line`'s. Wires are told by name (D0, DATA0;
 * green and white are common practice, no source), the resting level by where the wires are most of the time.
 */
import { fail } from '../failure/index.ts';
import { PULSE_WIDTH_US, type Pulse } from '../line/index.ts';

export interface Recording {
  pulses: Pulse[];
  /** What kind of recording it was, and what was assumed. */
  notes: string[];
}

type Wire = 0 | 1;
/** A change of a wire: when, in whichever unit the recording has, and to which level. */
interface Change {
  at: number;
  wire: Wire;
  level: 0 | 1;
  /** An edge that was listed as such: the wire was at the other level before. */
  isEdge?: boolean;
}
/** Microseconds in a unit of time. */
const UNITS: Record<string, number> = { s: 1e6, ms: 1e3, us: 1, µs: 1, μs: 1, ns: 1e-3, ps: 1e-6, fs: 1e-9 };

const WIRES: readonly (readonly [Wire, RegExp])[] = [
  [0, /^(?:.*[^a-z0-9])?(?:d|data|w|wire)[ _-]?0$|green/i],
  [1, /^(?:.*[^a-z0-9])?(?:d|data|w|wire)[ _-]?1$|white/i],
];
const wireNamed = (name: string): Wire | undefined => WIRES.find(([, pattern]) => pattern.test(name.trim()))?.[0];

/**
 * The recording in a text; undefined where it is none. Throws where it is one and cannot be read: `recording-wires`,
 * `recording-unit`, `recording-row` with the row, `recording-still` where nothing ever changes. Costs the length of the text.
 */
export function recordingIn(text: string): Recording | undefined {
  if (/\$(?:timescale|enddefinitions|var)\b/.test(text)) return fromDump(text);
  const rows = text.split(/\r\n|[\r\n]/).map((row, i) => ({ row: i + 1, text: row.trim() }));
  const filled = rows.filter((row) => row.text !== '' && !row.text.startsWith('#'));
  return fromTable(filled) ?? fromEdges(filled);
}

// Value change dump

function fromDump(text: string): Recording {
  const [, count = '1', unit = ''] = /\$timescale\s+(\d+)\s*([a-zµμ]+)\s+\$end/.exec(text) ?? [];
  const scale = UNITS[unit];
  if (scale === undefined)
    return fail('recording-unit', 'The dump does not say its unit of time.', undefined, 'Add $timescale 1 us $end.');
  const variables = [...text.matchAll(/\$var\s+\w+\s+(\d+)\s+(\S+)\s+(\S[^$]*?)\s*\$end/g)]
    .filter(([, size]) => size === '1')
    .map(([, , id, name]) => ({ id: id!, name: name! }));
  const { wires, note } = assigned(variables.map(({ name }) => name));
  const wireOf = new Map(variables.map(({ id }, i) => [id, wires[i]] as const));
  const changes: Change[] = [];
  let at = 0;
  for (const token of text.slice(text.indexOf('$enddefinitions')).split(/\s+/)) {
    const time = /^#(\d+)$/.exec(token);
    if (time) at = Number(time[1]) * Number(count) * scale;
    const change = /^([01])(\S+)$/.exec(token);
    const wire = change && wireOf.get(change[2]!);
    if (change && wire !== undefined && wire !== null) changes.push({ at, wire, level: change[1] === '1' ? 1 : 0 });
  }
  return recordingOf(changes, at, ['value change dump', ...note]);
}

/** Which of some names are the two wires; where none is named so, two names are taken in their order. */
function assigned(names: readonly string[]): { wires: (Wire | undefined)[]; note: string[] } {
  const wires = names.map(wireNamed);
  if ([0, 1].every((wire) => wires.filter((one) => one === wire).length === 1)) return { wires, note: [] };
  if (names.length === 2) return { wires: [0, 1], note: [`${names[0]} taken as DATA0, ${names[1]} as DATA1`] };
  return fail(
    'recording-wires',
    `Which of ${names.slice(0, 8).join(', ') || 'no wires'} are DATA0 and DATA1 cannot be told.`,
    undefined,
    'Call them D0 and D1, or record these two alone.',
  );
}

// Table of levels, list of edges

interface Row {
  row: number;
  text: string;
}
const cellsOf = (text: string): string[] => text.split(/\s*[,;\t]\s*/).map((cell) => cell.replace(/^"|"$/g, ''));
const HEADING = /^"?(?:time|t|zeit|timestamp)\b/i;

/** A heading that begins with the time, then a column for each wire. */
function fromTable([head, ...rows]: readonly Row[]): Recording | undefined {
  if (!head || !HEADING.test(head.text) || rows.length < 2) return undefined;
  const [time, ...names] = cellsOf(head.text);
  if (names.length < 2) return undefined;
  const { wires, note } = assigned(names);
  const changes: Change[] = [];
  const levels = new Map<Wire, string>();
  let last = 0;
  for (const { row, text } of rows) {
    const [at = '', ...cells] = cellsOf(text);
    last = timeIn(at, row);
    cells.forEach((cell, i) => {
      const wire = wires[i];
      if (wire === undefined) return;
      if (!/^[01]$/.test(cell))
        fail('recording-row', `"${cell.slice(0, 20)}" is no level.`, { row }, 'Levels are 0 and 1.');
      if (levels.get(wire) !== cell) changes.push({ at: last, wire, level: cell === '1' ? 1 : 0 });
      levels.set(wire, cell);
    });
  }
  const [, named] = /[[(_ ]\s*(s|ms|us|µs|μs|ns)\s*[\])]?$/i.exec(time!) ?? [];
  return inUnit(changes, last, named?.toLowerCase(), ['table of levels', ...note]);
}

const EDGE =
  /^([\d.]+(?:e-?\d+)?)\s*(s|ms|us|µs|μs|ns)?[\s,;:]+((?:d|data|w|wire)[ _-]?[01]|green|white)[\s,;:]+(fall(?:ing)?|rise|rising|low|high|down|up|↓|↑|0|1)$/i;

/** Lines of time, wire and edge. */
function fromEdges(rows: readonly Row[]): Recording | undefined {
  const own = rows.filter(({ text }, i) => i > 0 || !HEADING.test(text));
  const edges = own.map(({ row, text }) => ({ row, text, match: EDGE.exec(text) }));
  if (edges.filter(({ match }) => match).length < 3) return undefined;
  let unit: string | undefined;
  const changes = edges.map(({ row, text, match }): Change => {
    if (!match)
      return fail(
        'recording-row',
        `"${text.slice(0, 40)}" is no edge.`,
        { row },
        'Each line has a time, a wire and an edge: 1000 D0 fall.',
      );
    unit ??= match[2]?.toLowerCase();
    return {
      at: timeIn(match[1]!, row),
      wire: wireNamed(match[3]!)!,
      level: /^(?:r|h|u|↑|1)/i.test(match[4]!) ? 1 : 0,
      isEdge: true,
    };
  });
  return inUnit(changes, changes.at(-1)!.at, unit, ['list of edges']);
}

function timeIn(text: string, row: number): number {
  const at = Number(text.replace(/\s*(?:s|ms|us|µs|μs|ns)$/i, ''));
  if (text === '' || !Number.isFinite(at)) return fail('recording-row', `"${text.slice(0, 20)}" is no time.`, { row });
  return at;
}

/** With no unit named, the one in which most pulses are as wide as the interface has them. */
function inUnit(changes: readonly Change[], end: number, unit: string | undefined, notes: string[]): Recording {
  if (unit !== undefined) return recordingOf(scaled(changes, UNITS[unit]!), end * UNITS[unit]!, notes);
  const tried = ['us', 's', 'ms', 'ns'].map((name) => {
    const recording = recordingOf(scaled(changes, UNITS[name]!), end * UNITS[name]!, notes);
    const right = recording.pulses.filter(
      ({ widthUs }) => widthUs >= PULSE_WIDTH_US.least && widthUs <= PULSE_WIDTH_US.most,
    );
    return { name, recording, right: right.length };
  });
  const best = tried.reduce((a, b) => (b.right > a.right ? b : a));
  if (best.right === 0)
    fail(
      'recording-unit',
      'In no unit of time are these pulses 20 to 100 µs wide.',
      undefined,
      'Say the unit in the heading, such as Time [us].',
    );
  return { ...best.recording, notes: [...best.recording.notes, `times taken in ${best.name}`] };
}

const scaled = (changes: readonly Change[], by: number): Change[] => changes.map((c) => ({ ...c, at: c.at * by }));

/** The pulses: from where a wire leaves the level that it rests at until it is back. */
function recordingOf(changes: readonly Change[], end: number, notes: string[]): Recording {
  const sorted = [...changes].sort((a, b) => a.at - b.at);
  const pulses: Pulse[] = [];
  let inverted = 0;
  for (const wire of [0, 1] as const) {
    const own = sorted.filter((change) => change.wire === wire);
    const rest = restingLevel(own, end);
    if (own.length > 1 && rest === 0) inverted++;
    own.forEach(({ at, level, isEdge = false }, i) => {
      const before = own[i - 1];
      if (level === rest || before?.level === level) return;
      let back: Change | undefined;
      for (let k = i + 1; k < own.length && !back; k++) if (own[k]!.level === rest) back = own[k];
      // What is low at the beginning, or never comes back, is no pulse that was seen whole.
      if ((i > 0 || isEdge) && back) pulses.push({ atUs: round(at), wire, widthUs: round(back.at - at) });
    });
  }
  if (pulses.length === 0)
    fail(
      'recording-still',
      'Neither wire has a whole pulse in this recording.',
      undefined,
      'Record while a card is read.',
    );
  if (inverted === 2) notes = [...notes, 'the wires rest low: taken as inverted'];
  return { pulses: pulses.sort((a, b) => a.atUs - b.atUs), notes };
}

const round = (us: number): number => Math.round(us * 1000) / 1000;

/** Where a wire is most of the time, or was before its first edge; high, as the interface has it, where that does not tell. */
function restingLevel(changes: readonly Change[], end: number): 0 | 1 {
  const [first] = changes;
  if (first?.isEdge) return first.level === 0 ? 1 : 0;
  let low = 0;
  let high = 0;
  changes.forEach(({ at, level }, i) => {
    const span = (changes[i + 1]?.at ?? end) - at;
    if (level === 0) low += span;
    else high += span;
  });
  return low > high ? 0 : 1;
}
