/**
 * Identify: from a few cards and their printed numbers, what can be proven of their format, what can only be presumed,
 * and what is open; the bits of cards not read yet; which card to read next; and which specimens do not belong.
 *
 * Proven means: it follows from the assumptions stated in the finding and from nothing else.
 */
import { decode } from '../codec/index.ts';
import { fail } from '../failure/index.ts';
import type { Format } from '../format/index.ts';
import { type Analysis, analyse, numbered } from './analysis.ts';
import { askedOf, boxOf, Families, familyFor, withFamily } from './box.ts';
import type { NumberPlace } from './cards/places.ts';
import { readingInWords } from './cards/readings.ts';
import { atOneLength, type Specimen, type SpecimenInput, specimensFrom } from './cards/specimen.ts';
import { bitFindings, changingBits, mayProve, settledNumberBits } from './claims.ts';
import { doubtsOf } from './doubts.ts';
import { mended } from './errors/mend.ts';
import { explain } from './explain.ts';
import { checkInWords } from './family/index.ts';
import {
  type BitFinding,
  type Finding,
  type GroupFinding,
  layoutFinding,
  type Suspect,
  type TieBreaker,
} from './finding.ts';
import { AnyLengths, chooseLength, otherLengths, withLostZeros } from './lengths.ts';
import { doubtOf, lessSure } from './lessSure.ts';
import { cardsUntilSettled, nextOfBox } from './nextOfBox.ts';
import { predict, printOf } from './predict.ts';
import { type TieBreakerOptions, tieBreaker } from './tieBreaker.ts';
import { withErrors } from './withstands.ts';

export interface IdentifyOptions extends TieBreakerOptions {
  /** Formats to try: the library, or the catalogue. */
  library: readonly Format[];
  /** Facility codes that are known to be in use, such as those named at the site. */
  codes?: readonly string[];
  /** Prints whose bits are to be predicted. */
  predict?: readonly string[];
  /** Whether it is worked out how many more cards the box most likely takes: as long as some dozen answers. */
  until?: boolean;
  /** Whether the family of formats is gone through; it is unless this says no. */
  family?: boolean;
  /** Rows (1-based) that are kept but left out. */
  setAside?: readonly number[];
}

/** Throws what `specimensFrom` throws, and `specimens-none` when all are set aside. */
export function identify(inputs: readonly SpecimenInput[], options: IdentifyOptions): Finding {
  const aside = new Set(options.setAside ?? []);
  const specimens = specimensFrom(inputs).filter((s) => !aside.has(s.index + 1));
  if (specimens.length === 0)
    fail('specimens-none', 'Every specimen is set aside.', { field: 'specimens' }, 'Take one back in.');
  const labels = [...new Set(specimens.map((s) => s.group))];
  const groups = labels
    .map((label) =>
      groupFinding(
        label,
        specimens.filter((s) => s.group === label),
        options,
      ),
    )
    .sort((a, b) => b.rows.length - a.rows.length);
  const setAside = [...aside].sort((a, b) => a - b);
  return { ...groups[0]!, setAside, ...(groups.length > 1 && { groups }) };
}

function groupFinding(group: string, given: readonly Specimen[], options: IdentifyOptions): GroupFinding {
  const { library } = options;
  const { all, short } = withLostZeros(given, library);
  const { length, inside, outside } = atOneLength(all);
  const open = all.some((s) => !s.lengthKnown);
  const chosen = open ? chooseLength(inside, length, library) : { specimens: inside, length, lengths: undefined };
  const whole = analyse(chosen.specimens, library);
  const heard = options.family !== false;
  const explained = heard ? explain(whole, library) : undefined;
  const doubts = doubtsOf(whole, explained);
  const doubt = doubtOf(whole, explained);
  const right = heard ? putRight(whole, doubts.suspects[0], library) : undefined;
  const analysis = right?.analysis ?? whole;
  const { main, known, hypotheses, specimens } = analysis;
  const families =
    open && heard
      ? new AnyLengths(analysis, [length, ...(chosen.lengths ?? []).map((one) => one.length)], library, options.codes)
      : new Families(analysis, options.codes);
  const box = askedOf(analysis, options.range);
  const asked = (options.predict ?? []).map(printOf);
  const predicted = () => {
    const found = asked.map((print) => predict(analysis, print));
    const sure = withErrors(analysis, found, box.prints);
    return heard ? sure.map((one) => lessSure(withFamily(one, familyFor(families, box, asked)), doubt)) : sure;
  };
  const range = heard ? boxOf(analysis, families, box, doubt?.certainty) : null;
  const next = (): TieBreaker | null => {
    const plain = tieBreaker(analysis, options);
    const isOpen = range !== null && range.open + range.likely > 0;
    // Formats that both fit are parted by a card of another box; else what there is to read is in this one.
    const isParted = plain !== null && plain.settles.length > 0 && !options.range;
    if (!isOpen || isParted) return plain;
    const inBox = nextOfBox(analysis, families, box, options.atHand);
    const until = inBox && options.until ? { until: cardsUntilSettled(analysis, families, box) } : {};
    const best = inBox ?? tieBreaker(analysis, { ...options, range: box.range! });
    return best && { ...best, ...until, atMost: plain?.atMost ?? 0 };
  };
  const suspects = [...otherLengths(analysis, families, outside), ...short, ...doubts.suspects];
  for (const suspect of suspects.slice(0, 4)) {
    const rest = whole.specimens.filter((s) => !suspect.rows.includes(s.index + 1));
    if (rest.length > 0 && rest.length < whole.specimens.length)
      suspect.afterwards = summaryOf(analyse(rest, library), 0);
  }
  return {
    group,
    rows: all.map((s) => s.index + 1),
    length: chosen.length,
    ...(chosen.lengths && { lengths: chosen.lengths }),
    rank: main?.hull.rank ?? 0,
    checks: main?.hull.checks ?? 0,
    consistent: whole.main?.hull.consistent ?? true,
    reading: main ? readingInWords(main.reading) : null,
    rivals: analysis.rivals.map((rival) => readingInWords(rival.reading)),
    places: (main?.places ?? []).slice(0, 8).map(placeInWords),
    assumptions: [
      ...assumptionsOf(analysis),
      ...(open ? [RIGHT_JUSTIFIED] : []),
      ...(right ? [`put right first: ${right.words}`] : []),
    ],
    bits: open ? bitFindings(analysis).map(unsureOfLength) : bitFindings(analysis),
    ...settledNumberBits(analysis),
    layouts: hypotheses.map((h) => layoutFinding(h, specimens.length)),
    known: known.map(({ format, fits, misfits }) => ({
      format: format.id,
      fits,
      misfits: misfits.slice(0, 50).map(({ index, reason }) => ({ row: specimens[index]!.index + 1, reason })),
      ...facilityUnder(analysis, format),
    })),
    predictions: predicted(),
    range,
    tieBreaker: next(),
    ...doubts,
    suspects,
    ...(right && { assuming: right.words }),
    summary: summaryOf(analysis, suspects.length + doubts.splits.length),
  };
}

