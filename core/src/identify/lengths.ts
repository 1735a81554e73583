/** Lengths: which one the reads have where that is a question, and what a read of another length is. */
import { MAX_BITS } from '../bits/index.ts';
import type { Format } from '../format/index.ts';
import { type Analysis, analyse } from './analysis.ts';
import { Families, type Hearings } from './box.ts';
import { type PrintValue, printValue } from './cards/readings.ts';
import { padded, type Specimen } from './cards/specimen.ts';
import { AnyLength, type Family, type Hearing, type OfLength } from './family/index.ts';
import type { Suspect } from './finding.ts';
import { predict } from './predict.ts';

/**
 * Where the length is a question: the reads are right-justified, so shorter formats show behind leading zeros. Every
 * library length that holds all reads and has a format that fits them is possible; with none, the reads stay as they are.
 */
export function chooseLength(inside: readonly Specimen[], length: number, library: readonly Format[]) {
  const needed = Math.max(1, ...inside.map((s) => length - firstOne(s)));
  const possible = possibleAt(inside, needed, library);
  const listed = possible.map(({ length: bits, formats }) => ({ length: bits, formats }));
  const [best] = possible;
  return best
    ? { specimens: best.cut, length: best.length, lengths: listed }
    : { specimens: [...inside], length, lengths: listed };
}

/** The library's lengths at which a format of it fits, the likeliest first. `needed`: the bits of the longest read from its first 1 on. */
function possibleAt(inside: readonly Specimen[], needed: number, library: readonly Format[]) {
  const lengths = [...new Set(library.map((f) => f.bits))].filter((bits) => bits >= needed);
  const possible = lengths.flatMap((bits) => {
    const cut = inside.map((s) => atLength(s, bits));
    const analysis = analyse(cut, library, { composed: false });
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
  return possible.sort((a, b) => b.evidence - a.evidence || a.length - b.length);
}

/** Of other lengths than the library's those are heard that have so many more bits than the longest read. */
const MORE_BITS = 8;
/** A length that no format of the library has is so much less likely, in bits. */
const OTHER_LENGTH_BITS = 3;

/**
 * What the families of all lengths say that the reads may have: from the longest read to eight bits more, as many as were given, and those
 * of the library's formats that fit. `shown`: the cards at the length at which bits are told. Takes as many answers as there are lengths,
 * where something is known at that one.
 */
export class AnyLengths implements Hearings {
  private readonly own: Families;
  private others: { length: number; width: number; families: Families }[] | undefined;
  private readonly known = new Map<string, Hearing | undefined>();

  /** `lengths`: those that were given, and those of the library's formats that fit. */
  constructor(
    private readonly shown: Analysis,
    private readonly lengths: readonly number[],
    private readonly library: readonly Format[],
    private readonly codes: readonly string[] = [],
  ) {
    this.own = new Families(shown, codes);
  }

  /** Analysed once somebody asks. */
  private ofOthers() {
    const { specimens, length: shown } = this.shown;
    const needed = Math.max(1, ...specimens.map((one) => shown - firstOne(one)));
    const more = Array.from({ length: MORE_BITS + 1 }, (_, i) => needed + i).filter((bits) => bits <= MAX_BITS);
    const lengths = new Set([...this.lengths, ...more].filter((bits) => bits >= needed && bits !== shown));
    return [...lengths].map((length) => {
      const cut = specimens.map((one) => atLength(one, length));
      const analysis = analyse(cut, this.library, { composed: false });
      return { length, width: analysis.width, families: new Families(analysis, this.codes) };
    });
  }

  for(prints: readonly PrintValue[], exist: boolean): Hearing | undefined {
    const key = `${exist} ${prints.map(({ text }) => text).join()}`;
    if (!this.known.has(key)) this.known.set(key, this.make(prints, exist));
    return this.known.get(key);
  }

  private make(prints: readonly PrintValue[], exist: boolean): Hearing | undefined {
    const own = this.own.for(prints, exist);
    return own && new AnyLength(own, this.shown.length, () => this.all(prints, exist));
  }

  private all(prints: readonly PrintValue[], exist: boolean): OfLength[] | undefined {
    const usual = new Set(this.library.map(({ bits }) => bits));
    const left: { length: number; family: Family; weight: number }[] = [];
    this.others ??= this.ofOthers();
    const shown = { length: this.shown.length, width: this.shown.width, families: this.own };
    for (const { length, width, families } of [shown, ...this.others]) {
      const family = families.whole(prints, exist);
      if (!family?.isHeard) return undefined;
      const weight = family.evidence - (length - width) - (usual.has(length) ? 0 : OTHER_LENGTH_BITS);
      if (!family.isEmpty) left.push({ length, family, weight });
    }
    const most = Math.max(...left.map(({ weight }) => weight));
    const total = left.reduce((sum, { weight }) => sum + 2 ** (weight - most), 0);
    return left.map(({ length, family, weight }) => ({ length, family, share: 2 ** (weight - most) / total }));
  }
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
export function otherLengths(analysis: Analysis, families: Hearings, outside: readonly Specimen[]): Suspect[] {
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
function expectedOf(analysis: Analysis, families: Hearings, { prints }: Specimen): string | undefined {
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
