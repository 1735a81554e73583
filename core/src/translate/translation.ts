/**
 * A translation: what leads from one device's output to another's, as data that can be named, kept and applied.
 * The steps, in this order: the output is taken as a number of `bits` bits, inverted, put in another order, cut to the
 * `keep` bits that stand before the last `drop`, put in an order once more, written as a number or as two joined in one
 * decimal, moved by an added constant, and shown in so many digits.
 */
import { z } from 'zod';
import { Bits } from '../bits/index.ts';
import { fail } from '../failure/index.ts';
import { bitLength, showAs, shownIn } from './shown.ts';

export const ORDERS = [
  'as it is',
  'bytes reversed',
  'bits reversed',
  'nibbles swapped',
  'bits of each byte reversed',
  'nibbles reversed',
] as const;
export type TranslationOrder = (typeof ORDERS)[number];

export const TRANSLATION_SCHEMA = 'rawbits/translation@1';
export const translationSchema = z.strictObject({
  schema: z.literal(TRANSLATION_SCHEMA),
  from: z.string().max(40),
  to: z.string().max(40),
  /** The width of the output as it comes in. */
  bits: z.number().int().min(1).max(512),
  invert: z.boolean(),
  order: z.enum(ORDERS),
  /** How many bits at the end are dropped. */
  drop: z.number().int().min(0).max(511),
  /** How many bits before those are kept. */
  keep: z.number().int().min(1).max(512),
  /** The order of what was cut out, where that is another; left out where it is not. */
  turn: z.enum(ORDERS).exclude(['as it is']).optional(),
  write: z.discriminatedUnion('as', [
    z.strictObject({ as: z.literal('number') }),
    /** What stands before the last 16 bits, times 100,000, plus those 16 bits. */
    z.strictObject({ as: z.literal('facility and number joined') }),
    /** Only the last decimal digits. */
    z.strictObject({ as: z.literal('last digits'), digits: z.number().int().min(1).max(40) }),
  ]),
  /** A decimal, perhaps negative, that is added at last. */
  add: z.string().regex(/^-?\d{1,40}$/),
  /** How many digits are shown at least, zeros in front; left out where the width of the bits says it. */
  digits: z.number().int().min(1).max(512).optional(),
});
export type Translation = z.infer<typeof translationSchema>;

/** The published JSON Schema of a translation. */
export function translationJsonSchema(): Record<string, unknown> {
  return {
    $id: 'https://rawbits.example/schema/translation-1.json',
    title: 'Raw Bits translation, version 1',
    ...(z.toJSONSchema(translationSchema, { io: 'input' }) as Record<string, unknown>),
  };
}

/** A number of `bits` bits in another order; undefined where the order needs whole bytes and there are none. */
export function inOrder(value: bigint, bits: number, order: TranslationOrder): bigint | undefined {
  if (order === 'as it is') return value;
  if (order !== 'bits reversed' && bits % (order === 'nibbles reversed' ? 4 : 8) !== 0) return undefined;
  const string = Bits.fromBigInt(value, bits);
  switch (order) {
    case 'bytes reversed':
      return string.reverseBytes().toBigInt();
    case 'bits reversed':
      return string.reverseBits().toBigInt();
    case 'nibbles swapped':
      return string.swapNibbles().toBigInt();
    case 'bits of each byte reversed':
      return string.reverseBitsInBytes().toBigInt();
    case 'nibbles reversed':
      return string.reverseNibbles().toBigInt();
  }
}

/** The number that a translation makes of a number; undefined where the number does not suit it. */
export function translateValue(translation: Translation, value: bigint): bigint | undefined {
  const { bits, invert, order, drop, keep, turn = 'as it is', write, add } = translation;
  if (bitLength(value) > bits && value !== 0n) return undefined;
  const turned = inOrder(invert ? value ^ ((1n << BigInt(bits)) - 1n) : value, bits, order);
  if (turned === undefined) return undefined;
  const part = inOrder((turned >> BigInt(drop)) & ((1n << BigInt(keep)) - 1n), keep, turn);
  if (part === undefined) return undefined;
  const result = writtenAs(part, write) + BigInt(add);
  return result < 0n ? undefined : result;
}

function writtenAs(part: bigint, write: Translation['write']): bigint {
  if (write.as === 'facility and number joined') return (part >> 16n) * 100_000n + (part & 0xffffn);
  if (write.as === 'last digits') return part % 10n ** BigInt(write.digits);
  return part;
}

/** A number as the other device shows it. */
export function shownBy({ to, keep, digits }: Translation, value: bigint): string {
  return digits === undefined ? showAs(to, value, keep) : showAs(to, value, undefined).padStart(digits, '0');
}

/**
 * Applies a translation to a device's output. `bits` of the result are the kept bits, where they are what the other
 * device delivers. Throws `translation-from` when the text is not in the notation that it begins with, and
 * `translation-width` when it holds more bits.
 */
export function translate(translation: Translation, text: string): { text: string; value: bigint; bits?: Bits } {
  const shown = shownIn(text).get(translation.from);
  if (!shown)
    return fail('translation-from', `"${text.slice(0, 40)}" is not ${translation.from}, as this translation wants.`);
  const value = translateValue(translation, shown.value);
  if (value === undefined || (shown.bits !== undefined && shown.bits > translation.bits && translation.from !== 'hex'))
    return fail(
      'translation-width',
      `"${text.slice(0, 40)}" holds more than the ${translation.bits} bits that this translation is for.`,
    );
  const plain = translation.write.as === 'number' && translation.add === '0';
  return {
    text: shownBy(translation, value),
    value,
    ...(plain && { bits: Bits.fromBigInt(value, translation.keep) }),
  };
}

/** A translation in words, step by step. */
export function translationInWords(translation: Translation): string {
  const { from, to, bits, invert, order, drop, keep, turn, write, add, digits } = translation;
  const top = bits - drop - keep;
  const dropped = (count: number, which: string) =>
    count % 8 === 0 && count > 0
      ? `${which} ${count === 8 ? 'byte' : `${count / 8} bytes`} dropped`
      : `${which} ${count === 1 ? 'bit' : `${count} bits`} dropped`;
  const parity = drop === 1 && top === 1;
  const steps = [
    `${from} of ${bits} bits`,
    invert ? 'inverted' : '',
    order === 'as it is' ? '' : order,
    parity ? 'first and last bit (parity) stripped' : '',
    !parity && top > 0 ? dropped(top, 'top') : '',
    !parity && drop > 0 ? dropped(drop, 'last') : '',
    turn ?? '',
    write.as === 'facility and number joined' ? 'facility code and 16-bit number joined in one decimal' : '',
    write.as === 'last digits' ? `last ${write.digits} decimal digits` : '',
    add === '0' ? '' : `${add.startsWith('-') ? `${add.slice(1)} taken away` : `${add} added`}`,
    `written in ${to}${digits === undefined ? '' : digits === 1 ? ' without leading zeros' : ` of ${digits} digits`}`,
  ];
  return steps.filter(Boolean).join(', ');
}
