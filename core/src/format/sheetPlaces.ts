/** Where an item of a settings sheet stands, from whichever ways the sheet says it; all of them have to agree. */
import { fail, failureOf } from '../failure/index.ts';
import { maskPositions } from './maskText.ts';
import { normalRange, positionsOf, rangeOf } from './range.ts';
import { PLACES } from './sheetWords.ts';

/** What a row says of an item, and in which row. */
export interface Said {
  value: string;
  row: number;
}
export type Settings = Map<string, Said>;

/** Does something with an item; what it is refused for names the item and its row. */
export function inRow<T>(row: number, item: string, work: () => T): T {
  try {
    return work();
  } catch (error) {
    const { code, message, hint } = failureOf(error);
    return fail(code, `${item}: ${message}`, { row }, hint);
  }
}

/**
 * The range in which an item stands, or which it covers, from whichever of the settings are given: the most exact of them,
 * with which all others have to agree. Undefined where none is.
 */
export function placesOf(
  item: string,
  settings: Settings,
  bits: number,
  firstIs: 0 | 1,
  names: readonly string[],
): string | undefined {
  let found: { range: string; row: number; picks: string } | undefined;
  for (const name of names) {
    const said = settings.get(name);
    if (!said || said.value === '') continue;
    const range = inRow(said.row, item, () => rangeSaid(name, said.value, settings, bits, firstIs));
    if (range === undefined) continue;
    // A mask says which bits, not in which order.
    const picks = inRow(said.row, item, () => [...positionsOf(range)].sort((a, b) => a - b).join(','));
    found ??= { range, row: said.row, picks };
    if (picks !== found.picks)
      fail(
        'sheet-contradicts',
        `${item}: row ${found.row} says ${found.range}, the ${name} ${range}.`,
        { row: said.row },
        'Keep the one that is right.',
      );
  }
  const length = names === PLACES ? settings.get('length') : undefined;
  if (found && length?.value && Number(length.value) !== found.picks.split(',').length)
    fail(
      'sheet-contradicts',
      `${item}: row ${found.row} says ${found.range}, which are not ${length.value} bits.`,
      { row: length.row },
      'Keep the one that is right.',
    );
  if (found) return found.range;
  // A parity bit may be called by its position alone.
  const own = names === PLACES && /^(?:parity|check|fixed)\s+(\d.*)$/.exec(item)?.[1];
  return own ? shifted(own, firstIs) : undefined;
}

/** A range of positions counted from 1, of one that counts from `firstIs`; a step stays as it is. */
const shifted = (range: string, firstIs: 0 | 1): string =>
  range
    .replace(/\s*,\s*/g, ',')
    .replace(/\s*-\s*/g, '-')
    .replace(/(by\s+)?(\d+)/g, (whole, by: string | undefined, digits: string) =>
      by ? whole : String(Number(digits) + 1 - firstIs),
    );

/** What one setting says, as a range; undefined where it says nothing of places. */
function rangeSaid(name: string, text: string, settings: Settings, bits: number, firstIs: 0 | 1): string | undefined {
  if (name === 'positions' || name === 'covers') return shifted(text, firstIs);
  if (name.endsWith('position list')) return rangeOf(positionsOf(normalRange(shifted(text, firstIs))));
  if (name.includes('left-justified')) return rangeOf(maskPositions(text, bits, 'left'));
  if (!name.startsWith('start')) return rangeOf(maskPositions(text, bits, 'right'));
  const length = Number(settings.get('length')?.value ?? '');
  if (!(length > 0))
    return fail('sheet-line', 'a start without a length says nothing.', undefined, 'Give the length, too.');
  if (!/^\d{1,3}$/.test(text)) return fail('sheet-line', `"${text.slice(0, 20)}" is no position.`);
  const start = Number(text);
  const first: Record<string, number> = {
    start: start + 1 - firstIs,
    'start, from the first bit, counted from 1': start,
    'start, from the first bit, counted from 0': start + 1,
    'start, from the last bit, counted from 1': bits - (start - 1) - length + 1,
    'start, from the last bit, counted from 0': bits - start - length + 1,
  };
  const from = first[name]!;
  return length === 1 ? String(from) : `${from}-${from + length - 1}`;
}
