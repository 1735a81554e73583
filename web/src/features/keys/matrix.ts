/** Who holds what, as a table: keys down, holders across; and what some of the holders know together. */
import type { KeyHolding, KeySet } from '@rawbits/api';
import { type Known, knownTo } from '@rawbits/core/key';

export interface MatrixRow {
  keyId: string;
  version: number;
  name: string;
  /** Whether this version is the one in use. */
  inUse: boolean;
  parts: number;
  cards: number;
  /** By holder: what they hold of it, newest first; those that ended last. */
  cells: Map<string, KeyHolding[]>;
}
export interface Holder {
  /** Its kind and identifier or name, as one text. */
  id: string;
  kind: KeyHolding['kind'];
  name: string;
}
export interface Matrix {
  holders: Holder[];
  rows: MatrixRow[];
}

const ORDER: KeyHolding['kind'][] = ['person', 'reader', 'partner', 'plan'];
export const holderIdOf = ({ kind, holderId, holder }: KeyHolding): string => `${kind} ${holderId || holder}`;

export function matrixOf(sets: readonly KeySet[], holdings: readonly KeyHolding[]): Matrix {
  const holders = new Map<string, Holder>();
  for (const holding of holdings)
    holders.set(holderIdOf(holding), { id: holderIdOf(holding), kind: holding.kind, name: holding.holder });
  const rows = sets.flatMap((set) =>
    set.keys.flatMap((key) =>
      key.versions
        .filter(({ state }) => state !== 'destroyed')
        .map((version): MatrixRow => {
          const own = holdings.filter((h) => h.keyId === key.id && h.version === version.version);
          const cells = new Map<string, KeyHolding[]>();
          for (const holding of own.toReversed()) {
            const id = holderIdOf(holding);
            cells.set(id, [...(cells.get(id) ?? []), holding]);
          }
          for (const list of cells.values()) list.sort((a, b) => Number(a.until !== null) - Number(b.until !== null));
          const { version: number, parts, cards } = version;
          const name = `${set.name} / ${key.name}`;
          return { keyId: key.id, version: number, name, inUse: key.current === number, parts, cards, cells };
        }),
    ),
  );
  const sorted = [...holders.values()].sort(
    (a, b) => ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind) || a.name.localeCompare(b.name),
  );
  return { holders: sorted, rows };
}

/** What stands in a cell: `whole`, `part`, `was` where it ended. */
export function markOf(cell: readonly KeyHolding[] | undefined): 'whole' | 'part' | 'was' | undefined {
  if (!cell || cell.length === 0) return undefined;
  // A key that somebody saw is known to them for good; a reader or partner can have given it up.
  const now = cell.filter(({ until, kind }) => until === null || kind === 'person');
  if (now.length === 0) return 'was';
  return now.some(({ what }) => what === 'whole') ? 'whole' : 'part';
}

export interface Leak {
  row: MatrixRow;
  how: Known['how'];
  /** What has to be done, then: who else has this version and needs another. */
  readers: string[];
  partners: string[];
}

/** Where a leak at these holders would reach, and who has to be given another version then. */
export function leakAt({ rows, holders }: Matrix, chosen: ReadonlySet<string>): Leak[] {
  const holdings = rows.flatMap(({ keyId, version, cells }) =>
    [...cells].flatMap(([holder, list]) => {
      const mark = markOf(list);
      return mark === 'whole' || mark === 'part' ? [{ keyId, version, holder, what: mark }] : [];
    }),
  );
  const partsOf = (keyId: string, version: number) =>
    rows.find((row) => row.keyId === keyId && row.version === version)?.parts ?? 0;
  return knownTo(chosen, holdings, partsOf).map(({ keyId, version, how }) => {
    const row = rows.find((r) => r.keyId === keyId && r.version === version)!;
    const having = (kind: KeyHolding['kind']) =>
      holders.filter((one) => one.kind === kind && markOf(row.cells.get(one.id)) === 'whole').map(({ name }) => name);
    return { row, how, readers: having('reader'), partners: having('partner') };
  });
}
