/**
 * What is wrong, or worth knowing, about a layout: overlaps, positions past the end, parity that depends on itself,
 * widths that do not suit how a value is written. A layout with an `error` cannot be encoded or decoded.
 */
import type { Failure } from '../failure/index.ts';
import { failureOf, RawBitsError } from '../failure/index.ts';
import {
  type CheckMethod,
  checkGroup,
  checkWidth,
  digitWidth,
  type Layout,
  labelOf,
  nameOf,
  type Span,
} from './definition.ts';
import { expandRange, parseRange, positionsOf, rangeOf } from './range.ts';

export interface Problem extends Failure {
  /** An error makes the layout unusable; a note is only worth knowing. */
  severity: 'error' | 'note';
  /** The index in `spans` of the span at fault. */
  span?: number;
}

/** All problems of a layout, errors first. */
export function problemsOf(layout: Layout): Problem[] {
  const problems: Problem[] = [];
  const report = (severity: 'error' | 'note', code: string, message: string, span?: number, positions?: number[]) =>
    problems.push({
      severity,
      code,
      message,
      span,
      where: { field: span === undefined ? 'bits' : `spans.${span}`, positions },
    });
  const taken = new Map<number, number>();
  const seen = new Set<string>();

  layout.spans.forEach((span, index) => {
    const at = readPositions(span.at, layout, index, 'at', problems);
    if (!at) return;
    for (const p of at) {
      const other = taken.get(p);
      if (other !== undefined)
        report(
          'error',
          'overlap',
          `Bit ${p} belongs to both ${nameOf(layout.spans[other]!)} and ${nameOf(span)}.`,
          index,
          [p],
        );
      taken.set(p, index);
    }
    const label = labelOf(span);
    if (label !== undefined) {
      if (seen.has(label)) report('error', 'twice', `${nameOf(span)} stands more than once.`, index);
      seen.add(label);
    }
    for (const [code, message] of widthProblems(span, at.length)) report('error', code, message, index);
    if (span.role === 'parity' || span.role === 'check') {
      const covers = readPositions(span.covers, layout, index, 'covers', problems);
      const own = covers?.filter((p) => at.includes(p)) ?? [];
      if (own.length > 0)
        report('error', 'covers-itself', `${nameOf(span)} covers itself at ${rangeOf(own)}.`, index, own);
      if (covers && span.role === 'check') {
        for (const [code, message] of coverProblems(span, covers.length)) report('error', code, message, index);
      }
    }
  });

  if (layout.arrives.reverseBytes && layout.bits % 8 !== 0)
    report('error', 'not-whole', `${layout.bits} bits are not whole bytes, so the bytes cannot arrive reversed.`);
  if (layout.facility !== undefined && seen.has('facility'))
    report('error', 'twice', 'The facility code is both in the bits and given beside them.');
  if (layout.print && !seen.has('number'))
    report('error', 'print-number', 'What is printed is said, and the format has no number.');
  if (layout.print?.joined && !seen.has('facility') && layout.facility === undefined)
    report(
      'error',
      'print-facility',
      'Facility code and number are printed as one, and the format has no facility code.',
    );
  if (!problems.some((p) => p.severity === 'error')) {
    const { cycle } = fillOrder(layout);
    if (cycle.length > 0)
      report(
        'error',
        'cycle',
        `${cycle.map((i) => nameOf(layout.spans[i]!)).join(' and ')} depend on one another.`,
        cycle[0],
      );
  }
  const spare: number[] = [];
  for (let p = 1; p <= layout.bits; p++) if (!taken.has(p)) spare.push(p);
  if (spare.length > 0)
    report(
      'note',
      'spare',
      `No span claims ${spare.length === 1 ? 'bit' : 'bits'} ${rangeOf(spare)}.`,
      undefined,
      spare,
    );
  return problems.sort((a, b) => Number(a.severity === 'note') - Number(b.severity === 'note'));
}

const firstError = (layout: Layout): Problem | undefined =>
  problemsOf(layout).find((problem) => problem.severity === 'error');

/** Throws the first error of a layout as a failure; returns when there is none. */
export function assertSound(layout: Layout): void {
  const error = firstError(layout);
  if (error) throw new RawBitsError(error);
}

const soundLayouts = new WeakMap<Layout, boolean>();

/** Whether a layout can be encoded and decoded; worked out once for each layout object. */
export function isSound(layout: Layout): boolean {
  let sound = soundLayouts.get(layout);
  if (sound === undefined) soundLayouts.set(layout, (sound = firstError(layout) === undefined));
  return sound;
}

