/** Lengths: which one the reads have where that is a question, and what a read of another length is. */
import type { Format } from '../format/index.ts';
import { type Analysis, analyse } from './analysis.ts';
import type { Families } from './box.ts';
import { printValue } from './cards/readings.ts';
import { padded, type Specimen } from './cards/specimen.ts';
import type { Suspect } from './finding.ts';
import { predict } from './predict.ts';

/**
 * Where the length is a question: the reads are right-justified, so shorter formats show behind leading zeros. Every
 * library length that holds all reads and has a format that fits them is possible; with none, the reads stay as they are.
 */
export function chooseLength(inside: readonly Specimen[], length: number, library: readonly Format[]) {
  const needed = Math.max(...inside.map((s) => length - firstOne(s)));
  const lengths = [...new Set(library.map((f) => f.bits))].filter((bits) => bits >= Math.max(needed, 1));
  const possible = lengths.flatMap((bits) => {
    const cut = inside.map((s) => atLength(s, bits));
    const analysis = analyse(cut, library);
    const formats = analysis.hypotheses.flatMap((h) => (h.format ? [h] : []));
    return formats.length > 0
      ? [
          {
            length: bits,
            formats: formats.map((h) => h.format!.id),
            evidence: Math.max(...formats.map((h) => h.evidence)),
            cut,
          },
        ]
      : [];
  });
  possible.sort((a, b) => b.evidence - a.evidence || a.length - b.length);
  const listed = possible.map(({ length: bits, formats }) => ({ length: bits, formats }));
  const [best] = possible;
  return best
    ? { specimens: best.cut, length: best.length, lengths: listed }
    : { specimens: [...inside], length, lengths: listed };
}

const firstOne = ({ bits }: Specimen): number => {
  const at = bits.toBinary().indexOf('1');
  return at < 0 ? bits.length - 1 : at;
};

/** A right-justified read at another length: leading zeros put in front, or taken away. */
function atLength(specimen: Specimen, length: number): Specimen {
  const { bits } = specimen;
  if (bits.length === length) return specimen;
  if (bits.length > length) return { ...specimen, bits: bits.slice(bits.length - length + 1, bits.length) };
  return { ...specimen, bits: padded(bits, length) };
}

/** So many reads that all begin with 1 and have several lengths have lost their zeros, if they agree with them. */
const LEAST_SHORT = 3;

/**
 * Where nobody said so: reads of several lengths all of which begin with 1 have most likely lost their leading zeros. They are taken
 * as right-justified where, with the zeros, their numbers stand in one place.
 */
export function withLostZeros(
  given: readonly Specimen[],
  library: readonly Format[],
): { all: readonly Specimen[]; short: Suspect[] } {
  const asTold = { all: given, short: [] };
  const lengths = new Set(given.map(({ bits }) => bits.length));
  if (
    lengths.size < 2 ||
    given.length < LEAST_SHORT ||
    given.some(({ bits, lengthKnown }) => !lengthKnown || !bits.at(1))
  )
    return asTold;
  const longest = Math.max(...lengths);
  // One read alone that is one bit short has lost any bit of it.
  const shorter = given.filter(({ bits }) => bits.length < longest);
  if (shorter.length === 1 && shorter[0]!.bits.length === longest - 1) return asTold;
  const filled = given.map((one) => ({ ...one, bits: padded(one.bits, longest) }));
  const { main } = analyse(filled, library);
  if (!main?.hull.consistent || main.places.length === 0) return asTold;
  const rows = shorter.map(({ index }) => index + 1);
  const words = `All reads begin with 1 and they have ${lengths.size} lengths: their leading zeros were lost. With them their numbers stand in one place. How long the format is remains a question.`;
  return {
    all: given.map((one) => ({ ...one, lengthKnown: false })),
    short: [{ kind: 'lost zeros', rows, words }],
  };
}

/** Cards of another length than most, with what they most likely are: a lost bit, lost zeros, or another format. */
export function otherLengths(analysis: Analysis, families: Families, outside: readonly Specimen[]): Suspect[] {
  return outside.map((specimen): Suspect => {
    const row = specimen.index + 1;
    const { bits } = specimen;
    const expected = expectedOf(analysis, families, specimen);
    const mend = expected === undefined ? undefined : [{ row, bits: expected }];
    if (
      expected &&
      bits.length < analysis.length &&
      expected === padded(bits, analysis.length).toBinary() &&
      analysis.length - bits.length > 1
    )
      return {
        kind: 'lost zeros',
        rows: [row],
        mend,
        words: `The leading zeros of card ${row} were lost: with ${analysis.length - bits.length} of them it is as the others ask for.`,
      };
    const at = expected === undefined ? -1 : lostAt(expected, bits.toBinary());
    if (at >= 0)
      return {
        kind: 'lost bit',
        rows: [row],
        mend,
        words: `Card ${row} has ${bits.length} bits, the others ${analysis.length}: bit ${at + 1} or one beside it was lost. With it the read is as the others ask for.`,
      };
    return {
      kind: 'other format',
      rows: [row],
      mend: [{ row, group: `${bits.length} bits` }],
      words: `Card ${row} has ${bits.length} bits, most others ${analysis.length}: another format, or ${bits.length === analysis.length - 1 ? 'a bit was lost' : 'a misread'}. It is left out here.`,
    };
  });
}

/** What the others ask a card's print for. */
function expectedOf(analysis: Analysis, families: Families, { prints }: Specimen): string | undefined {
  const print = prints[analysis.main?.reading.print ?? 0];
  if (!print || !analysis.main) return undefined;
  const value = printValue(print);
  const { bits, standing } = predict(analysis, value);
  if (bits && standing === 'proven') return bits;
  return families.for([value], false)?.predict(value)?.bits ?? bits ?? undefined;
}

/** Where one bit is missing from a read, from 0; -1 where more than that is otherwise. */
function lostAt(expected: string, read: string): number {
  if (read.length !== expected.length - 1) return -1;
  let at = 0;
  while (at < read.length && read[at] === expected[at]) at++;
  return expected.slice(at + 1) === read.slice(at) ? at : -1;
}
