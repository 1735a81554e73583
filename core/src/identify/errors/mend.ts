/** Specimens with an error put right. */
import { Bits } from '../../bits/index.ts';
import { printedNumbers } from '../cards/print.ts';
import type { PrintReading } from '../cards/readings.ts';
import { printValue } from '../cards/readings.ts';
import type { Specimen } from '../cards/specimen.ts';
import { type Mend, rowOf } from './error.ts';

/** The specimens as they are with an error put right. Those set aside or in a group of their own are left out. */
export function mended(specimens: readonly Specimen[], mend: readonly Mend[], print: number): Specimen[] {
  const by = new Map(mend.map((one) => [one.row, one]));
  return specimens.flatMap((specimen) => {
    const { printed, bits, group, aside } = by.get(rowOf(specimen)) ?? {};
    if (group !== undefined || aside) return [];
    return [
      {
        ...specimen,
        ...(bits !== undefined && { bits: Bits.fromBinary(bits) }),
        ...(printed !== undefined && { prints: withPrint(specimen, print, printed) }),
      },
    ];
  });
}

const withPrint = ({ prints }: Specimen, at: number, text: string): Specimen['prints'] =>
  prints.map((one, i) => (i === at ? { text, numbers: printedNumbers(text) } : one));

/** The print that a number has under a reading, written as another print is; undefined where there is none. */
export function printOfNumber(reading: PrintReading, like: string, value: bigint): string | undefined {
  const hex = value.toString(16).toUpperCase();
  const digits = like.replace(/[\s:.-]|^0x/gi, '');
  // A print with letters in it is hex, and stays so.
  const isHex = /^[0-9a-f]+$/i.test(digits) && !/^\d+$/.test(digits);
  const texts = isHex ? [hex.padStart(digits.length, '0'), value.toString()] : [value.toString()];
  if (/^\d+$/.test(like)) {
    texts[0] = texts[0]!.padStart(/^0/.test(like) ? like.length : 0, '0');
    texts.push((BigInt(like) - (BigInt(like) % 100_000n) + value).toString());
  }
  const pair = /^(\d+\s*[,:/ -]\s*)(\d+)$/.exec(like);
  if (pair) texts.unshift(`${pair[1]}${value.toString().padStart(/^0/.test(pair[2]!) ? pair[2]!.length : 0, '0')}`);
  return texts.find((text) => reading.numberOf(printValue({ text, numbers: printedNumbers(text) })) === value);
}
