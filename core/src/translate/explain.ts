/**
 * Explain: two devices disagree about the same cards; from pairs of their outputs, what leads from one to the other.
 * Every combination of notation, order, inversion, cut, joining and added constant is tried; those that explain all
 * pairs but a few are kept, the simplest first, each with the pairs that it leaves unexplained.
 */
import { fail, RawBitsError } from '../failure/index.ts';
import { cuts, cutsThenTurned } from './cuts.ts';
import { bitLength, type Shown, type ShownAs, showAs, shownIn } from './shown.ts';
import {
  inOrder,
  ORDERS,
  shownBy,
  TRANSLATION_SCHEMA,
  type Translation,
  translateValue,
  translationInWords,
} from './translation.ts';

export interface Pair {
  a: string;
  b: string;
}

export interface Explanation {
  translation: Translation;
  /** Which output is worked out from which. */
  direction: 'a to b' | 'b to a';
  words: string;
  /** How much it assumes: 0 for nothing but the notation. */
  steps: number;
  explains: number;
  /** Rows of the pairs (1-based) that it does not explain. */
  unexplained: number[];
}

export interface Settling {
  /** An output of the first device (`a`, or `b` where that is where the explanations begin) that parts them. */
  output: string;
  of: 'a' | 'b';
  /** What each explanation then gives, in their order; null where it gives nothing. */
  gives: (string | null)[];
}

export interface Explained {
  explanations: Explanation[];
  /** More than those listed. */
  more: number;
  /** How many different cards the pairs are of; one alone settles nothing. */
  cards: number;
  /** Undefined when no single output was found that parts what is left. */
  settle?: Settling;
}

/** At most this many explanations are listed, and this many pairs are used. */
const MOST = 12;
export const MOST_PAIRS = 1000;
const DECIMAL_WIDTHS = [24, 26, 32, 34, 37, 40, 48, 56, 64];

/** Throws `pairs-none`, `pairs-many`, or a text's own failure with its row and field. */
export function explain(pairs: readonly Pair[]): Explained {
  if (pairs.length === 0)
    fail('pairs-none', 'There are no pairs.', { row: 1 }, 'Read one card at both devices and enter both outputs.');
  if (pairs.length > MOST_PAIRS) fail('pairs-many', `${pairs.length} pairs are too many; at most ${MOST_PAIRS}.`);
  const rows = rowsByCard(pairs);
  const sides = rows.map(([row]) => {
    const { a, b } = pairs[row! - 1]!;
    return { a: shown(a, row!, 'a'), b: shown(b, row!, 'b') };
  });
  const forward = search(sides.map(({ a, b }) => ({ from: a, to: b })));
  const backward = search(sides.map(({ a, b }) => ({ from: b, to: a })));
  const all = [
    ...forward.map((found) => ({ ...found, direction: 'a to b' as const })),
    ...backward.map((found) => ({ ...found, direction: 'b to a' as const })),
  ]
    .map((found) => {
      const unexplained = found.unexplained.flatMap((card) => rows[card - 1]!).sort((x, y) => x - y);
      return { ...found, unexplained, explains: pairs.length - unexplained.length };
    })
    .sort(
      (x, y) => x.unexplained.length - y.unexplained.length || x.steps - y.steps || directionRank(x) - directionRank(y),
    );
  // One direction is enough where it works; the other is shown only when it explains more or with less.
  const best = all[0];
  const kept = best
    ? distinct(
        all.filter((e) => e.direction === best.direction),
        pairs,
      )
    : [];
  const explanations = kept.slice(0, MOST);
  return {
    explanations,
    more: kept.length - explanations.length,
    cards: rows.length,
    settle: settling(explanations, pairs),
  };
}

/** The rows (1-based) of each card: the same pair entered twice is one card, and says nothing more the second time. */
function rowsByCard(pairs: readonly Pair[]): number[][] {
  const by = new Map<string, number[]>();
  pairs.forEach(({ a, b }, i) => {
    const key = JSON.stringify([a.trim().toUpperCase(), b.trim().toUpperCase()]);
    by.set(key, [...(by.get(key) ?? []), i + 1]);
  });
  return [...by.values()];
}

/** Explanations that give the same for every output near those seen are one: the simplest of them stays. */
function distinct(explanations: readonly Explanation[], pairs: readonly Pair[]): Explanation[] {
  const seen = new Set<string>();
  return explanations.filter(({ translation, direction }) => {
    const probes = [...candidates([{ translation, direction }], pairs, direction === 'a to b' ? 'a' : 'b', 32)];
    const gives = probes.map(({ value }) => translateValue(translation, value)?.toString() ?? '-');
    const key = `${translation.from} ${translation.to} ${gives.join(' ')}`;
    if (seen.has(key)) return false;
    seen.add(key);
    return true;
  });
}

const directionRank = (e: Explanation): number => (e.direction === 'a to b' ? 0 : 1);

