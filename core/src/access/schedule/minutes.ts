/** Times of a day in minutes from its beginning, as sets of whole minutes: ranges that begin with their first and end before their last. */

/** Minutes `from` up to and without `to`, both 0 … 1440. */
export interface MinuteRange {
  from: number;
  to: number;
}
/** Rising, apart from one another. */
export type MinuteSet = readonly MinuteRange[];

export const DAY = 1440;
export const ALL_DAY: MinuteSet = [{ from: 0, to: DAY }];

/** The same minutes in as few ranges as possible. */
export function minutesOf(ranges: readonly MinuteRange[]): MinuteRange[] {
  const result: MinuteRange[] = [];
  for (const { from, to } of [...ranges].sort((a, b) => a.from - b.from)) {
    if (to <= from) continue;
    const last = result.at(-1);
    if (last && from <= last.to) last.to = Math.max(last.to, to);
    else result.push({ from, to });
  }
  return result;
}

/** The minutes of both. */
export function bothOf(a: MinuteSet, b: MinuteSet): MinuteRange[] {
  const result: MinuteRange[] = [];
  for (const one of a)
    for (const other of b) {
      const [from, to] = [Math.max(one.from, other.from), Math.min(one.to, other.to)];
      if (from < to) result.push({ from, to });
    }
  return result;
}

/** The minutes of the first that are not in the second. */
export function without(a: MinuteSet, b: MinuteSet): MinuteRange[] {
  let left: MinuteRange[] = [...a];
  for (const hole of b)
    left = left.flatMap(({ from, to }) =>
      minutesOf([
        { from, to: Math.min(to, hole.from) },
        { from: Math.max(from, hole.to), to },
      ]),
    );
  return left;
}

export const holdsMinute = (set: MinuteSet, minute: number): boolean =>
  set.some(({ from, to }) => from <= minute && minute < to);

/** `22:00`. */
export const timeInWords = (minute: number): string =>
  `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;
