/**
 * Explain: two devices disagree about the same cards; from pairs of their outputs, what leads from one to the other.
 * Every combination of notation, order, inversion, cut, joining and added constant is tried; those that explain all
 * pairs but a few are kept, the simplest first, each with the pairs that it leaves unexplained.
 */
import { fail, RawBitsError } from '../failure/index.ts';
import { type Found, search } from './search.ts';
import { bitLength, type Shown, type ShownAs, showAs, shownIn } from './shown.ts';
import { shownBy, translateValue } from './translation.ts';

export interface Pair {
  a: string;
  b: string;
}

export interface Explanation extends Found {
  /** Which output is worked out from which. */
  direction: 'a to b' | 'b to a';
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
