/** What a print on a card may mean as numbers. */
import { fail } from '../../failure/index.ts';

export interface PrintedNumber {
  value: bigint;
  /** How the print was read. */
  as: 'decimal' | 'hex' | 'facility and number';
  /** With a facility code and a number, each alone. */
  facility?: bigint;
  number?: bigint;
}

/**
 * The numbers that a print can stand for. Decimal digits count as a decimal number, and as hex when they could be a
 * UID of 4 or more bytes. Throws `print-empty`, `print-unreadable`.
 */
export function printedNumbers(text: string): PrintedNumber[] {
  const clean = text.trim().replace(/^(no\.?|nr\.?|#)\s*/i, '');
  if (clean === '') fail('print-empty', 'Nothing is printed here yet.', { column: 1 });
  // Behind the ten digits that are the same card's, facility code and number stand once more.
  const alone = clean.replace(/^\d{10}[\s,;/]+(?=\d{1,3}\s*[,:/ -]\s*\d{5}$)/, '');
  const pair = /^(\d{1,8})\s*[,/ -]\s*(\d{1,10})$/.exec(alone) ?? /^(\d{1,3}):(\d{4,5})$/.exec(alone);
  if (pair) {
    const [facility, number] = [BigInt(pair[1]!), BigInt(pair[2]!)];
    const both = (facility << 16n) | number;
    return [{ value: both, as: 'facility and number', facility, number }];
  }
  const joined = clean.replace(/[\s:.-]/g, '');
  if (/^\d{1,40}$/.test(joined)) {
    const numbers: PrintedNumber[] = [{ value: BigInt(joined), as: 'decimal' }];
    if (joined.length >= 8 && joined.length % 2 === 0) numbers.push({ value: BigInt(`0x${joined}`), as: 'hex' });
    return numbers;
  }
  if (/^(0x)?[0-9a-f]{1,40}$/i.test(joined)) return [{ value: BigInt(`0x${joined.replace(/^0x/i, '')}`), as: 'hex' }];
  const wrong = clean.search(/[^0-9a-fx\s,/:.-]/i);
  return fail(
    'print-unreadable',
    `"${clean.slice(0, 20)}" is not a number${wrong >= 0 ? `: "${clean[wrong]}" is no digit` : ''}.`,
    { column: Math.max(wrong, 0) + 1 },
    'Type the digits as printed: 30731, 071,09034 or a UID in hex.',
  );
}
