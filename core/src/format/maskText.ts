/** Bit masks as text: read from what a set-up screen or a data sheet shows, and written in every way one is asked for. */
import { Bits } from '../bits/index.ts';
import { fail } from '../failure/index.ts';
import { rangeOf } from './range.ts';

/**
 * The positions that a mask picks, rising, of a format of `bits` bits. Binary digits, as many as the format has, or
 * hex (with or without 0x, spaces or underscores between), right-justified unless told. Throws `mask-empty`,
 * `mask-digits`, `mask-length`, or one of `Bits.fromHex`.
 */
export function maskPositions(text: string, bits: number, justified: 'left' | 'right' = 'right'): number[] {
  const digits = text.trim().replace(/[\s_]/g, '');
  if (digits === '') fail('mask-empty', 'The mask is empty.', { field: 'mask' }, 'Paste its binary or hex digits.');
  const hex = digits.replace(/^0x/i, '').replace(/h$/i, '');
  // 0B may begin binary digits or hex: it does the former only where as many follow as a mask has.
  const ones = digits.replace(/^0b(?=[01]+$)/i, '');
  const needed = (bits + 3) >>> 2;
  let mask: Bits;
  if (/^[01]+$/.test(ones) && ones.length === bits) mask = Bits.fromBinary(ones);
  else if (/^[01]+$/.test(ones) && ones.length > needed)
    return fail(
      'mask-length',
      `The mask has ${ones.length} binary digits, the format ${bits} bits.`,
      { field: 'mask' },
      'Give one digit for each bit of the format.',
    );
  else {
    const wrong = text.search(/[^0-9a-fxh\s_]/i);
    if (wrong >= 0)
      fail('mask-digits', `"${text[wrong]}" at column ${wrong + 1} belongs to no mask.`, {
        field: 'mask',
        column: wrong + 1,
      });
    // A right-justified mask may come without its leading zeros, and either may fill whole bytes.
    if (hex.length > 2 * Math.ceil(bits / 8))
      fail(
        'mask-length',
        `The mask has ${hex.length} hex digits, a format of ${bits} bits ${needed}.`,
        { field: 'mask' },
        'Is it of another format? Cut the zeros that stand in front where it is right-justified.',
      );
    const padded = justified === 'right' ? hex.padStart(needed, '0') : hex.padEnd(needed, '0');
    mask = Bits.fromHex(padded, bits, justified);
  }
  const positions: number[] = [];
  for (let p = 1; p <= bits; p++) if (mask.at(p)) positions.push(p);
  if (positions.length === 0) fail('mask-empty', 'The mask picks no bit.', { field: 'mask' });
  return positions;
}

/** A mask that picks these positions. */
export function maskOf(positions: Iterable<number>, bits: number): Bits {
  const set = new Set(positions);
  return Bits.build(bits, (p) => set.has(p));
}

export interface MaskTexts {
  binary: string;
  hexRight: string;
  hexLeft: string;
  /** Rising positions, counted from 1, separated by commas. */
  list: string;
  range: string;
}

/** A mask in every way that one is asked for. */
export function maskTexts(mask: Bits): MaskTexts {
  const positions: number[] = [];
  for (let p = 1; p <= mask.length; p++) if (mask.at(p)) positions.push(p);
  return {
    binary: mask.toBinary(),
    hexRight: mask.toHex('right'),
    hexLeft: mask.toHex('left'),
    list: positions.join(','),
    range: rangeOf(positions),
  };
}
