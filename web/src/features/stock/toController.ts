/**
 * The way of a card from its print to what a controller compares: printed number, read number, the raw bits in every order
 * in which wall and desk readers show them (common practice, no source), and what the site's translations make of them.
 */
import type { NamedTranslation } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { type KnownCard, renderings, translateCard } from '@rawbits/core/translate';

export interface Way {
  printed: string;
  facility: string | null;
  number: string;
  bits: string | null;
}

/** How readers show a card besides, by what renderings are called, whatever the length. */
const SHOWN = [
  ['bytes-reversed-decimal', 'raw decimal, bytes reversed'],
  ['hex-left', 'raw hex, left-justified'],
  ['bits-reversed', 'raw hex, bits reversed'],
  ['inverted', 'raw hex, inverted'],
  ['decimal-inner', 'decimal without first and last bit'],
  ['low24', 'fff,nnnnn of the low 24'],
  ['low32', 'ten digits of the low 32'],
  ['low24-inner', 'fff,nnnnn of the low 24 without first and last bit'],
  ['low32-inner', 'ten digits of the low 32 without first and last bit'],
] as const;

/** What the columns are called, whatever the lengths of the cards; the site's translations last. */
export const wayHead = (translations: readonly NamedTranslation[]): string[] => [
  ...['printed', 'facility code', 'number', 'bits', 'raw decimal', 'raw hex', 'raw hex, bytes reversed'],
  ...SHOWN.map(([, name]) => name),
  ...translations.map(({ name }) => `by ${name}`),
];

export function wayOf({ printed, facility, number, bits }: Way, translations: readonly NamedTranslation[]): string[] {
  const own = [printed || number, facility ?? '', number];
  if (bits === null)
    return [
      ...own,
      ...wayHead(translations)
        .slice(own.length)
        .map(() => ''),
    ];
  const raw = Bits.fromBinary(bits);
  const shown = renderings(raw);
  const hex = raw.toHex();
  const bytes = (hex.length % 2 ? `0${hex}` : hex).match(/../g)!.reverse().join('');
  return [
    ...own,
    ...[bits, raw.toBigInt().toString(), hex, bytes],
    ...SHOWN.map(([id]) => shown.find((rendering) => rendering.id === id)?.text ?? ''),
    ...translations.map(({ translation }) => by(translation, { bits: raw, facility, number })),
  ];
}

/** What a translation shows for a card; empty where the card does not suit it. */
function by(translation: NamedTranslation['translation'], card: KnownCard): string {
  try {
    return translateCard(translation, card);
  } catch {
    return '';
  }
}
