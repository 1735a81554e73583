/**
 * The settings sheet: one format in every number that a controller's set-up asks for (`fromSheet` goes back from such
 * numbers to the format). Positions are those of the format's own order; where that is not the order in which the bits
 * arrive, they stand as they arrive, too, for a controller that cannot reverse. Common practice, no source.
 */
import { arrivalOf } from './arrival.ts';
import { type Layout, labelOf, type Span } from './definition.ts';
import { printMethod } from './layoutLine.ts';
import { maskOf, maskTexts } from './maskText.ts';
import { positionsOf, rangeOf } from './range.ts';

/** One line of the sheet: of which item, what is asked for, and the answer. */
export interface Setting {
  item: string;
  setting: string;
  value: string;
  /** Why there is no plain answer, or how to read it. */
  note?: string;
}

export interface SheetOptions {
  /** A number that the controller adds to the one cut out; unless told, what the format's print adds. */
  offset?: bigint;
}

const NO_RUN = 'not one rising run: use the mask or the list';

/** The sheet of a sound layout, line by line: the whole, then every span in the layout's order. */
export function settingsOf(layout: Layout, options: SheetOptions = {}): Setting[] {
  const { offset = BigInt(layout.print?.add ?? 0) } = options;
  return [...wholeSettings(layout, offset), ...layout.spans.flatMap((span) => spanSettings(span, layout))];
}

const yes = (flag: boolean): string => (flag ? 'yes' : 'no');

function wholeSettings(layout: Layout, offset: bigint): Setting[] {
  const parity = layout.spans.filter((span) => span.role === 'parity');
  const senses = (sense: string) => parity.filter((span) => span.sense === sense);
  const whole = maskTexts(maskOf(rangePositions(1, layout.bits), layout.bits));
  const number = layout.spans.find((span) => span.role === 'number');
  const settings: [string, string, string?][] = [
    ['total bits', String(layout.bits)],
    ['bytes arrive reversed', yes(layout.arrives.reverseBytes)],
    ['bits arrive reversed', yes(layout.arrives.reverseBits)],
    ['arrives inverted', yes(layout.arrives.invert)],
    facilitySetting(layout),
    ['offset added to the number', offset.toString()],
    ['facility code and number printed as one decimal', yes(layout.print?.joined ?? false)],
    ['even parity bits', String(senses('even').length), parityPlaces(senses('even'), layout.bits)],
    ['odd parity bits', String(senses('odd').length), parityPlaces(senses('odd'), layout.bits)],
    ['whole string as one number: start from 1', '1'],
    ['whole string as one number: start from 0', '0'],
    ['whole string as one number: length', String(layout.bits)],
    ['whole string as one number: mask, hex', whole.hexRight],
  ];
  if (number && offset !== 0n) settings[5]![2] = `the controller then shows number ${offset < 0n ? '' : '+ '}${offset}`;
  return settings.map(([setting, value, note]) => ({ item: 'format', setting, value, ...(note && { note }) }));
}

function facilitySetting(layout: Layout): [string, string, string?] {
  if (layout.facility !== undefined) return ['facility code', layout.facility, 'carried by no bit: type it in'];
  const has = layout.spans.some((span) => span.role === 'facility');
  return has ? ['facility code', 'in the bits'] : ['facility code', 'none', 'where one is asked for, give 0 bits'];
}

const rangePositions = (from: number, to: number): number[] =>
  Array.from({ length: Math.max(0, to - from + 1) }, (_, i) => from + i);

/** `leading`, `trailing` or the position of each. */
function parityPlaces(spans: Span[], bits: number): string | undefined {
  if (spans.length === 0) return undefined;
  return spans.map((span) => sideOf(positionsOf(span.at)[0]!, bits)).join(', ');
}

const sideOf = (position: number, bits: number): string =>
  position === 1 ? 'leading' : position === bits ? 'trailing' : `at ${position}`;

