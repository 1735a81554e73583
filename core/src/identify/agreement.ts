/** Whether a print agrees with what a format makes of a read. */
import { type Layout, printedOf } from '../format/index.ts';
import type { PrintedNumber } from './cards/print.ts';

export type Agreement =
  | 'number'
  | 'facility and number'
  | 'facility and number joined in one decimal'
  | 'the whole read'
  | 'what its cards have printed on them'
  | undefined;

/**
 * How a print comes out of decoded values: as the number alone, as facility code and number, or as one decimal whose
 * last five digits are the number (common practice, no source). Of a format that says what is printed on its cards, that
 * alone. Undefined when it does not.
 */
export function agreementOf(
  values: Record<string, string>,
  prints: readonly PrintedNumber[],
  format?: Pick<Layout, 'print'>,
): Agreement {
  if (format?.print) {
    const printed = printedOf(format, values);
    const agrees = printed !== undefined && prints.some(({ value, as }) => as !== 'hex' && value === BigInt(printed));
    return agrees ? 'what its cards have printed on them' : undefined;
  }
  const number = values.number === undefined ? undefined : BigInt(values.number);
  const facility = values.facility === undefined ? undefined : BigInt(values.facility);
  for (const print of prints) {
    if (print.as === 'facility and number') {
      if (print.number === number && print.facility === facility) return 'facility and number';
      if (facility === undefined && print.value === number) return 'number';
      continue;
    }
    if (number !== undefined && print.value === number) return 'number';
    if (number === undefined || facility === undefined) continue;
    if (number < 100_000n && facility > 0n && print.value === facility * 100_000n + number)
      return 'facility and number joined in one decimal';
  }
  return undefined;
}
