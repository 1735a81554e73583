/** Doubts: specimens that do not agree with the rest, and boxes that are two boxes. Nothing is ever dropped silently. */
import { rangeOf } from '../format/index.ts';
import { Hull } from './algebra/hull.ts';
import { smallestSets } from './algebra/smallestSets.ts';
import { type Analysis, keyOf, numbered } from './analysis.ts';
import { varies } from './cards/columns.ts';
import { type NumberPlace, valueAt } from './cards/places.ts';
import type { Specimen } from './cards/specimen.ts';
import type { Mend } from './errors/error.ts';
import { explainedSuspect } from './errorsInWords.ts';
import type { Explanation } from './explain.ts';
import type { Split, Suspect } from './finding.ts';
import { parityFits } from './patterns.ts';

export interface Doubts {
  suspects: Suspect[];
  splits: Split[];
  searchedUpTo: number;
}

/** A hull of some of the specimens; the indices are into the group. `key` may give another number for one of them. */
export function hullOf(analysis: Analysis, indices: readonly number[], number?: (i: number) => bigint): Hull {
  const { main, facilities, width, length, specimens } = analysis;
  const inside = numbered(main!.reading);
  const known = inside.every((i) => facilities[i] !== undefined);
  const hull = new Hull(main!.hull.width, length, indices.length, main!.hull.turned);
  for (const i of indices) {
    const value = number?.(i) ?? main!.reading.numbers[i]!;
    hull.add(keyOf(value, known ? facilities[i] : undefined, width), specimens[i]!.bits);
  }
  return hull;
}

/** One format for both parts, with a constant of its own for the second: as if a facility bit told them apart. */
function jointHull(analysis: Analysis, first: readonly number[], second: readonly number[]): Hull {
  const { main, length, specimens } = analysis;
  const width = main!.hull.width;
  const hull = new Hull(width + 1, length, first.length + second.length);
  for (const i of first) hull.add(main!.reading.numbers[i]!, specimens[i]!.bits);
  for (const i of second) hull.add(main!.reading.numbers[i]! | (1n << BigInt(width)), specimens[i]!.bits);
  return hull;
}

/** `explained` where explanations were weighed; else the algebra and the places of the number tell what they can. */
export function doubtsOf(analysis: Analysis, explained: Explanation | undefined): Doubts {
  const suspects: Suspect[] = [
    ...twoPrints(analysis),
    ...(explained?.found ?? []).map((one) => explainedSuspect(analysis, one)),
  ];
  const splits: Split[] = [];
  let searchedUpTo = 0;
  if (analysis.main && !explained) {
    const { main } = analysis;
    const inside = numbered(main.reading);
    splits.push(...splitsOf(analysis, inside));
    if (!main.hull.consistent) {
      const search = smallestSets(main.hull);
      searchedUpTo = search.searched;
      suspects.push(
        ...search.sets.map((set) =>
          suspectFrom(
            analysis,
            inside,
            set.map((k) => inside[k]!),
          ),
        ),
      );
    }
    suspects.push(...byPlace(analysis, suspects));
  }
  const ordered = explained ? suspects : suspects.sort((a, b) => KINDS.indexOf(a.kind) - KINDS.indexOf(b.kind));
  return { suspects: distinct(ordered), splits, searchedUpTo };
}

/** The likeliest explanations first, where nothing weighs them. */
const KINDS: Suspect['kind'][] = [
  'one card, two prints',
  'swapped pair',
  'mistyped print',
  'inverted read',
  'misread bit',
  'to be set aside',
];

const row = (specimen: Specimen): number => specimen.index + 1;

/** One card read twice with two prints: one of them is wrong, whatever the algebra says. */
function twoPrints({ specimens, main }: Analysis): Suspect[] {
  if (!main) return [];
  const byBits = new Map<string, number[]>();
  specimens.forEach((s, i) => {
    if (main.reading.numbers[i] === undefined) return;
    const key = s.bits.toBinary();
    byBits.set(key, [...(byBits.get(key) ?? []), i]);
  });
  return [...byBits.values()].flatMap((same): Suspect[] => {
    const numbers = new Set(same.map((i) => main.reading.numbers[i]));
    if (numbers.size < 2) return [];
    return [
      {
        kind: 'one card, two prints',
        rows: same.map((i) => row(specimens[i]!)),
        words: `Cards ${same.map((i) => row(specimens[i]!)).join(' and ')} have the same bits but other prints: one card was read twice, or a print is mistyped.`,
      },
    ];
  });
}