function readPositions(
  text: string,
  layout: Layout,
  span: number,
  field: string,
  problems: Problem[],
): number[] | undefined {
  const where = { field: `spans.${span}.${field}` };
  let positions: number[];
  try {
    positions = expandRange(parseRange(text));
  } catch (error) {
    problems.push({ ...failureOf(error), severity: 'error', span, where });
    return undefined;
  }
  const name = nameOf(layout.spans[span]!);
  const past = positions.filter((p) => p > layout.bits);
  if (past.length > 0) {
    problems.push({
      severity: 'error',
      code: 'past-end',
      message: `${name} goes to bit ${Math.max(...past)}, but the format has ${layout.bits} bits.`,
      span,
      where: { ...where, positions: past },
    });
    return undefined;
  }
  const twice = positions.filter((p, i) => positions.indexOf(p) !== i);
  if (twice.length > 0) {
    problems.push({
      severity: 'error',
      code: 'position-twice',
      message: `${name} lists bit ${twice[0]} more than once.`,
      span,
      where: { ...where, positions: twice },
    });
    return undefined;
  }
  return positions;
}

/** How the width of a span disagrees with what it holds. */
function widthProblems(span: Span, width: number): [string, string][] {
  const name = nameOf(span);
  if (span.role === 'parity' && width !== 1) return [['width', `A parity bit is one bit, not ${width}.`]];
  if (span.role === 'fixed' && span.bits.length !== width)
    return [['width', `${name} has ${width} positions but ${span.bits.length} fixed bits.`]];
  if (span.role === 'check') {
    const wants = checkWidth(span.method);
    const wrong: [string, string][] =
      width === wants ? [] : [['width', `${name} has ${width} positions but its check has ${wants} bits.`]];
    return [...wrong, ...wideParameters(span.method)];
  }
  if (!('written' in span) || !span.written) return [];
  const unit = digitWidth(span.written);
  return width % unit === 0
    ? []
    : [['width', `${name} is written in ${span.written}, ${unit} bits a digit, but has ${width} bits.`]];
}

/** Parameters of a CRC that have more bits than it has. */
function wideParameters(method: CheckMethod): [string, string][] {
  if (method.kind !== 'crc') return [];
  return (['poly', 'init', 'xorOut'] as const)
    .filter((key) => BigInt(`0x${method[key]}`) >> BigInt(method.width) !== 0n)
    .map((key) => ['crc-wide', `${key}=${method[key]} has more bits than the ${method.width} of the CRC.`]);
}

function coverProblems(span: Extract<Span, { role: 'check' }>, count: number): [string, string][] {
  const unit = checkGroup(span.method);
  return count % unit === 0
    ? []
    : [['groups', `${nameOf(span)} covers ${count} bits, which are not whole groups of ${unit}.`]];
}

/**
 * The order in which parity and check spans can be filled, each after all that it covers, as indices of `spans`; and
 * those that cannot be filled because they wait for one another.
 */
export function fillOrder(layout: Layout): { order: number[]; cycle: number[] } {
  const sums = layout.spans.flatMap((span, index) =>
    span.role === 'parity' || span.role === 'check' ? [{ span, index }] : [],
  );
  const ownerOf = new Map<number, number>();
  for (const { span, index } of sums) for (const p of positionsOf(span.at)) ownerOf.set(p, index);
  const needs = new Map<number, Set<number>>();
  for (const { span, index } of sums)
    needs.set(index, new Set(positionsOf(span.covers).flatMap((p) => ownerOf.get(p) ?? [])));
  const order = peel(needs, (index, left) => [...needs.get(index)!].every((n) => !left.has(n)));
  const stuck = new Set([...needs.keys()].filter((index) => !order.includes(index)));
  const followers = peel(stuck, (index, left) => ![...left].some((other) => needs.get(other)!.has(index)));
  return { order, cycle: [...stuck].filter((index) => !followers.includes(index)) };
}

/** Takes away, again and again, what is ready while the rest is left; in the order in which it went. */
function peel(
  all: Iterable<number> | Map<number, unknown>,
  ready: (index: number, left: Set<number>) => boolean,
): number[] {
  const left = new Set<number>(all instanceof Map ? all.keys() : all);
  const gone: number[] = [];
  for (let before = -1; before !== left.size; ) {
    before = left.size;
    for (const index of [...left]) {
      if (!ready(index, left)) continue;
      left.delete(index);
      gone.push(index);
    }
  }
  return gone;
}
