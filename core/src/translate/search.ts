/** Every combination of notation, order, inversion, cut and writing that leads from some outputs to others, for all but a few. */
import { cuts, cutsThenTurned } from './cuts.ts';
import { bitLength, type Shown, type ShownAs } from './shown.ts';
import {
  inOrder,
  ORDERS,
  TRANSLATION_SCHEMA,
  type Translation,
  type TranslationOrder,
  translateValue,
  translationInWords,
} from './translation.ts';

const DECIMAL_WIDTHS = [24, 26, 32, 34, 37, 40, 48, 56, 64];

export interface Found {
  translation: Translation;
  words: string;
  /** How much it assumes: 0 for nothing but the notation. */
  steps: number;
  explains: number;
  /** Which of the cards, or of the rows of the pairs (1-based), it does not explain. */
  unexplained: number[];
}

export type Sides = { from: Map<ShownAs, Shown>; to: Map<ShownAs, Shown> }[];

/** Of more pairs than these, so many are looked at first. */
const SAMPLE = 48;

/**
 * Of many pairs a sample tells where it is worth looking: what explains three quarters of all explains more than half of
 * it, but for once in some thousand searches.
 */
export function search(sides: Sides): Found[] {
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
              ...cutsThenTurned(turned, targets, bits, allowed, to, drops),
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
  const key = whatItDoes(translation);
  const steps = stepsOf(translation);
  const other = found.get(key);
  // What can be put in order before it is cut is said so.
  const isPlainer =
    other && steps === other.steps && translation.turn === undefined && other.translation.turn !== undefined;
  if (other && other.steps <= steps && !isPlainer) return;
  found.set(key, {
    translation,
    words: translationInWords(translation),
    steps,
    explains: count - unexplained.length,
    unexplained,
  });
}

/**
 * A translation by what it does: which bit of the one output becomes which of the other. Orders and cuts that come to the
 * same are one explanation, under its plainest name.
 */
function whatItDoes({ bits, order, drop, keep, turn, ...rest }: Translation): string {
  const from = placesIn(order, bits).slice(bits - drop - keep, bits - drop);
  return JSON.stringify([bits, placesIn(turn ?? 'as it is', keep).map((place) => from[place]), rest]);
}

/** For each bit of a number that was put in an order, from 0, the most significant first: where it stood before. */
const placesIn = memoised((order: TranslationOrder, bits: number): readonly number[] => {
  const places = new Array<number>(bits).fill(0);
  for (let place = 0; place < bits; place++) {
    const moved = inOrder(1n << BigInt(bits - 1 - place), bits, order) ?? 0n;
    if (moved !== 0n) places[bits - bitLength(moved)] = place;
  }
  return places;
});

function memoised<R>(make: (order: TranslationOrder, bits: number) => R): typeof make {
  const made = new Map<string, R>();
  return (order, bits) => {
    const key = `${order} ${bits}`;
    if (!made.has(key)) made.set(key, make(order, bits));
    return made.get(key)!;
  };
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