/** What a set of suspects most likely is: swapped, mistyped, inverted, or simply not of these. */
function suspectFrom(analysis: Analysis, inside: readonly number[], set: readonly number[]): Suspect {
  const { specimens } = analysis;
  const rest = inside.filter((i) => !set.includes(i));
  const hull = hullOf(analysis, rest);
  const rows = set.map((i) => row(specimens[i]!));
  const checks = hull.checks;
  if (set.length === 2) {
    const [a, b] = set as [number, number];
    const numbers = analysis.main!.reading.numbers;
    const swapped = hullOf(analysis, inside, (i) => (i === a ? numbers[b]! : i === b ? numbers[a]! : numbers[i]!));
    if (swapped.consistent)
      return {
        kind: 'swapped pair',
        rows,
        checks,
        mend: exchanged(analysis, a, b),
        words: `The prints of cards ${rows.join(' and ')} are swapped: exchanged, all specimens agree.`,
      };
  }
  if (set.length === 1) {
    const single = singleSuspect(analysis, inside, set[0]!, checks);
    if (single) return single;
  }
  return {
    kind: 'to be set aside',
    rows,
    checks,
    words: `Set ${rows.length === 1 ? 'card' : 'cards'} ${rows.join(', ')} aside, and the rest agree: a mistyped print, a misread, or a card of another kind.`,
  };
}

function singleSuspect(
  analysis: Analysis,
  inside: readonly number[],
  index: number,
  checks: number,
): Suspect | undefined {
  const { specimens, main } = analysis;
  const specimen = specimens[index]!;
  const shouldBe = analysis.nearPlaces.find((place) => place.misses.includes(index));
  if (shouldBe) return mistyped(analysis, index, shouldBe, checks);
  const { facilities, width } = analysis;
  const known = inside.every((i) => facilities[i] !== undefined);
  const expected = hullOf(
    analysis,
    inside.filter((i) => i !== index),
  ).predict(keyOf(main!.reading.numbers[index]!, known ? facilities[index] : undefined, width));
  if (expected?.bits.equals(specimen.bits.invert()))
    return {
      kind: 'inverted read',
      mend: [{ row: row(specimen), bits: specimen.bits.invert().toBinary() }],
      rows: [row(specimen)],
      checks,
      words: `Every bit of card ${row(specimen)} is inverted: the two wires are swapped there. Inverted back it agrees.`,
    };
  const wrong = expected ? expected.bits.xor(specimen.bits) : undefined;
  if (wrong && wrong.count() <= 2) {
    const at = [];
    for (let p = 1; p <= wrong.length; p++) if (wrong.at(p)) at.push(p);
    return {
      kind: 'misread bit',
      mend: [{ row: row(specimen), bits: expected!.bits.toBinary() }],
      rows: [row(specimen)],
      checks,
      words: `Card ${row(specimen)} differs from what its print asks for in bit ${at.join(' and ')} alone: most likely a misread. Read it again.`,
    };
  }
  return undefined;
}

/** Two prints the other way round. */
function exchanged({ specimens, main }: Analysis, a: number, b: number): Mend[] {
  const text = (i: number) => specimens[i]!.prints[main!.reading.print]?.text ?? '';
  return [
    { row: row(specimens[a]!), printed: text(b) },
    { row: row(specimens[b]!), printed: text(a) },
  ];
}

function mistyped(analysis: Analysis, index: number, place: NumberPlace, checks: number | undefined): Suspect {
  const specimen = analysis.specimens[index]!;
  const value = valueAt(place, specimen.bits).toString();
  const text = specimen.prints[analysis.main!.reading.print]?.text ?? '';
  return {
    kind: 'mistyped print',
    rows: [row(specimen)],
    ...(checks !== undefined && { checks }),
    mend: [{ row: row(specimen), printed: value }],
    words: `The print of card ${row(specimen)}, ${text}, stands as ${value} where the others have theirs: most likely mistyped.`,
  };
}

