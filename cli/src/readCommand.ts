/** `rawbits read`: what a pasted text may be as a read, best first, and which formats each of that fits. */
import { CATALOGUE } from '@rawbits/core/catalogue';
import { type FitOf, fitsOf } from '@rawbits/core/codec';
import { agreementOf, printedNumbers } from '@rawbits/core/identify';
import { intake, NOTATIONS, type Reading } from '@rawbits/core/intake';
import { z } from 'zod';

const readInput = z.strictObject({
  text: z.string(),
  /** Lengths in use at the site. */
  lengths: z.array(z.number().int().min(1).max(512)).max(500).default([]),
  /** What is printed on the card. */
  print: z.string().max(80).optional(),
});

interface Fit {
  format: string;
  fit: FitOf['fit'];
  values: Record<string, string>;
  print?: 'agrees' | 'differs';
}

/** Led by a print that agrees, then by a format that fits in full, then by a length in use; else as intake has them. */
export function readLine(raw: unknown): unknown {
  const { text, lengths, print } = readInput.parse(raw);
  const prints = print === undefined || print.trim() === '' ? undefined : printedNumbers(print);
  const taken = intake(text, { lengths, formats: CATALOGUE });
  const readings = taken.readings.map((reading) => {
    const fits = fitsOf(reading.bits, CATALOGUE, false).map(
      ({ format, fit, values }): Fit => ({
        format: format.id,
        fit,
        values,
        ...(prints && { print: agreementOf(values, prints, format) ? 'agrees' : 'differs' }),
      }),
    );
    return { reading, fits };
  });
  const rank = ({ reading, fits }: { reading: Reading; fits: Fit[] }) =>
    (fits.some((one) => one.fit === 'full' && one.print === 'agrees') ? 0 : 4) +
    (fits.some((one) => one.fit === 'full') ? 0 : 2) +
    (lengths.includes(reading.bits.length) ? 0 : 1);
  return {
    readings: readings
      .sort((a, b) => rank(a) - rank(b))
      .map(({ reading: { notation, bits, note }, fits }) => ({
        notation,
        bits: bits.toBinary(),
        length: bits.length,
        why: note ?? `Taken as ${NOTATIONS[notation]}.`,
        fits,
      })),
    ...(taken.passedOver && { passedOver: taken.passedOver }),
  };
}
