/** The bits that a card delivers, by its format. */
import { encode } from '@rawbits/core/codec';
import { type Format, labelOf } from '@rawbits/core/format';

/** The bits of a card with this facility code and number; null where the format has more values than these. */
export function bitsOf(format: Format, { facility, number }: { facility: string; number: string }): string | null {
  const labels = format.spans.flatMap((span) => labelOf(span) ?? []);
  if (labels.some((label) => label !== 'facility' && label !== 'number')) return null;
  return encode(format, { number, ...(labels.includes('facility') && { facility }) }).toBinary();
}