/** Specimens that do not have their number where nearly all others have it, which needs no check to be seen. */
function byPlace(analysis: Analysis, already: readonly Suspect[]): Suspect[] {
  const [place] = analysis.nearPlaces;
  if (!place || place.misses.length === 0) return [];
  const named = new Set(already.flatMap((s) => s.rows));
  const fresh = place.misses.filter((i) => !named.has(row(analysis.specimens[i]!)));
  if (fresh.length === 2) {
    const [a, b] = fresh as [number, number];
    const numbers = analysis.main!.reading.numbers;
    const [va, vb] = [a, b].map((i) => valueAt(place, analysis.specimens[i]!.bits));
    if (va === numbers[b] && vb === numbers[a])
      return [
        {
          kind: 'swapped pair',
          rows: fresh.map((i) => row(analysis.specimens[i]!)),
          mend: exchanged(analysis, a, b),
          words: `The prints of cards ${fresh.map((i) => row(analysis.specimens[i]!)).join(' and ')} are swapped: each stands in the bits of the other.`,
        },
      ];
  }
  return fresh.map((index) => mistyped(analysis, index, place, undefined));
}

/**
 * Splits into two groups: by bits that change but follow neither the number nor any usual check, and, where the whole
 * does not agree, by any one bit whose two halves each do.
 */
function splitsOf(analysis: Analysis, inside: readonly number[]): Split[] {
  const { columns, specimens, main, hypotheses } = analysis;
  const count = specimens.length;
  if (inside.length < 4) return [];
  const found = new Map<string, Split>();
  const consider = (zeros: number[], ones: number[], words: string, sure = false) => {
    const parts = [zeros, ones].map((part) => part.filter((i) => inside.includes(i)));
    if (parts.some((part) => part.length < 2)) return;
    const together = jointHull(analysis, parts[0]!, parts[1]!);
    const hulls = parts.map((part) => hullOf(analysis, part));
    const apart = hulls.reduce((sum, hull) => sum + hull.checks, 0);
    // One format with two facility codes must agree with something left over; two formats with more of it.
    const oneFormat = together.consistent && (together.checks > 0 || sure);
    if (!oneFormat && !(hulls.every((hull) => hull.consistent) && apart > 1)) return;
    const groups = parts.map((part) => part.map((i) => row(specimens[i]!)));
    const key = JSON.stringify(groups.map((g) => g.join()).sort());
    const what = oneFormat ? 'most likely two facility codes of one format' : 'most likely two formats';
    if (!found.has(key))
      found.set(key, { groups, words: `${words}: ${what}.`, checks: hulls.map((hull) => hull.checks) });
  };
  const [place] = main!.places;
  const own = new Set(place ? [...place.positions, ...place.zeros] : []);
  const unexplained = columns.flatMap((column, i) => {
    const at = i + 1;
    if (own.has(at) || !varies(column, count)) return [];
    const fits = place ? parityFits(columns, count, at, []).some((f) => f.tested) : false;
    return fits ? [] : [at];
  });
  if (place && hypotheses.length === 0 && unexplained.length > 0) {
    const values = specimens.map((s) => s.bits.pick(unexplained).toBinary());
    const kinds = [...new Set(values)];
    if (kinds.length === 2) {
      const of = (kind: string) => values.flatMap((v, i) => (v === kind ? [i] : []));
      const bits = unexplained.length === 1 ? `bit ${unexplained[0]}` : `bits ${rangeOf(unexplained)}`;
      consider(
        of(kinds[0]!),
        of(kinds[1]!),
        `${bits[0]!.toUpperCase()}${bits.slice(1)} take two values and do not follow the number`,
        true,
      );
    }
  }
  if (!main!.hull.consistent) {
    const number = new Set(analysis.nearPlaces[0]?.positions ?? own);
    columns.forEach((column, i) => {
      if (found.size >= 4 || number.has(i + 1) || !varies(column, count)) return;
      const ones = specimens.flatMap((s, k) => (s.bits.at(i + 1) ? [k] : []));
      const zeros = specimens.flatMap((s, k) => (s.bits.at(i + 1) ? [] : [k]));
      consider(zeros, ones, `Parted by bit ${i + 1}, both halves agree by themselves`);
    });
  }
  return [...found.values()];
}

function distinct(suspects: Suspect[]): Suspect[] {
  const seen = new Set<string>();
  return suspects.filter(({ rows, kind }) => {
    const key = `${rows.join()} ${kind === 'one card, two prints' ? kind : ''}`;
    if (seen.has(key)) return false;
    seen.add(key);
    return true;
  });
}