function shown(text: string, row: number, field: 'a' | 'b'): Map<ShownAs, Shown> {
  try {
    return shownIn(text);
  } catch (error) {
    if (!(error instanceof RawBitsError)) throw error;
    throw new RawBitsError({ ...error.toFailure(), where: { ...error.where, row, field } });
  }
}

type Sides = { from: Map<ShownAs, Shown>; to: Map<ShownAs, Shown> }[];
type Found = Omit<Explanation, 'direction'>;

/** Of more pairs than these, so many are looked at first. */
const SAMPLE = 48;

/**
 * Of many pairs a sample tells where it is worth looking: what explains three quarters of all explains more than half of
 * it, but for once in some thousand searches.
 */
function search(sides: Sides): Found[] {
  const allowed = sides.length >= 4 ? Math.floor(sides.length / 4) : 0;
  if (sides.length <= SAMPLE) return searched(sides, sides, allowed);
  const among = new Map<string, Set<number>>();
  for (const { translation } of searched(spread(sides), sides, SAMPLE / 2)) {
    const drops = among.get(wayOf(translation)) ?? new Set();
    among.set(wayOf(translation), drops.add(translation.drop));
  }
  return searched(sides, sides, allowed, among);
}

/** Pairs from all over, the greatest numbers of either side among them: they say how wide a cut has to be. */
function spread(sides: Sides): Sides {
  const greatest = (side: 'from' | 'to') => sides.reduce((a, b) => (sizeOf(b[side]) > sizeOf(a[side]) ? b : a));
  const some = Array.from({ length: SAMPLE - 2 }, (_, i) => sides[Math.floor((i * sides.length) / (SAMPLE - 2))]!);
  return [...some, greatest('from'), greatest('to')];
}

const sizeOf = (shown: Map<ShownAs, Shown>): bigint =>
  [...shown.values()].reduce((a, { value }) => (value > a ? value : a), 0n);

const wayOf = ({
  from,
  bits,
  invert,
  order,
  to,
}: Pick<Translation, 'from' | 'bits' | 'invert' | 'order' | 'to'>): string =>
  JSON.stringify([from, bits, invert, order, to]);

/** `whole` says how wide the outputs are; with `among`, only those ways and, in each, only those cuts are looked at. */
function searched(
  sides: Sides,
  whole: Sides,
  allowed: number,
  among?: ReadonlyMap<string, ReadonlySet<number>>,
): Found[] {
  const found = new Map<string, Found>();
  const notations = (side: 'from' | 'to') => {
    const counts = new Map<ShownAs, number>();
    for (const pair of sides) for (const as of pair[side].keys()) counts.set(as, (counts.get(as) ?? 0) + 1);
    return [...counts].filter(([, count]) => count >= sides.length - allowed).map(([as]) => as);
  };
  for (const from of notations('from')) {
    for (const bits of widthsOf(whole, from)) {
      for (const invert of [false, true]) {
        for (const order of ORDERS) {
          const base = { schema: TRANSLATION_SCHEMA, from, bits, invert, order } as const;
          if (among && !notations('to').some((to) => among.has(wayOf({ ...base, to })))) continue;
          const inputs = sides.map((pair) => pair.from.get(from)?.value);
          const turned = inputs.map((value) => {
            if (value === undefined || bitLength(value) > bits) return undefined;
            return inOrder(invert ? value ^ ((1n << BigInt(bits)) - 1n) : value, bits, order);
          });
          if (turned.every((t) => t === undefined)) continue;
          for (const to of notations('to')) {
            const drops = among?.get(wayOf({ ...base, to }));
            if (among && !drops) continue;
            const targets = sides.map((pair) => pair.to.get(to)?.value);
            const width = widestDigits(whole, to);
            const all = [
              ...cuts(turned, targets, bits, allowed, to, width, drops),
              ...(order === 'as it is' ? cutsThenTurned(turned, targets, bits, allowed, to, drops) : []),
            ];
            for (const rest of all) {
              const translation: Translation = { ...base, to, ...rest, ...digitsShown(whole, to, rest.keep) };
              const unexplained = inputs.flatMap((value, i) =>
                value !== undefined && translateValue(translation, value) === targets[i] ? [] : [i + 1],
              );
              if (unexplained.length > allowed) continue;
              keep(found, translation, unexplained, sides.length);
            }
          }
        }
      }
    }
  }
  return [...found.values()].sort((a, b) => a.unexplained.length - b.unexplained.length || a.steps - b.steps);
}

function keep(found: Map<string, Found>, translation: Translation, unexplained: number[], count: number): void {
  // Orders that come to the same for these widths are one explanation, under its plainest name.
  const key = JSON.stringify(translation);
  if (found.has(key)) return;
  found.set(key, {
    translation,
    words: translationInWords(translation),
    steps: stepsOf(translation),
    explains: count - unexplained.length,
    unexplained,
  });
}

