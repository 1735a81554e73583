/**
 * A format from a settings sheet: rows as `settingsRows` writes them, or lines as a person types them. Every row is either
 * understood or refused by its number; two that contradict one another are refused at the later one, and none is dropped.
 */
import { fail } from '../failure/index.ts';
import { AS_SENT, type Layout, type Span } from './definition.ts';
import { parseLayoutLine } from './layoutLine.ts';
import { inRow, placesOf, type Said, type Settings } from './sheetPlaces.ts';
import {
  COVERS,
  FLAGS,
  FREE,
  FREE_BITS,
  FREE_FACILITY,
  FREE_FLAG,
  FREE_PARITY,
  fieldNamed,
  ITEM_WORDS,
  itemNamed,
  OF_ITEMS,
  OF_WHOLE,
  PLACES,
  WORDS,
} from './sheetWords.ts';

/**
 * The format from a sheet: rows of item, setting and value as `settingsRows` gives them, or rows of one cell as a
 * person types them (`bits 26`, `number start 10 length 16`, `facility mask 1FE0000`, `even 1 covers 2-13`).
 * `firstIs` says whether positions, covers and parity bits count from 1 or from 0; the starts of a sheet say themselves from
 * what they count. A field of 0 bits is none. Throws with the row: `sheet-line`, `sheet-name`, `sheet-setting`,
 * `sheet-contradicts`, `sheet-yes`, `sheet-bits`, or what the item's own text is refused for.
 */
export function layoutFromSheet(rows: readonly (readonly string[])[], firstIs: 0 | 1 = 1): Layout {
  const sheet = new Sheet(firstIs);
  rows.forEach((row, index) => {
    const cells = row.map((cell) => cell.trim());
    if (cells.every((cell) => cell === '') || isHeading(cells)) return;
    const isRow = cells.length >= 3 && cells[1] !== '';
    // A typed line with commas in it was cut at them: `facility positions 2-9,14,16`.
    if (isRow && (fieldNamed(cells[0]!) || !/\d/.test(cells[0]!)))
      sheet.take(cells[0]!, cells[1]!, cells[2]!, index + 1);
    else sheet.takeTyped(cells.filter((cell) => cell !== '').join(','), index + 1);
  });
  return sheet.layout();
}

const isHeading = ([item = '', setting = '']: readonly string[]): boolean =>
  item.toLowerCase() === 'item' && setting.toLowerCase() === 'setting';

/** Gathers a sheet's lines by item and makes the layout of them. */
class Sheet {
  private readonly items = new Map<string, Settings>();

  constructor(private readonly firstIs: 0 | 1) {}

  /** A row of three cells. */
  take(name: string, setting: string, value: string, row: number): void {
    const item = itemNamed(name, row);
    const text = setting.toLowerCase().replace(/\s+/g, ' ');
    const known = (item === 'format' ? WORDS : ITEM_WORDS)[text] ?? text;
    if (!(item === 'format' ? OF_WHOLE : OF_ITEMS).has(known))
      fail(
        'sheet-setting',
        `"${setting.slice(0, 40)}" is no setting of ${item === 'format' ? 'a format' : item}.`,
        { row, column: 1 },
        item === 'format'
          ? 'Write total bits, facility code, bits arrive reversed or the like.'
          : 'Write positions, start and length, mask, covers, sense or the like.',
      );
    this.say(item, known, value, row);
  }

  private say(item: string, setting: string, value: string, row: number): void {
    const settings = this.items.get(item) ?? new Map<string, Said>();
    const before = settings.get(setting);
    if (before && before.value !== value)
      fail(
        'sheet-contradicts',
        `${item}, ${setting}: row ${before.row} says ${before.value || 'nothing'}, this one ${value || 'nothing'}.`,
        { row },
        'Keep the one that is right.',
      );
    settings.set(setting, before ?? { value, row });
    this.items.set(item, settings);
  }