/** How an item is named in the sheet: `number`, `value "agency"`, `parity 26`, `check 33-40`, `fixed 1-5`. */
export function itemOf(span: Span): string {
  if (span.role === 'value') return `value ${JSON.stringify(span.label)}`;
  return labelOf(span) ?? `${span.role} ${span.at}`;
}

function spanSettings(span: Span, layout: Layout): Setting[] {
  const { bits } = layout;
  const at = positionsOf(span.at);
  const item = itemOf(span);
  const line = (setting: string, value: string, note?: string): Setting => ({
    item,
    setting,
    value,
    ...(note && { note }),
  });
  const lines = [line('positions', span.at, at.length > 1 ? 'most significant bit first' : undefined)];
  lines.push(line('length', String(at.length)), ...startSettings(at, bits, line));
  lines.push(...maskSettings('mask', at, bits, line));
  lines.push(...arrivalSettings(at, layout, line));
  if ('written' in span && span.written) lines.push(line('written', span.written));
  if (span.role === 'fixed') lines.push(line('bits', span.bits));
  if (span.role === 'parity') {
    lines.push(line('sense', span.sense), line('side', sideOf(at[0]!, bits)));
  }
  if (span.role === 'check') lines.push(line('method', printMethod(span.method)));
  if (span.role === 'parity' || span.role === 'check') {
    lines.push(line('covers', span.covers));
    lines.push(...maskSettings('covered bits', positionsOf(span.covers), bits, line));
  }
  return lines;
}

type Line = (setting: string, value: string, note?: string) => Setting;

function startSettings(at: number[], bits: number, line: Line): Setting[] {
  const rising = at.every((p, i) => i === 0 || p === at[i - 1]! + 1);
  const [first, last] = [at[0]!, at.at(-1)!];
  const value = (n: number) => (rising ? String(n) : '');
  const note = rising ? undefined : NO_RUN;
  return [
    line('start, from the first bit, counted from 1', value(first), note),
    line('start, from the first bit, counted from 0', value(first - 1), note),
    line('start, from the last bit, counted from 1', value(bits - last + 1), note),
    line('start, from the last bit, counted from 0', value(bits - last), note),
  ];
}

/** Where the bits stand in the read, for a controller that cannot turn it round; nothing where they arrive in this order. */
function arrivalSettings(at: number[], layout: Layout, line: Line): Setting[] {
  const { reverseBytes, reverseBits, invert } = layout.arrives;
  if (!reverseBytes && !reverseBits) return [];
  const places = at.map((p) => arrivalOf(p, layout));
  return [
    line('positions as they arrive', rangeOf(places), invert ? 'each bit inverted' : undefined),
    line(
      'mask as they arrive, hex right-justified',
      maskTexts(maskOf(places, layout.bits)).hexRight,
      orderNote(places),
    ),
  ];
}

/** A mask says which bits, not in which order: that is lost where they do not rise. */
const orderNote = (positions: readonly number[]): string | undefined =>
  positions.some((p, i) => i > 0 && p < positions[i - 1]!)
    ? `a mask loses the order: the most significant bit is ${positions[0]}, the least ${positions.at(-1)}`
    : undefined;

function maskSettings(name: string, positions: number[], bits: number, line: Line): Setting[] {
  const texts = maskTexts(maskOf(positions, bits));
  const note = name === 'mask' ? orderNote(positions) : undefined;
  return [
    line(`${name}, binary`, texts.binary, note),
    line(`${name}, hex right-justified`, texts.hexRight, note),
    line(`${name}, hex left-justified`, texts.hexLeft, note),
    line(`${name === 'mask' ? 'position list' : `${name}, position list`}`, positions.join(',')),
  ];
}

/** The sheet as rows for a CSV writer, the heading first. */
export function settingsRows(settings: readonly Setting[]): string[][] {
  return [['item', 'setting', 'value'], ...settings.map(({ item, setting, value }) => [item, setting, value])];
}