const RIGHT_JUSTIFIED =
  'the reads are right-justified: only zeros in front of them were lost, or added; of how many there are nothing is claimed';

/** The case as the likeliest suspect's mend leaves it, so that the answer leads with what the rest agree on; undefined where it does not agree then. */
function putRight(
  { main, specimens }: Analysis,
  first: Suspect | undefined,
  library: readonly Format[],
): { analysis: Analysis; words: string } | undefined {
  if (!main || !first?.mend) return undefined;
  const rest = mended(specimens, first.mend, main.reading.print);
  if (rest.length === 0) return undefined;
  const analysis = analyse(rest, library);
  return analysis.main?.hull.consistent ? { analysis, words: first.words } : undefined;
}

/** Where the length is a question, so is where a position stands: nothing of it is then more than presumed. */
function unsureOfLength(claim: BitFinding): BitFinding {
  if (claim.standing !== 'proven') return claim;
  return { ...claim, standing: 'presumed', why: `${claim.why} The length of the read is presumed.` };
}

function facilityUnder({ reads }: Analysis, format: Format): { facility?: string } {
  const codes = new Set(reads.map((bits) => decode(bits, format).values.facility));
  const [code] = codes;
  return codes.size === 1 && code !== undefined ? { facility: code } : {};
}

function assumptionsOf({ main, facilities }: Analysis): string[] {
  if (!main) return [];
  const inside = numbered(main.reading);
  const codes = inside.every((i) => facilities[i] !== undefined);
  return [
    'the prints are right',
    codes
      ? 'these cards share one format; their facility codes are as given'
      : 'these cards share one format and one facility code',
    main.reading.kind === 'as printed'
      ? 'the number is written in binary, and is what is printed'
      : readingInWords(main.reading),
    main.sum
      ? `every bit is an exclusive or of number bits and a constant, but that ${checkInWords(main.sum)}`
      : 'every bit is an exclusive or of number bits and a constant: fields, parity and CRC alike are',
  ];
}

/** A place in words: `bits 18-36, up to 4 more zeros before it`. */
function placeInWords({ positions, order, inverted, zeros, bits }: NumberPlace): string {
  const sorted = [...positions].sort((a, b) => a - b);
  const where = `bits ${sorted[0]}-${sorted.at(-1)}`;
  const how = [order === 'as sent' ? '' : order, inverted ? 'inverted' : ''].filter(Boolean).join(', ');
  const more = zeros.length > 0 ? `, and up to ${zeros.length} zeros that may belong to it` : '';
  return `${where}${how ? `, ${how}` : ''} (${bits} bits)${more}`;
}

function summaryOf(analysis: Analysis, doubts: number): string {
  const { main, hypotheses, specimens } = analysis;
  const cards = `${specimens.length} ${specimens.length === 1 ? 'card' : 'cards'}`;
  if (!main) return `${cards}, none with a print: type what is printed on one.`;
  if (!main.hull.consistent)
    return `The ${cards} do not agree with one another${doubts > 0 ? ': see the suspects' : ''}.`;
  const settled = mayProve(analysis) && changingBits(analysis).length > 0 && analysisSettled(analysis);
  const proven = settled ? 'Every number bit that changed is settled. ' : '';
  const layouts =
    hypotheses.length === 0
      ? 'No usual layout fits'
      : hypotheses.length === 1
        ? 'One layout fits'
        : `${hypotheses.length} layouts fit: these cards do not part them`;
  const checks = main.hull.checks;
  return `${proven}${layouts}; ${checks === 0 ? 'no check is left over' : `${checks} ${checks === 1 ? 'check holds' : 'checks hold'}`}.`;
}

const analysisSettled = (analysis: Analysis): boolean =>
  changingBits(analysis).every((k) => analysis.main!.hull.effectOf(k) !== undefined);
