/** What is printed on cards, pasted as a read: facility code and number, ten digits, both together; and numbers that lost digits. */
import { Bits } from '../bits/index.ts';
import { fail } from '../failure/index.ts';
import type { Reading } from './reading.ts';

const PAIR = /^(\d{1,3})\s*[,:/-]\s*(\d{1,5})$/;
/** With a blank between them only where the number has its leading zeros, or is too long for bytes: `071 09034`, `71 9034`. */
const PAIR_APART = /^(\d{1,3})\s+(\d{4,5})$/;
const TOGETHER = /^(\d{10})[\s,;/]+(\d{1,3})\s*[,:/ -]\s*(\d{5})$/;

/**
 * Facility code and number, alone or behind the ten digits that are the same card's low 32 bits: never hex, as no technician writes
 * bytes of three or five digits (common practice, no source). Undefined for anything else, and with another length than such a print has
 * where no comma says that it is one. Throws `print-range`, `prints-differ`.
 */
export function printReading(body: string, length?: number): Reading | undefined {
  const together =
    TOGETHER.exec(body) ?? TOGETHER.exec(body.replace(/^(\d{1,3}\s*[,:/ -]\s*\d{5})[\s,;/]+(\d{10})$/, '$2 $1'));
  if (together) return bothPrints(together[1]!, together[2]!, together[3]!, body);
  const pair = PAIR.exec(body) ?? PAIR_APART.exec(body);
  // Zeros and ones alone are bits, and two pairs of digits may be two bytes.
  const isOtherwise = /^[01\s:/-]+$/.test(body) || (length !== undefined && length !== 24);
  if (!pair || (!body.includes(',') && (isOtherwise || pair[2]!.length < 4))) return undefined;
  return pairReading(pair[1]!, pair[2]!, body);
}

/** Whether a text is such a print, whatever length stands beside it. */
export const isPrint = (body: string): boolean => {
  const pair = PAIR.exec(body) ?? PAIR_APART.exec(body);
  return pair !== null && !/^[01\s:/-]+$/.test(body) && pair[2]!.length >= 4;
};

function pairReading(facility: string, number: string, body: string): Reading {
  if (Number(facility) > 255)
    fail('print-range', `${facility} is above 255, the greatest facility code in such a print.`, { column: 1 });
  if (Number(number) > 65_535)
    fail('print-range', `${number} is above 65535, the greatest number in such a print.`, {
      column: body.lastIndexOf(number) + 1,
    });
  return {
    notation: 'facility-number',
    bits: Bits.fromBigInt((BigInt(facility) << 16n) | BigInt(number), 24),
    note: 'Such a print holds the low 24 bits only; parity is not among them.',
  };
}

function bothPrints(ten: string, facility: string, number: string, body: string): Reading {
  const value = BigInt(ten);
  const low = pairReading(facility, number, body).bits.toBigInt();
  if (value >> 32n !== 0n)
    fail('print-range', `${ten} is above 4294967295, the greatest that ten digits of a card show.`, { column: 1 });
  if ((value & 0xffffffn) !== low)
    fail(
      'prints-differ',
      `${ten} and ${facility},${number} are two cards: the low 24 bits of ${ten} are ${(value >> 16n) & 0xffn},${value & 0xffffn}.`,
      { column: ten.length + 2 },
      'Paste what is printed on one card.',
    );
  return {
    notation: 'ten-digits',
    bits: Bits.fromBigInt(value, 32),
    note: 'Both prints are of one card: its low 32 bits.',
  };
}

/** A number as a spreadsheet shows it when it has rounded it: what was lost cannot be had back. */
export function refuseRounded(text: string, body: string): void {
  if (!/^\d([.,]\d+)?e\+\d{1,3}$/i.test(body)) return;
  fail(
    'number-rounded',
    `"${body}" was rounded by a spreadsheet: digits of the number are lost.`,
    { column: text.indexOf(body) + 1 },
    'Give the column the format Text before the numbers are put in, and copy them again.',
  );
}
