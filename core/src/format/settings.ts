/**
 * The settings sheet: one format in every number that a controller's set-up asks for, and back from such numbers to
 * the format. Positions are those of the format's own order. Common practice, no source.
 */
import { fail, failureOf } from '../failure/index.ts';
import { AS_SENT, type Layout, labelOf, type Span } from './definition.ts';
import { parseLayoutLine, printMethod } from './layoutLine.ts';
import { maskOf, maskPositions, maskTexts } from './maskText.ts';
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
  /** A number that the controller adds to the one cut out; 0 unless told. */
  offset?: bigint;
}

const NO_RUN = 'not one rising run: use the mask or the list';

/** The sheet of a sound layout, line by line: the whole, then every span in the layout's order. */
export function settingsOf(layout: Layout, { offset = 0n }: SheetOptions = {}): Setting[] {
  return [...wholeSettings(layout, offset), ...layout.spans.flatMap((span) => spanSettings(span, layout.bits))];
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

function spanSettings(span: Span, bits: number): Setting[] {
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

function maskSettings(name: string, positions: number[], bits: number, line: Line): Setting[] {
  const texts = maskTexts(maskOf(positions, bits));
  return [
    line(`${name}, binary`, texts.binary),
    line(`${name}, hex right-justified`, texts.hexRight),
    line(`${name}, hex left-justified`, texts.hexLeft),
    line(`${name === 'mask' ? 'position list' : `${name}, position list`}`, positions.join(',')),
  ];
}

/** The sheet as rows for a CSV writer, the heading first. */
export function settingsRows(settings: readonly Setting[]): string[][] {
  return [['item', 'setting', 'value'], ...settings.map(({ item, setting, value }) => [item, setting, value])];
}

const FREE =
  /^(facility|number|issue|value\s+"(?:[^"\\]|\\.)*")\s*[:=,]?\s*(?:start\s*[:=]?\s*(\d+)\s*[,;]?\s*(?:length|bits)\s*[:=]?\s*(\d+)|mask\s*[:=]?\s*([0-9a-fx_ ]+)|positions\s*[:=]?\s*([\d,\s-]+))$/i;
const FREE_PARITY =
  /^(even|odd)(?:\s+parity)?(?:\s+(?:bit|at))?\s*[:=]?\s*(\d+)\s+(?:covers|over)\s*[:=]?\s*([\d,\s-]+|\d.*)$/i;
const FREE_BITS = /^(?:total\s+bits|bits|length)\s*[:=]?\s*(\d+)(?:\s*bits)?$/i;

/**
 * The format from a sheet: rows of item, setting and value as `settingsRows` gives them, or rows of one cell as a
 * person types them (`bits 26`, `number start 10 length 16`, `facility mask 1FE0000`, `even 1 covers 2-13`).
 * `firstIs` says whether the starts of typed lines count from 1 or from 0. Throws with the row: `sheet-line`,
 * `sheet-bits`, or what the item's own text is refused for.
 */
export function layoutFromSheet(rows: readonly (readonly string[])[], firstIs: 0 | 1 = 1): Layout {
  const sheet = new Sheet(firstIs);
  rows.forEach((row, index) => {
    const cells = row.map((cell) => cell.trim());
    if (cells.every((cell) => cell === '') || (cells[0] === 'item' && cells[1] === 'setting')) return;
    if (cells.length >= 3 && cells[1] !== '') sheet.take(cells[0]!, cells[1]!, cells[2]!, index + 1);
    else sheet.takeTyped(cells.join(' ').trim(), index + 1);
  });
  return sheet.layout();
}

/** Gathers a sheet's lines by item and makes the layout of them. */
class Sheet {
  private readonly items = new Map<string, Map<string, { value: string; row: number }>>();

  constructor(private readonly firstIs: 0 | 1) {}

  take(item: string, setting: string, value: string, row: number): void {
    const settings = this.items.get(item) ?? new Map();
    this.items.set(item, settings.set(setting.toLowerCase(), { value, row }));
  }

  takeTyped(text: string, row: number): void {
    const bits = FREE_BITS.exec(text);
    const parity = FREE_PARITY.exec(text);
    const free = FREE.exec(text);
    if (bits) this.take('format', 'total bits', bits[1]!, row);
    else if (parity) {
      const item = `parity ${parity[2]}`;
      this.take(item, 'positions', parity[2]!, row);
      this.take(item, 'sense', parity[1]!.toLowerCase(), row);
      this.take(item, 'covers', parity[3]!, row);
    } else if (free) this.takeField(free, row);
    else
      fail(
        'sheet-line',
        `"${text.slice(0, 60)}" is no setting.`,
        { row, column: 1 },
        'Write such as: bits 26 · number start 10 length 16 · facility mask 1FE0000 · even 1 covers 2-13.',
      );
  }

  private takeField(match: RegExpExecArray, row: number): void {
    const [, name, start, length, mask, positions] = match;
    const item = name!.replace(/^(facility|number|issue)$/i, (word) => word.toLowerCase());
    if (start) {
      const from = Number(start) + 1 - this.firstIs;
      this.take(item, 'positions', `${from}-${from + Number(length) - 1}`, row);
    } else if (mask) this.take(item, 'mask', mask, row);
    else this.take(item, 'positions', positions!.replace(/\s/g, ''), row);
  }

  layout(): Layout {
    const whole = this.items.get('format');
    const bits = whole?.get('total bits');
    if (!bits || !/^\d{1,3}$/.test(bits.value))
      fail('sheet-bits', 'The sheet does not say how many bits there are.', { row: bits?.row }, 'Add a line: bits 26.');
    const flag = (name: string) => whole?.get(name)?.value === 'yes';
    const arrives = {
      ...AS_SENT,
      reverseBytes: flag('bytes arrive reversed'),
      reverseBits: flag('bits arrive reversed'),
      invert: flag('arrives inverted'),
    };
    const facility = whole?.get('facility code')?.value;
    const count = Number(bits!.value);
    const spans = [...this.items].flatMap(([item, settings]) =>
      item === 'format' ? [] : [spanFrom(item, settings, count)],
    );
    return { bits: count, spans, arrives, ...(facility && /^\d+$/.test(facility) && { facility }) };
  }
}

type Settings = Map<string, { value: string; row: number }>;

function spanFrom(item: string, settings: Settings, bits: number): Span {
  const { row } = [...settings.values()][0]!;
  const at = inRow(row, item, () => positionsFrom(settings, bits, row, item));
  const value = (name: string) => settings.get(name)?.value ?? '';
  const written = value('written');
  const tail = written === 'bcd' || written === 'char5' ? ` ${written}` : '';
  const role = item.split(' ')[0]!;
  const texts: Record<string, string> = {
    facility: `facility${tail}`,
    number: `number${tail}`,
    issue: `issue${tail}`,
    value: `${item}${tail}`,
    fixed: `fixed ${value('bits')}`,
    parity: `${value('sense')} ${value('covers')}`,
    check: `check ${value('method')} ${value('covers')}`,
  };
  const text = texts[role];
  if (text === undefined)
    return fail('sheet-line', `"${item}" is no item of a format.`, { row }, 'Use facility, number, issue, value "…".');
  return inRow(row, item, () => parseLayoutLine(`${bits} | ${at} ${text}`).spans[0]!);
}

/** Does something with an item; what it is refused for names the item and its row. */
function inRow<T>(row: number, item: string, work: () => T): T {
  try {
    return work();
  } catch (error) {
    const { code, message, hint } = failureOf(error);
    return fail(code, `${item}: ${message}`, { row }, hint);
  }
}

/** From the most exact to the least: positions, list, start and length, mask. */
function positionsFrom(settings: Settings, bits: number, row: number, item: string): string {
  const get = (name: string) => settings.get(name)?.value || undefined;
  const plain = get('positions') ?? get('position list');
  if (plain) return /by/.test(plain) || plain.includes('-') ? plain : rangeOf(positionsOf(plain));
  const length = Number(get('length'));
  const start =
    get('start, from the first bit, counted from 1') ??
    plus(get('start, from the first bit, counted from 0'), 1) ??
    fromLast(get('start, from the last bit, counted from 1'), bits, length, 1) ??
    fromLast(get('start, from the last bit, counted from 0'), bits, length, 0);
  if (start && length > 0) return rangeOf(rangePositions(Number(start), Number(start) + length - 1));
  const mask = get('mask') ?? get('mask, binary') ?? get('mask, hex right-justified');
  const left = get('mask, hex left-justified');
  if (mask || left) return rangeOf(maskPositions(mask ?? left!, bits, mask ? 'right' : 'left'));
  return fail(
    'sheet-line',
    `The sheet does not say where ${item} stands.`,
    { row },
    'Give start and length, or a mask.',
  );
}

const plus = (text: string | undefined, n: number): string | undefined => text && String(Number(text) + n);
const fromLast = (text: string | undefined, bits: number, length: number, base: number): string | undefined =>
  text && String(bits - (Number(text) - base) - length + 1);
