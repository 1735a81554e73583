/** Capacity: how many facility codes, numbers and cards a format can tell apart. */
import { type Layout, labelOf } from '../format/index.ts';
import { greatestOf } from './encode.ts';

export interface Capacity {
  /** Undefined where no bit carries it. */
  facilityCodes?: bigint;
  numbers?: bigint;
  issues?: bigint;
  /** Cards that differ in facility code or number; issue levels and other values are not counted. */
  cards: bigint;
  /** Cards that differ in anything that the format names. */
  strings: bigint;
}

export function capacityOf(layout: Layout): Capacity {
  const of = (role: string): bigint | undefined => {
    const span = layout.spans.find((s) => s.role === role);
    return span && greatestOf(span) + 1n;
  };
  const [facilityCodes, numbers, issues] = [of('facility'), of('number'), of('issue')];
  const strings = layout.spans.reduce(
    (product, span) => (labelOf(span) === undefined ? product : product * (greatestOf(span) + 1n)),
    1n,
  );
  return { facilityCodes, numbers, issues, cards: (facilityCodes ?? 1n) * (numbers ?? 1n), strings };
}
