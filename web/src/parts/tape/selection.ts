/** Selecting on the tape, without a view: a fixed end, a moving end, and what keys do to them. */

export interface Selection {
  anchor: number;
  focus: number;
}

/** First and last selected position, rising. */
export const boundsOf = ({ anchor, focus }: Selection): [number, number] => [
  Math.min(anchor, focus),
  Math.max(anchor, focus),
];

/**
 * What a key does: arrows move, Home and End go to the ends of the tape, Shift keeps the fixed end. Undefined for keys
 * that do nothing here. `perLine` is how far up and down go.
 */
export function afterKey(
  selection: Selection | null,
  key: string,
  shift: boolean,
  length: number,
  perLine: number,
): Selection | null | undefined {
  if (key === 'Escape') return selection ? null : undefined;
  const steps: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -perLine, ArrowDown: perLine };
  const clamp = (p: number) => Math.min(Math.max(p, 1), length);
  let focus: number;
  if (key === 'Home') focus = 1;
  else if (key === 'End') focus = length;
  else if (key in steps)
    focus = selection ? clamp(selection.focus + steps[key]!) : key === 'ArrowLeft' || key === 'ArrowUp' ? length : 1;
  else return undefined;
  return { anchor: shift && selection ? selection.anchor : focus, focus };
}

/** What is copied. */
export type CopyAs = 'binary' | 'hex' | 'decimal';

/** A position as the ruler shows it, counted from the first bit or from the last. */
export const counted = (position: number, length: number, from: 'first' | 'last'): number =>
  from === 'first' ? position : length + 1 - position;
