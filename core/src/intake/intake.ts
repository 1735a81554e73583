/**
 * Intake: a read from any notation that turns up. A text may name its length (`00478D4A 26 bits`, `26: 00478D4A`) or
 * its notation (`hex: …`, `dec: …`, `bin: …`); otherwise the notation is told from the characters, and where several
 * are possible all are given, the likeliest first.
 */
import { Bits, MAX_BITS } from '../bits/index.ts';
import { fail } from '../failure/index.ts';
import { bitsOfTrack } from '../line/index.ts';
import { berReading, hexOfLength, hexText, hexWithoutLength, osdpReading } from './hex.ts';
import { printReading, refuseRounded } from './prints.ts';
import type { Intake, IntakeOptions, Reading } from './reading.ts';

/** Longer texts are refused unread; the longest sensible one is 512 bits with a separator after each. */
export const LONGEST_TEXT = 4096;

const TRAILING_LENGTH = /[\s,;/(]+(\d{1,4})\s*-?\s*bits?\)?$/i;
const LEADING_LENGTH = /^(\d{1,4})\s*(?:-?\s*bits?\s*[:,;]?|:(?=\s))\s*/i;
const NAMED = /^(bin|binary|hex|dec|decimal)\s*[:=]\s*/i;

/**
 * The readings of a text. Throws a failure with the column and a hint when it is none: `intake-empty`, `intake-long`,
 * `intake-character`, `bits-length`, `hex-short`, `hex-overflow`, `hex-byte`, `decimal-width`, `print-range`,
 * or one of the OSDP and clock-and-data failures.
 */
export function intake(text: string, options: IntakeOptions = {}): Intake {
  if (text.length > LONGEST_TEXT)
    fail(
      'intake-long',
      `${text.length.toLocaleString('en')} characters are too many for one read (at most ${LONGEST_TEXT}).`,
      { column: LONGEST_TEXT + 1 },
      'Paste one read at a time.',
    );
  const { body, length, named } = takeApart(text, options);
  refuseRounded(text, body);
  if (body === '')
    fail(
      'intake-empty',
      'There is nothing here to read.',
      { column: 1 },
      'Paste bits, hex, a decimal with its length, or a UID.',
    );
  if (length !== undefined && (length < 1 || length > MAX_BITS))
    fail('bits-length', `A read has 1 to ${MAX_BITS} bits, not ${length}.`, { field: 'length' });
  const readings = distinct(readingsOf(body, named, { ...options, length }));
  if (readings.length === 0) unknownText(text, body);
  return { readings: readings as [Reading, ...Reading[]] };
}

