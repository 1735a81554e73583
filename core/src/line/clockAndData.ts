/**
 * Clock and data (magnetic-stripe emulation): 5-bit characters, 4 data bits least significant first plus odd parity;
 * start sentinel `;`, separator `=`, end sentinel `?`, then the LRC character. ISO/IEC 7811-2, track 2.
 */
import { Bits } from '../bits/index.ts';
import { lrc5, parityBit } from '../check/index.ts';
import { fail } from '../failure/index.ts';

/** The 16 characters of track 2 in the order of their values. */
const CHARACTERS = '0123456789:;<=>?';

function characterBits(value: number): number[] {
  const data = [0, 1, 2, 3].map((k) => (value >> k) & 1);
  return [
    ...data,
    parityBit(
      data.reduce((a, b) => a + b),
      'odd',
    ),
  ];
}

/**
 * The bits of a string of characters, with the LRC added. `text` runs from the start to the end sentinel; the LRC's
 * character may follow and is then checked. Throws `track-character`, `track-sentinel`, `track-lrc`, with the column.
 */
export function bitsOfTrack(text: string): Bits {
  const wrong = [...text].findIndex((c) => !CHARACTERS.includes(c));
  if (wrong >= 0)
    fail(
      'track-character',
      `"${text[wrong]}" is not a character of clock and data.`,
      { column: wrong + 1 },
      'It has 0-9 and : ; < = > ?',
    );
  const end = text.indexOf('?');
  if (text[0] !== ';') fail('track-sentinel', 'The start sentinel ; is missing.', { column: 1 });
  if (end < 0) fail('track-sentinel', 'The end sentinel ? is missing.', { column: text.length });
  if (text.length > 101) fail('track-long', `${text.length} characters make more than 512 bits.`);
  const digits = [...text.slice(0, end + 1)].flatMap((c) => characterBits(CHARACTERS.indexOf(c)));
  const body = Bits.build(digits.length, (p) => digits[p - 1]!);
  const sum = Bits.fromBigInt(lrc5(body), 5);
  const rest = text.slice(end + 1);
  const lrcCharacter = CHARACTERS[valueOfCharacter(sum)]!;
  if (rest !== '' && rest !== lrcCharacter)
    fail('track-lrc', `The LRC is "${rest}", but these characters give "${lrcCharacter}".`, { column: end + 2 });
  return body.concat(sum);
}

const valueOfCharacter = (bits: Bits): number => [0, 1, 2, 3].reduce((sum, k) => sum + (bits.at(k + 1) << k), 0);

/** The characters of a string of bits, LRC included. Throws `track-parity` with the position, `track-lrc`. */
export function trackOfBits(bits: Bits): string {
  if (bits.length % 5 !== 0 || bits.length < 15)
    fail('track-length', `${bits.length} bits are not at least three whole 5-bit characters.`);
  let text = '';
  for (let from = 1; from <= bits.length; from += 5) {
    const one = bits.slice(from, from + 4);
    if (one.count() % 2 === 0)
      fail('track-parity', `The character at bit ${from} fails its parity.`, { positions: [from + 4] });
    text += CHARACTERS[valueOfCharacter(one)];
  }
  if (!bits.slice(bits.length - 4, bits.length).equals(Bits.fromBigInt(lrc5(bits.slice(1, bits.length - 5)), 5)))
    fail('track-lrc', 'The LRC at the end does not agree.', { positions: [bits.length - 4] });
  return text;
}
