/**
 * What is printed on the cards of a format: the number that its bits give, unless the format says otherwise, as suppliers
 * print facility code and number in one decimal, or number their cards from another beginning. Common practice, no source.
 */
import type { Layout } from './definition.ts';

/** Decimal places of the number where facility code and number stand in one decimal. */
const JOINED_DIGITS = 5;

/** What the print of a card says, in decimal; undefined where it has no number, or none that can be printed so. */
export function printedOf(
  { print }: Pick<Layout, 'print'>,
  { facility, number }: Readonly<Record<string, string>>,
): string | undefined {
  if (number === undefined) return undefined;
  if (!print) return number;
  const add = BigInt(print.add);
  const own = BigInt(number);
  const scale = 10n ** BigInt(JOINED_DIGITS);
  if (print.joined && (facility === undefined || own >= scale)) return undefined;
  const printed = (print.joined ? BigInt(facility!) * scale + own : own) + add;
  return printed < 0n ? undefined : printed.toString();
}

/** `number + 5000`, `facility and number`, as the layout line writes it after `print =`. */
export function printInWords({ joined, add }: NonNullable<Layout['print']>): string {
  const sum = add === '0' ? '' : add.startsWith('-') ? ` - ${add.slice(1)}` : ` + ${add}`;
  return `${joined ? 'facility and number' : 'number'}${sum}`;
}
