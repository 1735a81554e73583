/** What a device shows for a card, as a number and its width, in every notation that the text can be. */
import { fail, failureOf } from '../failure/index.ts';
import { intake } from '../intake/index.ts';

export interface Shown {
  value: bigint;
  /** Undefined for a decimal, whose digits do not tell the width. */
  bits: number | undefined;
  /** How many digits it was written in, leading zeros and all; undefined where that is no number in digits. */
  digits?: number;
}

/** `hex`, `decimal`, `binary`, `facility,number`, or a notation of intake. */
export type ShownAs = string;

const bitLength = (value: bigint): number => (value === 0n ? 1 : value.toString(2).length);

export { bitLength };

/** Every notation that a text can be; throws `shown-unreadable` when it is none. */
export function shownIn(text: string): Map<ShownAs, Shown> {
  const clean = text.trim();
  const found = new Map<ShownAs, Shown>();
  const digits = clean.replace(/^0x/i, '').replace(/[\s:_-]/g, '');
  const pair = /^(\d{1,3})\s*,\s*(\d{1,5})$/.exec(clean);
  if (pair && Number(pair[1]) < 256 && Number(pair[2]) < 65536)
    found.set('facility,number', { value: (BigInt(pair[1]!) << 16n) | BigInt(pair[2]!), bits: 24 });
  if (/^\d{1,155}$/.test(digits) && !/^0x/i.test(clean))
    found.set('decimal', { value: BigInt(digits), bits: undefined, digits: digits.length });
  if (/^[01]{16,512}$/.test(digits))
    found.set('binary', { value: BigInt(`0b${digits}`), bits: digits.length, digits: digits.length });
  if (/^[0-9a-f]{1,128}$/i.test(digits))
    found.set('hex', {
      value: BigInt(`0x${digits}`),
      bits: digits.length * 4,
      digits: digits.length,
    });
  if (found.size > 0) return found;
  try {
    for (const { notation, bits } of intake(clean).readings)
      found.set(notation, { value: bits.toBigInt(), bits: bits.length });
  } catch (error) {
    const { code, message, hint, where } = failureOf(error);
    fail(code === 'intake-empty' ? 'shown-empty' : 'shown-unreadable', message, where, hint);
  }
  return found;
}

/** A number written in a notation; in hex as many digits as `bits` asks for. */
export function showAs(as: ShownAs, value: bigint, bits: number | undefined): string {
  if (as === 'hex')
    return value
      .toString(16)
      .toUpperCase()
      .padStart(bits ? Math.ceil(bits / 4) : 1, '0');
  if (as === 'binary') return value.toString(2).padStart(bits ?? 1, '0');
  if (as === 'facility,number')
    return `${String((value >> 16n) & 0xffn).padStart(3, '0')},${String(value & 0xffffn).padStart(5, '0')}`;
  return value.toString();
}
