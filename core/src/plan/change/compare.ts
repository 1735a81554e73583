/** What differs between two versions of a plan, in words: each with the path at which it stands. */

export interface PlanDifference {
  where: string;
  /** As JSON; undefined where it is not there. */
  before?: string;
  after?: string;
}

/** Lists are told apart by what their entries are called, not by where they stand. */
const NAMED = ['id', 'number', 'name'] as const;

type Tree = unknown;

/** Every place at which two plans differ, in the order of the first. */
export function differencesOf(before: Tree, after: Tree, where = ''): PlanDifference[] {
  if (JSON.stringify(before) === JSON.stringify(after)) return [];
  const [old, now] = [entriesOf(before), entriesOf(after)];
  if (!old || !now)
    return [
      {
        where,
        ...(before !== undefined && { before: JSON.stringify(before) }),
        ...(after !== undefined && { after: JSON.stringify(after) }),
      },
    ];
  return [...new Set([...old.keys(), ...now.keys()])].flatMap((key) =>
    differencesOf(old.get(key), now.get(key), where === '' ? key : `${where}.${key}`),
  );
}

function entriesOf(tree: Tree): Map<string, Tree> | undefined {
  if (typeof tree !== 'object' || tree === null) return undefined;
  if (!Array.isArray(tree)) return new Map(Object.entries(tree));
  const called = NAMED.find((name) => tree.every((entry) => Object.hasOwn(Object(entry), name)));
  const key = (entry: Tree, i: number) => (called && tree.length > 0 ? String((entry as never)[called]) : String(i));
  return new Map(tree.map((entry, i) => [key(entry, i), entry]));
}
