/**
 * Intake: a read from any notation that turns up. A text may name its length (`00478D4A 26 bits`, `26: 00478D4A`) or
 * its notation (`hex: …`, `dec: …`, `bin: …`), and the read may stand within other words; otherwise the notation is told from the
 * characters, and where several are possible all are given, the likeliest first.
 */
import { Bits, MAX_BITS } from '../bits/index.ts';
import { fail, failureOf } from '../failure/index.ts';
import { bitsOfTrack } from '../line/index.ts';
import { binaryReadings } from './binary.ts';
import { framesIn } from './frames.ts';
import { berReading, hexOfLength, hexText, hexWithoutLength } from './hex.ts';
import { led } from './led.ts';
import { isPrint, printReading, refuseRounded } from './prints.ts';
import type { Intake, IntakeOptions, Reading } from './reading.ts';
import { recordedReads } from './recorded.ts';
import { isMoment, readWithin, unwrapped, withoutStamp } from './within.ts';

/** Longer texts are refused unread; the longest sensible one is 512 bits with a separator after each. */
export const LONGEST_TEXT = 4096;

// Each run of blanks can be taken in one way only: else a few thousand of them would be tried in thousands of millions.
const BITS_BEHIND = /(?<![\s,;/([])[\s,;/([]+(\d{1,4})\s*(?:-\s*)?bits?[)\]]?$/i;
const BITS_IN_FRONT = /^(\d{1,4})\s*(?:-\s*)?bits?\s*(?:[:,;=]\s*)?/i;
/** With a blank behind its colon a length is meant; `71:9034` is a print. */
const IN_FRONT = /^(\d{1,3}):\s+/;
/** A length without a word, such as `26:28E4694`, `[26] 28E4694`, `28E4694,26` or `28E4694 26`; binary digits may stand in groups. */
const DIGITS = String.raw`(?:0x)?[0-9a-f]{3,}|(?:0b)?[01][01\s_.|-]+[01]|[0-9a-f]{2}(?:[\s:-][0-9a-f]{2})+`;
const SIGN = String.raw`\s*[:,;/]\s*`;
const BARE_IN_FRONT = new RegExp(
  String.raw`^(?:(\d{1,3})(${SIGN}|\s+)|[[(](\d{1,3})[\])]\s*:?\s*)(?=(?:${DIGITS})$)`,
  'i',
);
const BARE_BEHIND = new RegExp(String.raw`^(${DIGITS})(?:(${SIGN}|\s+)(\d{1,3})|\s*[[(](\d{1,3})[\])])$`, 'i');
const NAMED = /^(bin|binary|hex|dec|decimal)\s*[:=]\s*/i;

interface Apart {
  body: string;
  length?: number;
  named?: string;
  passedOver: string;
}

/**
 * The readings of a text of one line, or of a recorded line of many. Throws a failure with the column and a hint when it is none: `intake-empty`, `intake-long`,
 * `intake-lines`, `intake-character`, `intake-two`, `intake-moment`, `bits-length`, `hex-short`, `hex-overflow`, `hex-byte`,
 * `decimal-width`, `print-range`, or one of the OSDP and clock-and-data failures.
 */
export function intake(text: string, options: IntakeOptions = {}): Intake {
  const recorded = recordedReads(text);
  if (recorded) return recorded;
  if (text.length > LONGEST_TEXT)
    fail(
      'intake-long',
      `${text.length.toLocaleString('en')} characters are too many for one read (at most ${LONGEST_TEXT}).`,
      { column: LONGEST_TEXT + 1 },
      'Paste one read at a time.',
    );
  const lines = text.split(/[\r\n\u2028\u2029]+/).filter((line) => line.trim() !== '');
  if (lines.length > 1)
    fail(
      'intake-lines',
      `There are ${lines.length} lines here: each is a read of its own.`,
      { row: 2 },
      'Take them line by line.',
    );
  const apart = takeApart((lines[0] ?? '').replace(/^\uFEFF/, ''), options);
  try {
    return readingsIn(text, apart, options);
  } catch (error) {
    const { code } = failureOf(error);
    if (!TRY_WITHIN.has(code) || apart.named) throw error;
    const { body, stamp } = withoutStamp(lines[0]!.trim());
    const inside = withinOr(body, code === 'hex-byte' ? error : undefined);
    if (!inside || inside.body === apart.body) throw error;
    const { length = options.length } = inside;
    const passedOver = `${stamp} ${inside.passedOver}`.trim();
    return readingsIn(text, { ...inside, passedOver, ...(length !== undefined && { length }) }, options);
  }
}

/** `refused`: what is said instead, where two things may be the read. */
function withinOr(text: string, refused: unknown): ReturnType<typeof readWithin> {
  try {
    return readWithin(text);
  } catch (error) {
    throw refused ?? error;
  }
}

/** What a text may be refused for that is a read within other words. */
const TRY_WITHIN = new Set(['intake-character', 'hex-byte', 'track-character']);

function readingsIn(text: string, { body, length, named, passedOver }: Apart, options: IntakeOptions): Intake {
  refuseRounded(text, body);
  if (body === '')
    fail(
      'intake-empty',
      'There is nothing here to read.',
      { column: 1 },
      'Paste bits, hex, a decimal with its length, or a UID.',
    );
  if (named === undefined && isMoment(body))
    fail('intake-moment', `"${body}" is a day or a time, not a read.`, { column: text.indexOf(body) + 1 }, AS_HEX);
  if (length !== undefined && (length < 1 || length > MAX_BITS))
    fail('bits-length', `A read has 1 to ${MAX_BITS} bits, not ${length}.`, { field: 'length' });
  const own = { ...options, ...(length !== undefined && { length }) };
  const beside = bareLengths(body, named, own);
  const frames = named === undefined && length === undefined ? framesOr(body, beside.length > 0) : undefined;
  if (frames) return { readings: [frames[0]!], passedOver, ...(frames.length > 1 && { others: frames.slice(1) }) };
  const plain = () => readingsOf(body, named, own);
  // Digits with a length beside them are no list of bytes.
  const counted = beside.filter(({ isCounted }) => isCounted).map(({ reading }) => reading);
  const offered = beside.map(({ reading }) => reading);
  const readings = distinct([...counted, ...(beside.length > 0 ? orNone(plain) : plain()), ...offered]);
  if (readings.length === 0) unknownText(text, body);
  return { readings: led(readings, options) as [Reading, ...Reading[]], passedOver };
}

function orNone(readings: () => Reading[]): Reading[] {
  try {
    return readings();
  } catch {
    return [];
  }
}

const AS_HEX = 'If it is hex all the same, write hex: in front.';

function takeApart(text: string, options: IntakeOptions): Apart {
  const { body: own, stamp } = withoutStamp(text.trim());
  let body = own.replace(/^["'`]+|["'`]+$/g, '').trim();
  let { length } = options;
  const behind = BITS_BEHIND.exec(body);
  const inFront = behind ? null : (BITS_IN_FRONT.exec(body) ?? IN_FRONT.exec(body));
  if (behind) body = body.slice(0, behind.index).trim();
  if (inFront) body = body.slice(inFront[0].length);
  const given = behind ?? inFront;
  if (given) {
    if (length !== undefined && length !== Number(given[1]))
      fail('intake-lengths', `The text says ${given[1]} bits, but ${length} were given.`, { field: 'length' });
    length = Number(given[1]);
  }
  const name = NAMED.exec(body)?.[1]?.toLowerCase().slice(0, 3);
  const inside = unwrapped(body.replace(NAMED, ''));
  const named = name ?? (inside.isHex ? 'hex' : undefined);
  return { body: inside.body, passedOver: stamp, ...(length !== undefined && { length }), ...(named && { named }) };
}

function beginsAsFrame(digits: string): boolean {
  try {
    return framesOr(digits, false) !== undefined;
  } catch {
    return true;
  }
}

/** `isOtherwise`: something else may be meant, so that what begins as a frame need not be a damaged one: `53:1A2B3C` has 53 bits. */
function framesOr(body: string, isOtherwise: boolean): Reading[] | undefined {
  const text = /^[\s0-9a-fx:,-]+$/i.test(body) ? body.replaceAll(/0x|[\s:,-]/gi, '') : '';
  // Zeros and ones are bits, though their checksum may chance to agree.
  if (/^[01]*$/.test(text)) return undefined;
  try {
    return framesIn(text);
  } catch (error) {
    if (!isOtherwise) throw error;
    return undefined;
  }
}

interface Beside {
  reading: Reading;
  /** There are just as many binary digits as the number beside them says. */
  isCounted: boolean;
}

/**
 * A length that stands beside the digits without a word: taken where they are no print, offered where they are. With nothing but a
 * blank, a stroke or a semicolon between them it has to be a length in use, or of a format, or what the digits themselves come to: `2026/12` is none.
 */
function bareLengths(body: string, named: string | undefined, options: IntakeOptions): Beside[] {
  if (named !== undefined || options.length !== undefined) return [];
  const front = BARE_IN_FRONT.exec(body);
  const behind = BARE_BEHIND.exec(body);
  const found: { digits: string; length: number; isApart: boolean }[] = [];
  const isWeak = (sign: string | undefined) => sign !== undefined && /^\s*[;/]?\s*$/.test(sign);
  if (front)
    found.push({
      digits: body.slice(front[0].length),
      length: Number(front[1] ?? front[3]),
      isApart: isWeak(front[2]),
    });
  if (behind) found.push({ digits: behind[1]!, length: Number(behind[3] ?? behind[4]), isApart: isWeak(behind[2]) });
  const { lengths = [], formats = [] } = options;
  return found.flatMap(({ digits, length, isApart }) => {
    if (length < 1 || length > MAX_BITS || (isPrint(body) && !lengths.includes(length))) return [];
    // The end of a damaged frame is no length, unless the digits are just as many.
    if (beginsAsFrame(digits) && digits.length !== Math.ceil(length / 4)) return [];
    const isCounted = /^(?:0b)?[01\s_.|-]+$/i.test(digits) && digits.replaceAll(/0b|[^01]/gi, '').length === length;
    const isFull = /[a-f]/i.test(digits) && digits.replace(/^0x/i, '').length === Math.ceil(length / 4);
    if (isApart && !isCounted && !isFull && !lengths.includes(length) && !formats.some(({ bits }) => bits === length))
      return [];
    const own = orNone(() => readingsOf(digits, undefined, { ...options, length }));
    const note = `${digits} with the length ${length} beside it.`;
    return own.map((reading) => ({ reading: { ...reading, note }, isCounted }));
  });
}

function readingsOf(body: string, named: string | undefined, options: IntakeOptions): Reading[] {
  if (options.justified !== undefined) return hexReadings(body, options);
  if (named === 'bin') return binaryReadings(body.replace(/^0b/i, ''), options, true);
  if (named === 'dec') return decimalReadings(body, options, true);
  if (body.startsWith(';')) return [{ notation: 'clock-and-data', bits: bitsOfTrack(body) }];
  if (named !== 'hex' && /^0b/i.test(body)) return prefixedBinary(body, options);
  const readings: Reading[] = [];
  const add = (more: () => Reading[]) => {
    readings.push(...(readings.length > 0 ? orNone(more) : more()));
  };
  if (named !== 'hex') {
    const printed = printReading(body, options.length);
    if (printed) return [printed];
    if (isPrint(body))
      fail(
        'print-length',
        `${body} is facility code and number, of which a card has 24 bits, not ${options.length}.`,
        { field: 'length' },
        AS_HEX,
      );
    readings.push(...binaryReadings(body, options, false));
    if (/^\d{10}$/.test(body) && options.length === undefined && BigInt(body) < 1n << 32n)
      readings.push({ notation: 'ten-digits', bits: Bits.fromBigInt(BigInt(body), 32) });
    else if (/^\d+$/.test(body) && !likelyHex(body, options)) add(() => decimalReadings(body, options, false));
  }
  add(() => hexReadings(body, options));
  if (/^\d+$/.test(body) && named !== 'hex' && likelyHex(body, options))
    add(() => decimalReadings(body, options, false));
  return readings;
}

/** `0b` may begin binary digits, or be hex: both where only zeros and ones follow. */
function prefixedBinary(body: string, options: IntakeOptions): Reading[] {
  const binary = () => binaryReadings(body.slice(2), options, true);
  const isHex = /^0b[0-9a-f]+$/i.test(body);
  if (!isHex) return binary();
  if (!/^0b[01]+$/i.test(body)) return hexReadings(body, options);
  return [...binary(), ...orNone(() => hexReadings(body, options))];
}

/** Decimal digits only, but as many as a frame or a right-justified hex of this length would have. */
function likelyHex(body: string, options: IntakeOptions): boolean {
  if (options.length !== undefined) return body.length === Math.ceil(options.length / 4) && body.startsWith('0');
  return body.length % 2 === 0 && (body.startsWith('0') || body.length > 20);
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
  if (options.length !== undefined) return hexOfLength(text, options.length, options.justified);
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
  const column = Math.max(0, text.indexOf(body)) + Math.max(wrong, 0) + 1;
  const found = wrong < 0 ? `"${body.slice(0, 12)}"` : `"${body[wrong]}" at column ${column}`;
  const letter = wrong >= 0 && /[oOlI]/.test(body[wrong]!) ? ' Is it a 0 or a 1?' : '';
  return fail(
    'intake-character',
    `${found} belongs to no notation of a read.`,
    { column },
    `Use 0 and 1, hex, a decimal with its length, a UID, fff,nnnnn, an OSDP frame, or ;digits?.${letter}`,
  );
}
