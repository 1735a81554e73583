/** A translation as a format: what a reader delivers, and the number that is shown for it. */
import { parseLayoutLine } from '../format/index.ts';
import type { Translation, TranslationOrder } from './translation.ts';

/** How bits arrive whose order a translation undoes. */
const FLAGS: Partial<Record<TranslationOrder, string>> = {
  'as it is': '',
  'bytes reversed': 'r',
  'bits reversed': 'b',
  // Whole bytes turned, and then every bit: each byte stays where it is.
  'bits of each byte reversed': 'rb',
};

/**
 * The layout line whose number is what the translation shows, for reads as wide as it takes them; undefined where no layout
 * says the same: it moves nibbles, turns what it has cut, begins or ends with something else than one string of bits as a
 * number, or takes something off.
 */
export function layoutOfTranslation(translation: Translation): string | undefined {
  const { from, bits, invert, order, drop, keep, turn, write, add } = translation;
  const flags = FLAGS[order];
  if ((from !== 'hex' && from !== 'binary') || flags === undefined || turn !== undefined) return undefined;
  if (write.as === 'last digits' || (write.as === 'facility and number joined' && add !== '0')) return undefined;
  const [last, first] = [bits - drop, bits - drop - keep + 1];
  if (first < 1) return undefined;
  const head = `${bits}${flags}${invert ? 'i' : ''}`;
  const line =
    write.as === 'number'
      ? `${head} | ${first}-${last} number${add === '0' ? '' : ` | print = number ${add.startsWith('-') ? '-' : '+'} ${add.replace('-', '')}`}`
      : keep > 16
        ? `${head} | ${first}-${last - 16} facility | ${last - 15}-${last} number | print = facility and number`
        : undefined;
  if (line === undefined) return undefined;
  try {
    parseLayoutLine(line);
    return line;
  } catch {
    return undefined;
  }
}