/** How much a translation assumes beyond the notation. */
function stepsOf({ bits, invert, order, drop, keep, turn, write, add, from }: Translation): number {
  const top = bits - drop - keep;
  const cut = (count: number) => (count === 0 ? 0 : count % 8 === 0 ? 1 : 2);
  const cuts = drop === 1 && top === 1 ? 1 : cut(top) + cut(drop);
  const plainWidth = from !== 'decimal' || [24, 32, 40, 56, 64].includes(bits) ? 0 : 0.5;
  return (
    (invert ? 1.5 : 0) +
    (order === 'as it is' ? 0 : order === 'bytes reversed' || order === 'bits reversed' ? 1 : 1.5) +
    cuts +
    (turn === undefined ? 0 : turn === 'bytes reversed' ? 1 : 1.5) +
    (write.as === 'number' ? 0 : 1) +
    (add === '0' ? 0 : 2) +
    plainWidth
  );
}

/** The widths at which an output in this notation is tried. */
function widthsOf(sides: Sides, from: ShownAs): number[] {
  const all = sides.flatMap((pair) => pair.from.get(from) ?? []);
  const needed = Math.max(...all.map(({ value }) => bitLength(value)));
  const told = all.flatMap(({ bits }) => bits ?? []);
  if (told.length > 0) {
    // Most outputs have one width; the longest counts where hex lost its leading zeros.
    const longest = Math.max(...told);
    const whole = Math.ceil(longest / 8) * 8;
    return from === 'hex' ? [...new Set([longest, whole])] : [longest];
  }
  return [...new Set([...DECIMAL_WIDTHS.filter((w) => w >= needed), needed])].filter((w) => w >= needed).slice(0, 6);
}

/**
 * In how many digits the other device shows its number, where the width of the bits does not say it: as many as all are
 * shown in, if one of them has a zero in front; of hex of several lengths, no zeros in front.
 */
function digitsShown(sides: Sides, to: ShownAs, keep: number): Pick<Translation, 'digits'> {
  const written = sides.flatMap((pair) => {
    const shown = pair.to.get(to);
    return shown?.digits === undefined ? [] : [{ digits: shown.digits, needed: digitsOf(shown.value, to) }];
  });
  if (written.length === 0) return {};
  const lengths = new Set(written.map(({ digits }) => digits));
  const [only] = lengths;
  const hasZeros = written.some(({ digits, needed }) => digits > needed);
  const byWidth = to === 'hex' ? Math.ceil(keep / 4) : to === 'binary' ? keep : 1;
  if (lengths.size === 1 && (hasZeros || to !== 'decimal')) return only === byWidth ? {} : { digits: only! };
  if (lengths.size > 1 && !hasZeros && byWidth > 1) return { digits: 1 };
  return {};
}

const digitsOf = (value: bigint, as: ShownAs): number =>
  value.toString(as === 'hex' ? 16 : as === 'binary' ? 2 : 10).length;

/** How many digits the other device shows at most; undefined where that tells nothing. */
function widestDigits(sides: Sides, to: ShownAs): number | undefined {
  if (to !== 'decimal') return undefined;
  return Math.max(...sides.flatMap((pair) => pair.to.get(to)?.value.toString().length ?? []));
}

/** An output of the first device for which the explanations left would give different answers. */
function settling(explanations: readonly Explanation[], pairs: readonly Pair[]): Settling | undefined {
  const best = explanations.filter((e) => e.unexplained.length === explanations[0]!.unexplained.length);
  if (best.length < 2) return undefined;
  const of = best[0]!.direction === 'a to b' ? 'a' : 'b';
  let choice: { output: string; gives: (string | null)[]; parted: number } | undefined;
  const from = best[0]!.translation.from;
  for (const { value, bits } of candidates(best, pairs, of)) {
    const gives = best.map(({ translation }) => {
      const other = translation.from === from ? value : shownIn(showAs(from, value, bits)).get(translation.from)?.value;
      const result = other === undefined ? undefined : translateValue(translation, other);
      return result === undefined ? null : shownBy(translation, result);
    });
    const parted = new Set(gives).size;
    if (parted > (choice?.parted ?? 1)) choice = { output: showAs(from, value, bits), gives, parted };
    if (parted === best.length) break;
  }
  return choice && { output: choice.output, of, gives: choice.gives };
}

/** Outputs seen, and one bit away from those seen: a card like it is likely to exist. */
function* candidates(
  best: readonly Pick<Explanation, 'translation' | 'direction'>[],
  pairs: readonly Pair[],
  of: 'a' | 'b',
  most = 512,
): Iterable<{ value: bigint; bits: number }> {
  const { from, bits } = best[0]!.translation;
  const shown = pairs.slice(0, 4).flatMap((pair) => shownIn(pair[of]).get(from) ?? []);
  const needed = Math.max(1, ...shown.map(({ value }) => bitLength(value)));
  for (const { value, bits: told } of shown) {
    const width = Math.min(told ?? Math.max(needed, Math.min(bits, most)), Math.max(most, needed));
    yield { value, bits: told ?? width };
    for (let k = 0; k < width; k++) yield { value: value ^ (1n << BigInt(k)), bits: told ?? width };
  }
}