function takeApart(text: string, options: IntakeOptions): { body: string; length?: number; named?: string } {
  let body = text
    .trim()
    .replace(/^["'`]+|["'`]+$/g, '')
    .trim();
  let { length } = options;
  const trailing = TRAILING_LENGTH.exec(body);
  const leading = trailing ? null : LEADING_LENGTH.exec(body);
  if (trailing) body = body.slice(0, trailing.index).trim();
  if (leading) body = body.slice(leading[0].length);
  length ??= trailing || leading ? Number((trailing ?? leading)![1]) : undefined;
  const name = NAMED.exec(body)?.[1]?.toLowerCase().slice(0, 3);
  return { body: body.replace(NAMED, ''), length, named: name };
}

function readingsOf(body: string, named: string | undefined, options: IntakeOptions): Reading[] {
  if (options.justified !== undefined) return hexReadings(body, options);
  if (named === 'bin') return binaryReadings(body.replace(/^0b/i, ''), options, true);
  if (named === 'dec') return decimalReadings(body, options, true);
  if (body.startsWith(';')) return [{ notation: 'clock-and-data', bits: bitsOfTrack(body) }];
  if (named !== 'hex' && /^0b/i.test(body)) return binaryReadings(body.slice(2), options, true);
  const readings: Reading[] = [];
  if (named !== 'hex') {
    const printed = printReading(body);
    if (printed) return [printed];
    readings.push(...binaryReadings(body, options, false));
    if (/^\d{10}$/.test(body) && options.length === undefined && BigInt(body) < 1n << 32n)
      readings.push({ notation: 'ten-digits', bits: Bits.fromBigInt(BigInt(body), 32) });
    else if (/^\d+$/.test(body) && !likelyHex(body, options)) readings.push(...decimalReadings(body, options, false));
  }
  const settled = readings.length > 0;
  try {
    readings.push(...hexReadings(body, options));
  } catch (error) {
    if (!settled) throw error;
  }
  if (/^\d+$/.test(body) && named !== 'hex' && likelyHex(body, options))
    readings.push(...decimalReadings(body, options, false));
  return readings;
}

/** Decimal digits only, but as many as a frame or a right-justified hex of this length would have. */
function likelyHex(body: string, options: IntakeOptions): boolean {
  if (options.length !== undefined) return body.length === Math.ceil(options.length / 4) && body.startsWith('0');
  return body.length % 2 === 0 && (body.startsWith('0') || body.length > 20);
}

function binaryReadings(body: string, options: IntakeOptions, sure: boolean): Reading[] {
  const digits = body.replace(/[\s_.|:-]+/g, '');
  const wrong = body.search(/[^01\s_.|:-]/);
  if (wrong >= 0) {
    if (!sure) return [];
    fail('binary-digit', `"${body[wrong]}" at column ${wrong + 1} is not a binary digit.`, { column: wrong + 1 });
  }
  const { length } = options;
  if (length !== undefined && length !== digits.length) {
    if (!sure) return [];
    fail('binary-length', `There are ${digits.length} binary digits, not ${length}.`, { field: 'length' });
  }
  if (digits.length > MAX_BITS && !sure && digits.length % 2 === 0 && digits.length < 20) return [];
  return [{ notation: 'binary', bits: Bits.fromBinary(digits) }];
}

function decimalReadings(body: string, options: IntakeOptions, sure: boolean): Reading[] {
  const digits = body.replace(/[\s_]+/g, '');
  const wrong = digits.search(/\D/);
  if (wrong >= 0) {
    if (!sure) return [];
    fail('decimal-digit', `"${digits[wrong]}" is not a decimal digit.`, { column: wrong + 1 });
  }
  if (digits.length > 155) return [];
  const value = BigInt(digits);
  const needs = value === 0n ? 1 : value.toString(2).length;
  if (options.length !== undefined) {
    if (needs > options.length) {
      if (!sure && /^[0-9a-f]+$/i.test(digits) && digits.length * 4 <= options.length + 7) return [];
      fail(
        'decimal-width',
        `${digits} needs ${needs} bits, more than the ${options.length} given.`,
        { field: 'length' },
        'Check the length, or whether the digits are hex.',
      );
    }
    return [{ notation: 'decimal', bits: Bits.fromBigInt(value, options.length) }];
  }
  const width = [24, 32, 40, 56, 64].find((w) => w >= needs) ?? needs;
  if (width > MAX_BITS) return [];
  const note = `No length was given: ${width} bits are assumed.`;
  return [{ notation: 'decimal', bits: Bits.fromBigInt(value, width), note }];
}

function hexReadings(body: string, options: IntakeOptions): Reading[] {
  const text = hexText(body);
  if (!text) return [];
  if (options.length !== undefined) return hexOfLength(text.digits, options.length, options.justified);
  const framed = osdpReading(text.digits);
  if (framed) return [framed];
  const tagged = berReading(text.digits);
  const rest = text.digits.length * 4 <= MAX_BITS || !tagged ? hexWithoutLength(text, options) : [];
  return tagged ? [tagged, ...rest] : rest;
}

function distinct(readings: Reading[]): Reading[] {
  return readings.filter(
    (reading, i) => readings.findIndex((r) => r.notation === reading.notation && r.bits.equals(reading.bits)) === i,
  );
}

function unknownText(text: string, body: string): never {
  const wrong = body.search(/[^0-9a-f\s:,_.|x-]/i);
  const column = text.indexOf(body) + Math.max(wrong, 0) + 1;
  const found = wrong < 0 ? `"${body.slice(0, 12)}"` : `"${body[wrong]}" at column ${column}`;
  const letter = wrong >= 0 && /[oOlI]/.test(body[wrong]!) ? ' Is it a 0 or a 1?' : '';
  return fail(
    'intake-character',
    `${found} belongs to no notation of a read.`,
    { column },
    `Use 0 and 1, hex, a decimal with its length, a UID, fff,nnnnn, an OSDP frame, or ;digits?.${letter}`,
  );
}
