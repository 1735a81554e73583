/** Cuts: which bits of one output, and how written, are another; tried for all pairs at once. */
import { bitLength, type ShownAs } from './shown.ts';
import { inOrder, type Translation } from './translation.ts';

type Cut = Pick<Translation, 'drop' | 'keep' | 'turn' | 'write' | 'add'>;

/** Every cut, and way of writing what is cut out, that explains enough of the pairs; of `drops` only, where they are given. */
export function* cuts(
  turned: (bigint | undefined)[],
  targets: (bigint | undefined)[],
  bits: number,
  allowed: number,
  to: ShownAs,
  digits: number | undefined,
  drops?: ReadonlySet<number>,
): Iterable<Cut> {
  const number = { write: { as: 'number' }, add: '0' } as const;
  for (let drop = 0; drop < bits; drop++) {
    if (drops && !drops.has(drop)) continue;
    const shifted = turned.map((value) => (value === undefined ? undefined : value >> BigInt(drop)));
    for (const keep of widthsThatFit(shifted, targets, bits - drop, allowed)) yield { drop, keep, ...number };
    if (to === 'decimal') {
      const joined = targets.map((value) => (value !== undefined && value % 100_000n < 65_536n ? value : undefined));
      if (!joined.some((value) => value !== undefined && value >= 100_000n)) joined.fill(undefined);
      if (joined.filter((v) => v === undefined).length <= allowed) {
        const pairs = joined.map((value) =>
          value === undefined ? undefined : ((value / 100_000n) << 16n) | (value % 100_000n),
        );
        for (const keep of widthsThatFit(shifted, pairs, bits - drop, allowed))
          if (keep > 16) yield { drop, keep, write: { as: 'facility and number joined' }, add: '0' };
      }
    }
    for (const keep of new Set([bits - drop, 16, 24, 32])) {
      if (keep > bits - drop) continue;
      const add = constantBetween(shifted, targets, keep, allowed);
      if (add !== undefined) yield { drop, keep, write: { as: 'number' }, add: add.toString() };
    }
  }
  if (digits !== undefined && digits >= 4)
    yield { drop: 0, keep: bits, write: { as: 'last digits', digits }, add: '0' };
}

/** Orders that come to something else after a cut than before it; of all bits reversed that is another cut. */
const TURNS = ['bytes reversed', 'bits of each byte reversed', 'nibbles swapped', 'nibbles reversed'] as const;

/**
 * Every cut whose bits are the other output once they are turned: parity stripped and then the bytes reversed, for one. The
 * orders are their own inverse, so that it is the targets that are turned, once for each width.
 */
export function* cutsThenTurned(
  whole: (bigint | undefined)[],
  targets: (bigint | undefined)[],
  bits: number,
  allowed: number,
  to: ShownAs,
  drops?: ReadonlySet<number>,
): Iterable<Cut> {
  const writings: [Cut['write'], (bigint | undefined)[]][] = [[{ as: 'number' }, targets]];
  const joined = targets.map((value) =>
    value !== undefined && value % 100_000n < 65_536n ? ((value / 100_000n) << 16n) | (value % 100_000n) : undefined,
  );
  if (to === 'decimal' && joined.some((value) => value !== undefined && value >> 16n !== 0n))
    writings.push([{ as: 'facility and number joined' }, joined]);
  for (const [write, wanted] of writings)
    for (const turn of TURNS)
      for (let keep = 8; keep <= bits; keep += 8) {
        const mask = (1n << BigInt(keep)) - 1n;
        const turned = wanted.map((value) =>
          value === undefined || value > mask ? undefined : inOrder(value, keep, turn),
        );
        if (turned.filter((value) => value === undefined).length > allowed) continue;
        for (let drop = 0; drop <= bits - keep; drop++) {
          if (drops && !drops.has(drop)) continue;
          let wrong = 0;
          for (let i = 0; i < whole.length && wrong <= allowed; i++)
            if (whole[i] === undefined || ((whole[i]! >> BigInt(drop)) & mask) !== turned[i]) wrong++;
          if (wrong <= allowed) yield { drop, keep, turn, write, add: '0' };
        }
      }
}

/**
 * How many of the last bits of each shifted value are its target. Zeros before a number may belong to it or not, so a
 * whole range of widths may do: of those, all that is left, whole bytes, and the least and the greatest.
 */
function widthsThatFit(
  shifted: (bigint | undefined)[],
  targets: (bigint | undefined)[],
  most: number,
  allowed: number,
): number[] {
  const ranges = shifted.flatMap((value, i): [number, number][] => {
    const target = targets[i];
    if (value === undefined || target === undefined) return [];
    const low = bitLength(target);
    const differs = value ^ target;
    let high = most;
    if (differs !== 0n) {
      if ((differs & ((1n << BigInt(low)) - 1n)) !== 0n) return [];
      high = bitLength(differs & -differs) - 1;
    }
    return low <= high ? [[low, Math.min(high, most)]] : [];
  });
  if (ranges.length < shifted.length - allowed || ranges.length === 0) return [];
  const explainsEnough = (width: number) =>
    ranges.filter(([low, high]) => width >= low && width <= high).length >= shifted.length - allowed;
  const ends = ranges.flat();
  const candidates = new Set([most, ...ends, ...[8, 16, 24, 32, 40, 48, 56, 64]]);
  const good = [...candidates].filter((width) => width <= most && explainsEnough(width)).sort((a, b) => a - b);
  const plain = good.filter((width) => width === most || width % 8 === 0);
  return plain.length > 0 ? plain : good.length > 0 ? [...new Set([good[0]!, good.at(-1)!])] : [];
}

/** The one constant that most pairs differ by; it takes three pairs to believe one. */
function constantBetween(
  shifted: (bigint | undefined)[],
  targets: (bigint | undefined)[],
  keep: number,
  allowed: number,
): bigint | undefined {
  const counts = new Map<bigint, number>();
  const mask = (1n << BigInt(keep)) - 1n;
  shifted.forEach((value, i) => {
    const target = targets[i];
    if (value === undefined || target === undefined) return;
    const difference = target - (value & mask);
    counts.set(difference, (counts.get(difference) ?? 0) + 1);
  });
  const [best] = [...counts].sort((a, b) => b[1] - a[1]);
  return best && best[0] !== 0n && best[1] >= 3 && best[1] >= shifted.length - allowed ? best[0] : undefined;
}
