/** Binary digits: as they are, as the keys of a keypad, as the characters of clock and data. */
import { Bits } from '../bits/index.ts';
import { fail } from '../failure/index.ts';
import { trackOfBits } from '../line/index.ts';
import type { IntakeOptions, Reading } from './reading.ts';

/** `sure`: somebody said that they are binary digits. */
export function binaryReadings(body: string, options: IntakeOptions, sure: boolean): Reading[] {
  const digits = body.replace(/[\s_.|:-]+/g, '');
  const wrong = body.search(/[^01\s_.|:-]/);
  if (wrong >= 0) {
    if (!sure) return [];
    fail('binary-digit', `"${body[wrong]}" at column ${wrong + 1} is not a binary digit.`, { column: wrong + 1 });
  }
  // `1.01` is a number with a decimal point.
  if (!sure && digits.length < 8 && body.includes('.')) return [];
  const { length } = options;
  if (length !== undefined && length !== digits.length) return trimmed(digits, length, sure);
  const bits = Bits.fromBinary(digits);
  const plain: Reading = { notation: 'binary', bits };
  return [...charactersIn(bits), plain, ...keysIn(body, bits)];
}

/** Fewer digits than the length beside them: its leading zeros were lost. */
function trimmed(digits: string, length: number, sure: boolean): Reading[] {
  if (!sure && (digits.length > length || digits.length < LEAST_TRIMMED)) return [];
  if (digits.length > length)
    fail('binary-length', `There are ${digits.length} binary digits, not ${length}.`, { field: 'length' });
  const note = `${digits.length} digits of ${length}: ${length - digits.length} leading zeros are put in front.`;
  return [{ notation: 'binary', bits: Bits.fromBinary(digits.padStart(length, '0')), note }];
}
/** So many zeros and ones are no decimal, nor hex. */
const LEAST_TRIMMED = 12;

/** Whole characters with their parity, between sentinels, with an LRC that agrees: ISO/IEC 7811-2 track 2. */
function charactersIn(bits: Bits): Reading[] {
  if (bits.length < 15 || bits.length % 5 !== 0) return [];
  try {
    const text = trackOfBits(bits);
    return /^;[^;?]*\?.$/.test(text) ? [{ notation: 'clock-and-data', bits, note: `The characters ${text}` }] : [];
  } catch {
    return [];
  }
}

const KEYS = '0123456789*#';

/** Keys as a keypad sends them, four bits each, or eight of which the first four are the complement (common practice, no source). */
function keysIn(body: string, bits: Bits): Reading[] {
  const bursts = body.trim().split(/[\s_.|:-]+/);
  const keys = bursts.map(keyOf);
  if (keys.some((key) => key === undefined) || new Set(bursts.map(({ length }) => length)).size > 1) return [];
  const each = bursts[0]!.length === 4 ? 'four bits each' : 'eight bits each, the first four the complement';
  const words = keys.length === 1 ? `The key ${keys[0]}` : `The keys ${keys.join(' ')}, ${each}`;
  return [{ notation: 'keypad', bits, note: `${words}.` }];
}

function keyOf(burst: string): string | undefined {
  if (burst.length === 4) return KEYS[Number.parseInt(burst, 2)];
  if (burst.length !== 8) return undefined;
  const [first, last] = [Number.parseInt(burst.slice(0, 4), 2), Number.parseInt(burst.slice(4), 2)];
  return (first ^ last) === 15 ? KEYS[last] : undefined;
}