  /** A line as a person types it. */
  takeTyped(typed: string, row: number): void {
    // Of many blanks each way to take them would be tried; in a label they stay.
    const text = typed.replace(/"(?:[^"\\]|\\.)*"|\s+/g, (piece) => (piece.startsWith('"') ? piece : ' '));
    const bits = FREE_BITS.exec(text);
    const parity = FREE_PARITY.exec(text);
    const flag = FREE_FLAG.exec(text);
    const code = FREE_FACILITY.exec(text);
    const free = FREE.exec(text);
    if (bits) this.say('format', 'total bits', bits[1] ?? bits[2]!, row);
    else if (parity) {
      const item = `parity ${Number(parity[2]) + 1 - this.firstIs}`;
      this.say(item, 'positions', parity[2]!, row);
      this.say(item, 'sense', parity[1]!.toLowerCase(), row);
      this.say(item, 'covers', parity[3]!, row);
    } else if (flag) this.take('format', flag[1]!, flag[2] || 'yes', row);
    else if (code) this.say('format', 'facility code', code[1]!, row);
    else if (free) this.takeField(free, row);
    else
      fail(
        'sheet-line',
        `"${text.slice(0, 60)}" is no setting.`,
        { row, column: 1 },
        'Write such as: bits 26 · number start 10 length 16 · facility mask 1FE0000 · even 1 covers 2-13.',
      );
  }

  private takeField([, name, start, length, mask, positions]: RegExpExecArray, row: number): void {
    const item = itemNamed(name!, row);
    if (item === 'format') return void this.take('format', 'start', '', row);
    if (start) {
      this.say(item, 'start', start, row);
      this.say(item, 'length', length!, row);
    } else if (mask) this.say(item, 'mask', mask, row);
    else this.say(item, 'positions', positions!, row);
  }

  layout(): Layout {
    const whole: Settings = this.items.get('format') ?? new Map();
    const bits = whole.get('total bits');
    if (!bits || !/^\d{1,3}$/.test(bits.value))
      fail('sheet-bits', 'The sheet does not say how many bits there are.', { row: bits?.row }, 'Add a line: bits 26.');
    const [reverseBytes, reverseBits, invert] = FLAGS.map((name) => flagOf(name, whole.get(name))) as [
      boolean,
      boolean,
      boolean,
    ];
    const facility = whole.get('facility code')?.value;
    const count = Number(bits!.value);
    const spans = [...this.items].flatMap(([item, settings]) =>
      item === 'format' ? [] : (spanFrom(item, settings, count, this.firstIs) ?? []),
    );
    checkCounts(whole, spans);
    const joined = flagOf(JOINED, whole.get(JOINED));
    const add = whole.get('offset added to the number')?.value || '0';
    if (!/^-?\d{1,40}$/.test(add))
      fail('sheet-line', `"${add.slice(0, 20)}" is no offset.`, { row: whole.get('offset added to the number')!.row });
    return {
      bits: count,
      spans,
      arrives: { ...AS_SENT, reverseBytes, reverseBits, invert },
      ...(facility && /^\d+$/.test(facility) && { facility }),
      ...((joined || BigInt(add) !== 0n) && { print: { joined, add: BigInt(add).toString() } }),
    };
  }
}

const JOINED = 'facility code and number printed as one decimal';

function flagOf(name: string, said: Said | undefined): boolean {
  const text = said?.value.toLowerCase() ?? '';
  if (/^(?:yes|y|true|1|on)$/.test(text)) return true;
  if (/^(?:no|n|false|0|off|)$/.test(text)) return false;
  return fail('sheet-yes', `${name}: "${said!.value.slice(0, 20)}" is neither yes nor no.`, { row: said!.row });
}

/** How many parity bits of a sense there are, where the sheet says it. */
function checkCounts(whole: Settings, spans: readonly Span[]): void {
  for (const sense of ['even', 'odd'] as const) {
    const said = whole.get(`${sense} parity bits`);
    const count = spans.filter((span) => span.role === 'parity' && span.sense === sense).length;
    if (said && said.value !== String(count))
      fail(
        'sheet-contradicts',
        `The sheet says ${said.value} ${sense} parity bits, and describes ${count}.`,
        { row: said.row },
        'Add the parity bits that are missing, or take the row out.',
      );
  }
}

/** Nothing where the field has no bits. */
function spanFrom(item: string, settings: Settings, bits: number, firstIs: 0 | 1): Span | undefined {
  const { row } = [...settings.values()][0]!;
  const value = (name: string) => settings.get(name)?.value ?? '';
  const isAbsent = value('length') === '0' && !value('positions') && !value('position list');
  if (isAbsent) return undefined;
  const at = placesOf(item, settings, bits, firstIs, PLACES);
  if (at === undefined)
    return fail(
      'sheet-line',
      `The sheet does not say where ${item} stands.`,
      { row },
      'Give start and length, or a mask.',
    );
  const covers = placesOf(item, settings, bits, firstIs, COVERS) ?? '';
  const written = value('written');
  const tail = written && written !== 'binary' ? ` ${written}` : '';
  const texts: Record<string, string> = {
    facility: `facility${tail}`,
    number: `number${tail}`,
    issue: `issue${tail}`,
    value: `${item}${tail}`,
    fixed: `fixed ${value('bits')}`,
    parity: `${value('sense').toLowerCase()} ${covers}`,
    check: `check ${value('method')} ${covers}`,
  };
  return inRow(row, item, () => parseLayoutLine(`${bits} | ${at} ${texts[item.split(' ')[0]!]}`).spans[0]!);
}
