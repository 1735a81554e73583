/**
 * The carrier of a Wiegand string: 96 bits in which a proximity card carries what its reader sends on, bit by bit [from
 * memory; the word 2006EC0C86 for facility code 118 and number 1603 of the open 26-bit format is a remembered example]. A
 * preamble of eight bits that is no Manchester code; then 44 bits as pairs, a 0 as 01 and a 1 as 10. The 44 bits: a string
 * of 37 stands at their end behind zeros; a shorter one behind a 1 that says where it begins, with another 1 at the place
 * before those of 37.
 */
import { fail } from '../failure/index.ts';

export const CARRIER_BITS = 96;
const PREAMBLE = '00011101';
const INNER = 44;
const LONGEST = 37;

/** A Wiegand string of 1 to 37 binary digits as 96. Throws `carrier-length`. */
export function carrierBits(string: string): string {
  if (!/^[01]{1,37}$/.test(string))
    fail('carrier-length', `A carrier holds a string of 1 to ${LONGEST} bits, not ${string.length}.`, {
      field: 'bits',
    });
  const inner =
    string.length === LONGEST
      ? string.padStart(INNER, '0')
      : `${'1'.padStart(INNER - LONGEST, '0')}${`1${string}`.padStart(LONGEST, '0')}`;
  return PREAMBLE + [...inner].map((bit) => (bit === '1' ? '10' : '01')).join('');
}

/** The string in 96 digits that begin with the preamble; undefined where they are no carrier. */
export function readCarrier(digits: string): string | undefined {
  if (digits.length !== CARRIER_BITS || !digits.startsWith(PREAMBLE)) return undefined;
  let inner = '';
  for (let at = PREAMBLE.length; at < CARRIER_BITS; at += 2) {
    if (digits[at] === digits[at + 1]) return undefined;
    inner += digits[at];
  }
  const head = inner.slice(0, INNER - LONGEST);
  const rest = inner.slice(INNER - LONGEST);
  if (Number.parseInt(head, 2) === 0) return rest;
  const marked = rest.indexOf('1');
  return Number.parseInt(head, 2) === 1 && marked >= 0 && marked < LONGEST - 1 ? rest.slice(marked + 1) : undefined;
}

/** Finds the carrier in a stream that repeats it, wherever it was begun to be heard. */
export function findCarrier(stream: string): string | undefined {
  for (let at = 0; at + CARRIER_BITS <= stream.length; at++) {
    const found = readCarrier(stream.slice(at, at + CARRIER_BITS));
    if (found !== undefined) return found;
  }
  return undefined;
}
