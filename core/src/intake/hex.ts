/** Readings of hex digits and byte lists: justification, lengths, UIDs, OSDP frames, BER-TLV bit strings. */
import { Bits, type Justified, MAX_BITS } from '../bits/index.ts';
import { fail, failureOf } from '../failure/index.ts';
import { fitsTested } from './led.ts';
import type { IntakeOptions, Reading } from './reading.ts';

const UID_BYTES = [4, 7, 10];

/** What a text of hex digits is, with what separated its bytes taken out. */
export interface HexText {
  digits: string;
  /** It was written byte by byte, or with 0x in front. */
  asBytes: boolean;
  prefixed: boolean;
}

/** Takes `0x`, blanks, colons, hyphens and commas between bytes out; undefined when that leaves something else. */
export function hexText(text: string): HexText | undefined {
  if (text.startsWith('-')) return undefined;
  const prefixed = /^0x/i.test(text);
  const parts = text
    .replace(/0x/gi, ' ')
    .trim()
    .split(/[\s:,-]+/)
    .filter((part) => part !== '');
  const digits = parts.join('');
  if (!/^[0-9a-f]+$/i.test(digits)) return undefined;
  const asBytes = parts.length > 1 && parts.every((part) => part.length === 2);
  if (parts.length > 1 && !asBytes && !parts.every((part) => part.length % 2 === 0)) {
    const odd = parts.findIndex((part) => part.length % 2 !== 0);
    fail(
      'hex-byte',
      `"${parts[odd]}", item ${odd + 1} of the list, is not whole bytes.`,
      { column: text.indexOf(parts[odd]!) + 1 },
      'Write two hex digits for each byte.',
    );
  }
  return { digits, asBytes, prefixed };
}

export const bytesOf = (digits: string): Uint8Array =>
  Uint8Array.from(digits.match(/../g) ?? [], (pair) => Number.parseInt(pair, 16));

/**
 * A BER-TLV bit string `03 LL UU …`, or `03 81 LL UU …` and `03 82 LL LL UU …` with a length in the long form (ITU-T X.690 §8.1.3,
 * §8.6), when the length agrees and the unused bits are fewer than 8.
 */
export function berReading(digits: string): Reading | undefined {
  const bytes = bytesOf(digits);
  if (digits.length % 2 !== 0 || bytes.length < 4 || bytes[0] !== 3) return undefined;
  const long = bytes[1] === 0x81 ? 1 : bytes[1] === 0x82 ? 2 : 0;
  const length = long === 2 ? (bytes[2]! << 8) | bytes[3]! : bytes[1 + long]!;
  const from = 2 + long;
  const unused = bytes[from];
  if (unused === undefined || length !== bytes.length - from || length < 2 || unused > 7) return undefined;
  const count = (bytes.length - from - 1) * 8 - unused;
  if (count > MAX_BITS) return undefined;
  const spare = bytes.at(-1)! & ((1 << unused) - 1);
  return {
    notation: 'ber-bit-string',
    bits: Bits.fromBytes(bytes.subarray(from + 1)).slice(1, count),
    note: `${unused} unused bits at the end${spare ? ', which are not all 0 as they should be' : ''}.`,
  };
}

/**
 * Hex of a known length: right-justified, left-justified, or both where the digits allow both. Fewer digits than the length has lost
 * leading zeros; whole bytes lose none.
 */
export function hexOfLength(
  { digits, asBytes }: Pick<HexText, 'digits' | 'asBytes'>,
  length: number,
  justified?: Justified,
): Reading[] {
  const have = digits.length * 4;
  if (have < length && !asBytes && justified !== 'left' && length <= MAX_BITS) {
    const note = `${digits.length} hex digits for ${length} bits: the leading zeros that were left out are put in front.`;
    return [{ notation: 'hex', bits: Bits.fromHex(digits.padStart(Math.ceil(length / 4), '0'), length), note }];
  }
  const sides: Justified[] = justified ? [justified] : ['right', 'left'];
  const readings: Reading[] = [];
  let firstFailure: unknown;
  for (const side of sides) {
    try {
      const bits = Bits.fromHex(digits, length, side);
      if (readings.every((reading) => !reading.bits.equals(bits)))
        readings.push({ notation: side === 'right' ? 'hex' : 'hex-left', bits });
    } catch (error) {
      firstFailure ??= error;
    }
  }
  if (readings.length === 0) {
    const { code, message, where, hint } = failureOf(firstFailure);
    fail(
      code,
      message,
      where,
      sides.length === 2 && code === 'hex-overflow' ? 'It fits on neither side: give a longer length.' : hint,
    );
  }
  return readings;
}

/** Hex without a length: all its bits, a UID both ways, and the lengths in use that it could stand for. */
export function hexWithoutLength(text: HexText, options: IntakeOptions): Reading[] {
  const { digits } = text;
  const count = digits.length * 4;
  if (count > MAX_BITS)
    fail('bits-length', `${digits.length} hex digits make ${count} bits: a read has at most ${MAX_BITS}.`);
  const readings: Reading[] = [];
  const all = Bits.fromHex(digits, count);
  if (UID_BYTES.includes(digits.length / 2)) {
    readings.push({ notation: 'uid', bits: all });
    if (!all.reverseBytes().equals(all)) readings.push({ notation: 'uid-reversed', bits: all.reverseBytes() });
  } else {
    const odd = digits.length % 2 ? ' An odd number of digits: is one missing?' : '';
    readings.push({ notation: 'hex', bits: all, note: `No length was given: all ${count} bits are taken.${odd}` });
  }
  const { lengths = [], formats = [] } = options;
  for (const length of lengths)
    for (const reading of tryHex(text, length)) readings.push({ ...reading, note: `If the read has ${length} bits.` });
  const others = formats.filter(({ bits }) => !lengths.includes(bits));
  for (const format of others)
    for (const reading of tryHex(text, format.bits))
      if (fitsTested(reading.bits, format))
        readings.push({ ...reading, note: `If the read has ${format.bits} bits: ${format.id} fits.` });
  return readings;
}

/** At another length than the digits have: padded to more, or with its leading zeros left out. */
function tryHex(text: HexText, length: number): Reading[] {
  const have = text.digits.length * 4;
  // A text that has a leading zero has lost none, and more than two digits are seldom lost.
  if (length === have || (length > have && (text.digits.startsWith('0') || length > have + 8))) return [];
  try {
    return hexOfLength(text, length);
  } catch {
    return [];
  }
}
