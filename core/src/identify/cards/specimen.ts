/** Specimens: what goes into a case. Each is a read and what is known of that card. */
import { z } from 'zod';
import { Bits } from '../../bits/index.ts';
import { fail, RawBitsError } from '../../failure/index.ts';
import { type PrintedNumber, printedNumbers } from './print.ts';

export const specimenSchema = z.strictObject({
  bits: z.string().regex(/^[01]{1,512}$/, 'Give 1 to 512 binary digits.'),
  /** The number printed on the card, as it stands there; empty or missing where it cannot be read. */
  printed: z.string().max(80).optional(),
  /** Other numbers printed on the same card. */
  prints: z.array(z.string().max(80)).max(8).optional(),
  /** Its facility code, where it is known. */
  facility: z
    .string()
    .regex(/^\d{1,40}$/, 'Write digits only.')
    .optional(),
  /** Specimens with the same name share one format and one facility code; those without belong together. */
  group: z.string().max(80).optional(),
  /** False where the read came right-justified in a longer field, or lost its leading zeros. */
  lengthKnown: z.boolean().optional(),
});
export type SpecimenInput = z.infer<typeof specimenSchema>;

export interface Specimen {
  /** Its place in the case, from 0. */
  index: number;
  bits: Bits;
  /** The prints, the first one first; each with what it may stand for. Empty where none can be read. */
  prints: { text: string; numbers: PrintedNumber[] }[];
  facility: bigint | undefined;
  group: string;
  lengthKnown: boolean;
}

/** Throws `specimens-none`, `specimens-many`, or a print's own failure, with the row. */
export function specimensFrom(inputs: readonly SpecimenInput[]): Specimen[] {
  if (inputs.length === 0)
    fail('specimens-none', 'The case has no specimen.', { field: 'specimens' }, 'Read a card and type its print.');
  if (inputs.length > 10_000)
    fail('specimens-many', `${inputs.length} specimens are too many; a case holds at most 10,000.`);
  return inputs.map((input, index) => ({
    index,
    bits: Bits.fromBinary(input.bits),
    prints: [input.printed, ...(input.prints ?? [])].flatMap((text) => {
      if (text === undefined || text.trim() === '') return [];
      try {
        return [{ text, numbers: printedNumbers(text) }];
      } catch (error) {
        if (!(error instanceof RawBitsError)) throw error;
        throw new RawBitsError({ ...error.toFailure(), where: { field: 'printed', row: index + 1 } });
      }
    }),
    facility: input.facility === undefined ? undefined : BigInt(input.facility),
    group: input.group ?? '',
    lengthKnown: input.lengthKnown ?? true,
  }));
}

/**
 * The same reads at one length. Where a length is not known the reads are right-justified, so zeros are put in front
 * up to the longest; where it is known, other lengths belong elsewhere.
 */
export function atOneLength(specimens: readonly Specimen[]): {
  length: number;
  inside: Specimen[];
  outside: Specimen[];
} {
  const open = specimens.some((s) => !s.lengthKnown);
  const counts = new Map<number, number>();
  for (const { bits } of specimens) counts.set(bits.length, (counts.get(bits.length) ?? 0) + 1);
  const length = open ? Math.max(...counts.keys()) : [...counts].sort((a, b) => b[1] - a[1] || b[0] - a[0])[0]![0];
  const inside: Specimen[] = [];
  const outside: Specimen[] = [];
  for (const specimen of specimens) {
    const { bits } = specimen;
    if (bits.length === length) inside.push(specimen);
    else if (!specimen.lengthKnown && bits.length < length) inside.push({ ...specimen, bits: padded(bits, length) });
    else outside.push(specimen);
  }
  return { length, inside, outside };
}

export function padded(bits: Bits, length: number): Bits {
  return Bits.build(length, (p) => p > length - bits.length && bits.at(p - (length - bits.length)));
}
