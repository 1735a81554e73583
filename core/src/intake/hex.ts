/** Readings of hex digits and byte lists: justification, lengths, UIDs, OSDP frames, BER-TLV bit strings. */
import { Bits, type Justified, MAX_BITS } from '../bits/index.ts';
import { fail, failureOf } from '../failure/index.ts';
import { bitsOfRawReply, parseOsdpFrame } from '../line/index.ts';
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

const bytesOf = (digits: string): Uint8Array =>
  Uint8Array.from(digits.match(/../g) ?? [], (pair) => Number.parseInt(pair, 16));

/** An OSDP RAW reply, when the bytes are an OSDP frame (they begin with 53 and their length says so). */
export function osdpReading(digits: string): Reading | undefined {
  const bytes = bytesOf(digits.replace(/^(ff)+(?=53)/i, ''));
  if (digits.length % 2 !== 0 || bytes.length < 7 || bytes[0] !== 0x53) return undefined;
  if ((bytes[2]! | (bytes[3]! << 8)) !== bytes.length) return undefined;
  const frame = parseOsdpFrame(bytes);
  return {
    notation: 'osdp-raw',
    bits: bitsOfRawReply(frame),
    note: `From the device at address ${frame.address}, sequence ${frame.sequence}; CRC agrees.`,
  };
}

/** A BER-TLV bit string `03 LL UU …` (ITU-T X.690, 8.6), when the length agrees and the unused bits are fewer than 8. */
export function berReading(digits: string): Reading | undefined {
  const bytes = bytesOf(digits);
  if (digits.length % 2 !== 0 || bytes.length < 4 || bytes[0] !== 3) return undefined;
  const [, length, unused] = bytes as unknown as [number, number, number];
  if (length !== bytes.length - 2 || unused > 7) return undefined;
  const count = (bytes.length - 3) * 8 - unused;
  if (count > MAX_BITS) return undefined;
  const spare = bytes.at(-1)! & ((1 << unused) - 1);
  return {
    notation: 'ber-bit-string',
    bits: Bits.fromBytes(bytes.subarray(3)).slice(1, count),
    note: `${unused} unused bits at the end${spare ? ', which are not all 0 as they should be' : ''}.`,
  };
}

/** Hex of a known length: right-justified, left-justified, or both where the digits allow both. */
export function hexOfLength(digits: string, length: number, justified?: Justified): Reading[] {
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
  for (const length of options.lengths ?? []) {
    if (length >= count || length <= count - 8) continue;
    for (const reading of tryHex(digits, length))
      readings.push({ ...reading, note: `If the read has ${length} bits.` });
  }
  return readings;
}

function tryHex(digits: string, length: number): Reading[] {
  try {
    return hexOfLength(digits, length);
  } catch {
    return [];
  }
}
