/** What a change did to the specimens of a case, for the trail: which prints and bits were others before. */
import type { CaseSpecimen } from '@rawbits/api';

interface Told {
  row: number;
  bits: string;
  printed?: string;
  setAside?: boolean;
}

export interface Side {
  specimens: number;
  /** The rows that were changed, as this side has them. */
  changed?: Told[];
  /** The rows that only this side has. */
  only?: Told[];
  /** How many more there are of both. */
  more?: number;
}

/** Rows told in one entry of the trail; more are counted. */
const MOST = 200;

const tell = (specimen: CaseSpecimen, row: number): Told => ({
  row: row + 1,
  bits: specimen.bits,
  ...(specimen.printed !== undefined && { printed: specimen.printed }),
  ...(specimen.setAside && { setAside: true }),
});

/** The rows of one side that the other has not, by their whole content, each as often as it stands. */
function lacking(mine: readonly CaseSpecimen[], theirs: readonly CaseSpecimen[]): Map<number, CaseSpecimen> {
  const left = new Map<string, number>();
  const keyOf = ({ bits, printed, setAside, ...rest }: CaseSpecimen) =>
    JSON.stringify([bits, printed ?? null, setAside ?? false, Object.entries(rest).sort()]);
  for (const specimen of theirs) left.set(keyOf(specimen), (left.get(keyOf(specimen)) ?? 0) + 1);
  const rows = new Map<number, CaseSpecimen>();
  mine.forEach((specimen, row) => {
    const key = keyOf(specimen);
    const count = left.get(key) ?? 0;
    if (count > 0) left.set(key, count - 1);
    else rows.set(row, specimen);
  });
  return rows;
}

/** Where the specimens that are compared begin, and how many there are of each side in all. */
interface Part {
  at: number;
  before: number;
  after: number;
}

/** Both sides of a change of specimens. A row that both lack is a changed one: the same bits, or else the same place. */
export function specimenChange(
  before: readonly CaseSpecimen[],
  after: readonly CaseSpecimen[],
  part: Part = { at: 0, before: before.length, after: after.length },
): { before: Side; after: Side } {
  const told = (specimen: CaseSpecimen, row: number) => tell(specimen, row + part.at);
  const gone = lacking(before, after);
  const come = lacking(after, before);
  const pairs: [Told, Told][] = [];
  const pair = (agrees: (from: number, to: number) => boolean) => {
    for (const [from, old] of gone)
      for (const [to, now] of come) {
        if (!agrees(from, to)) continue;
        pairs.push([told(old, from), told(now, to)]);
        gone.delete(from);
        come.delete(to);
        break;
      }
  };
  if (gone.size <= MOST && come.size <= MOST) {
    pair((from, to) => before[from]!.bits === after[to]!.bits);
    pair((from, to) => from === to);
  }
  const side = (specimens: number, changed: Told[], only: Map<number, CaseSpecimen>): Side => ({
    specimens,
    ...(changed.length > 0 && { changed }),
    ...(only.size > 0 && { only: [...only].slice(0, MOST).map(([row, specimen]) => told(specimen, row)) }),
    ...(only.size > MOST && { more: only.size - MOST }),
  });
  return {
    before: side(
      part.before,
      pairs.map(([old]) => old),
      gone,
    ),
    after: side(
      part.after,
      pairs.map(([, now]) => now),
      come,
    ),
  };
}
