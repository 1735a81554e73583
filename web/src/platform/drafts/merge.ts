/**
 * Two people at one form: what was filled in, what was typed here, and what somebody saved meanwhile become one. Fields are merged
 * by themselves, ticked lists by what was ticked and unticked, rows one by one; what both changed is asked. What either took out
 * stays out.
 */

/** Something that both changed: what stands here (as it was typed), and what was saved. Rows come as a list of one, or of none. */
export interface Conflict {
  field: string;
  /** The same for the same two changes, whatever else is typed. */
  key: string;
  mine: unknown;
  theirs: unknown;
  /** The whole field with theirs in the place of mine. */
  taken: unknown;
}

export interface Merged {
  value: unknown;
  conflicts: Conflict[];
}

type Row = Record<string, unknown>;

const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
const isRow = (value: unknown): value is Row => typeof value === 'object' && value !== null && !Array.isArray(value);
const areRows = (value: unknown): value is Row[] => Array.isArray(value) && value.some(isRow);
/** A ticked list: of one box a form gives its text, or `false`. */
const tickedOf = (value: unknown): string[] =>
  [value].flat().filter((one): one is string => typeof one === 'string' && one !== '');

/** One field, by what it was filled with, what stands in it now, and what is saved. */
export function mergeField(field: string, base: unknown, mine: unknown, theirs: unknown): Merged {
  if (same(mine, base) || same(mine, theirs)) return { value: theirs, conflicts: [] };
  if (same(theirs, base)) return { value: mine, conflicts: [] };
  const all = [base, mine, theirs];
  if (all.some(areRows)) return mergeRows(field, rowsOf(base), rowsOf(mine), rowsOf(theirs));
  if (all.some(Array.isArray)) return { value: mergeTicked(base, mine, theirs), conflicts: [] };
  const key = JSON.stringify([field, base, theirs]);
  return { value: mine, conflicts: [{ field, key, mine, theirs, taken: theirs }] };
}

const rowsOf = (value: unknown): Row[] => (Array.isArray(value) ? value.filter(isRow) : []);

function mergeTicked(base: unknown, mine: unknown, theirs: unknown): string[] {
  const [was, here, saved] = [tickedOf(base), tickedOf(mine), tickedOf(theirs)];
  const kept = saved.filter((one) => here.includes(one) || !was.includes(one));
  return [...kept, ...here.filter((one) => !was.includes(one) && !kept.includes(one))];
}

/**
 * For each row of `base` the one that it became, or undefined where it was taken out; and the rows that are new. Costs the rows,
 * and the pairs of those that were changed.
 */
function followed(base: readonly Row[], now: readonly Row[]): { became: (Row | undefined)[]; added: Row[] } {
  const became: (Row | undefined)[] = base.map(() => undefined);
  const left = new Set(now.keys());
  const take = (i: number, k: number) => {
    became[i] = now[k];
    left.delete(k);
  };
  const placesOf = new Map<string, number[]>();
  for (const k of [...now.keys()].reverse()) {
    const text = JSON.stringify(now[k]);
    placesOf.set(text, [...(placesOf.get(text) ?? []), k]);
  }
  for (const i of base.keys()) {
    const k = placesOf.get(JSON.stringify(base[i]))?.pop();
    if (k !== undefined) take(i, k);
  }
  // What was edited is the most like it, and of those equally like it the nearest.
  const pairs = [...base.keys()].flatMap((i) =>
    became[i] ? [] : [...left].map((k) => ({ i, k, like: likeness(base[i]!, now[k]!), far: Math.abs(i - k) })),
  );
  for (const { i, k, like } of pairs.sort((a, b) => b.like - a.like || a.far - b.far))
    if (like > 0 && became[i] === undefined && left.has(k)) take(i, k);
  return { became, added: [...left].sort((a, b) => a - b).map((k) => now[k]!) };
}

/** How many of their values are the same; empty ones say nothing. */
function likeness(a: Row, b: Row): number {
  return Object.keys(a).filter((name) => !isEmpty(a[name]) && same(a[name], b[name])).length;
}
const isEmpty = (value: unknown): boolean =>
  value === '' || value === false || (Array.isArray(value) && value.length === 0);

function mergeRows(field: string, base: readonly Row[], mine: readonly Row[], theirs: readonly Row[]): Merged {
  const [here, saved] = [followed(base, mine), followed(base, theirs)];
  const places: { value: Row[]; key?: string; mine?: Row | undefined; theirs?: Row | undefined; taken?: Row[] }[] = [];
  for (const [i, was] of base.entries()) {
    const [own, other] = [here.became[i], saved.became[i]];
    const isChanged = (row: Row | undefined) => !same(row, was);
    if (!isChanged(own) || same(own, other)) places.push({ value: other ? [other] : [] });
    else if (!isChanged(other)) places.push({ value: own ? [own] : [] });
    else places.push(bothChanged(field, was, own, other));
  }
  for (const row of saved.added) places.push({ value: [row] });
  for (const row of here.added) if (!saved.added.some((other) => same(other, row))) places.push({ value: [row] });
  const value = places.flatMap((place) => place.value);
  const conflicts = places.flatMap(({ key, ...place }, at): Conflict[] => {
    if (key === undefined) return [];
    const taken = places.flatMap((other, i) => (i === at ? (place.taken ?? []) : other.value));
    return [
      {
        field,
        key,
        mine: [place.mine].flatMap((row) => row ?? []),
        theirs: [place.theirs].flatMap((row) => row ?? []),
        taken,
      },
    ];
  });
  return { value, conflicts };
}

/** A row that both changed, or one took out: what only one of them changed of it is merged. */
function bothChanged(field: string, was: Row, own: Row | undefined, other: Row | undefined) {
  const key = JSON.stringify([field, was, other ?? null]);
  if (!own || !other) return { value: own ? [own] : [], key, mine: own, theirs: other, taken: other ? [other] : [] };
  const names = [...new Set([...Object.keys(own), ...Object.keys(other)])];
  const merged = names.map((name) => [name, mergeField(name, was[name], own[name], other[name])] as const);
  const value = Object.fromEntries(merged.map(([name, { value: one }]) => [name, one]));
  if (merged.every(([, { conflicts }]) => conflicts.length === 0)) return { value: [value] };
  const taken = Object.fromEntries(
    merged.map(([name, one]) => [name, one.conflicts.length > 0 ? other[name] : one.value]),
  );
  return { value: [value], key, mine: value, theirs: taken, taken: [taken] };
}
