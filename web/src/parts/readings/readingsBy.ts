/** A pasted text as the site's translations read it: what another device would have delivered for the same card. */
import type { NamedTranslation } from '@rawbits/api';
import { translate } from '@rawbits/core/translate';

export interface TranslatedReading {
  notation: string;
  bits: string;
  note: string;
}

/** The readings of a text by translations that lead to bits; a text that does not suit one is passed over. */
export function readingsBy(translations: readonly NamedTranslation[], text: string): TranslatedReading[] {
  return translations.flatMap(({ name, translation }) => {
    try {
      const { bits, text: shown } = translate(translation, text);
      return bits
        ? [{ notation: `translated, ${name}`, bits: bits.toBinary(), note: `${text.trim()} is ${shown}` }]
        : [];
    } catch {
      return [];
    }
  });
}

/** The number that a translation makes of what a device shows, or undefined where it does not suit. */
export function numberBy({ translation }: NamedTranslation, text: string): string | undefined {
  try {
    return translate(translation, text).value.toString();
  } catch {
    return undefined;
  }
}
