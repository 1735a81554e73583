/** What a device shows for a card whose bits, facility code and number are known, by a translation. */
import type { Bits } from '../bits/index.ts';
import { type Translation, translate } from './translation.ts';

export interface KnownCard {
  /** As they arrive. */
  bits: Bits;
  /** Decimal; null where the card has none. */
  facility: string | null;
  number: string;
}

/**
 * Of the raw bits where the translation begins with hex or binary (right-justified), of code and number together where it
 * begins with those, of the number where it begins with a decimal. Throws what `translate` throws where the card does not
 * suit it.
 */
export function translateCard(translation: Translation, card: KnownCard): string {
  return translate(translation, beginning(translation.from, card)).text;
}

function beginning(from: string, { bits, facility, number }: KnownCard): string {
  if (from === 'hex') return bits.toHex('right');
  if (from === 'binary') return bits.toBinary();
  return from === 'facility,number' ? `${facility ?? ''},${number}` : number;
}
