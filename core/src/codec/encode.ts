/** Encode: the exact bits that a credential with given values delivers. Parity and checks are filled in their order. */
import { Bits } from '../bits/index.ts';
import { parityBit } from '../check/index.ts';
import { fail } from '../failure/index.ts';
import { assertSound, digitWidth, fillOrder, type Layout, labelOf, positionsOf, type Span } from '../format/index.ts';
import { checkValue, ownOrder } from './compile.ts';

interface Plan {
  labels: string[];
  at: number[][];
  covers: (number[] | undefined)[];
  order: number[];
}

const plans = new WeakMap<Layout, Plan>();

/** What encoding needs of a layout, worked out once for each layout object. Throws the layout's first error. */
function planOf(layout: Layout): Plan {
  let plan = plans.get(layout);
  if (!plan) {
    assertSound(layout);
    plan = {
      labels: layout.spans.flatMap((span) => labelOf(span) ?? []),
      at: layout.spans.map((span) => positionsOf(span.at)),
      covers: layout.spans.map((span) => ('covers' in span ? positionsOf(span.covers) : undefined)),
      order: fillOrder(layout).order,
    };
    plans.set(layout, plan);
  }
  return plan;
}

/**
 * Encodes values (decimal numbers by label) into bits as they arrive. Every value of the layout must be given; bits
 * that no span claims become 0. Throws `value-missing`, `value-unknown`, `value-digits`, `value-range`,
 * `value-facility` (another facility code than the one that belongs to the format), or the layout's first error.
 */
export function encode(layout: Layout, values: Record<string, string>): Bits {
  const plan = planOf(layout);
  const bits = new Array<number>(layout.bits + 1).fill(0);
  const put = (positions: number[], value: Bits) => {
    positions.forEach((p, i) => {
      bits[p] = value.at(i + 1);
    });
  };
  checkLabels(layout, plan.labels, values);
  layout.spans.forEach((span, index) => {
    const label = labelOf(span);
    if (span.role === 'fixed') put(plan.at[index]!, Bits.fromBinary(span.bits));
    else if (label !== undefined) put(plan.at[index]!, valueBits(span, label, values[label]));
  });
  for (const index of plan.order) {
    const span = layout.spans[index]!;
    const at = plan.at[index]!;
    const covers = plan.covers[index]!;
    if (span.role === 'parity') {
      const ones = covers.reduce((sum, p) => sum + bits[p]!, 0);
      bits[at[0]!] = parityBit(ones, span.sense);
    } else if (span.role === 'check') {
      const covered = Bits.build(covers.length, (p) => bits[covers[p - 1]!]!);
      put(at, Bits.fromBigInt(checkValue(span.method, covered), at.length));
    }
  }
  return ownOrder(
    Bits.build(layout.bits, (p) => bits[p]!),
    layout,
  );
}

function checkLabels(layout: Layout, labels: string[], values: Record<string, string>): void {
  for (const given of Object.keys(values)) {
    if (labels.includes(given)) continue;
    const where = { field: `values.${given}` };
    if (given !== 'facility' || layout.facility === undefined)
      fail('value-unknown', `The format has no value "${given}".`, where, `It has ${labels.join(', ') || 'none'}.`);
    if (!/^\d+$/.test(values.facility!) || BigInt(values.facility!) !== BigInt(layout.facility))
      fail('value-facility', `This format's facility code is always ${layout.facility}.`, where, 'Leave it out.');
  }
}

/** The greatest value that a span can hold. */
export function greatestOf(span: Span): bigint {
  const width = positionsOf(span.at).length;
  const written = 'written' in span ? span.written : undefined;
  if (written) return 10n ** BigInt(width / digitWidth(written)) - 1n;
  return (1n << BigInt(width)) - 1n;
}

function valueBits(span: Span, label: string, text: string | undefined): Bits {
  const where = { field: `values.${label}` };
  if (text === undefined) return fail('value-missing', `The value "${label}" is missing.`, where);
  if (typeof text !== 'string' || !/^\d{1,200}$/.test(text))
    fail('value-digits', `"${text}" is not a decimal number.`, where, 'Write digits only.');
  const value = BigInt(text);
  const greatest = greatestOf(span);
  if (value > greatest) fail('value-range', `${label} ${text} is above ${greatest}, the greatest that fits.`, where);
  const width = positionsOf(span.at).length;
  const written = 'written' in span ? span.written : undefined;
  if (!written) return Bits.fromBigInt(value, width);
  const digits = [...value.toString().padStart(width / digitWidth(written), '0')];
  if (written === 'bcd-low') digits.reverse();
  return Bits.fromBinary(digits.map(written === 'char5' ? character : nibble).join(''));
}

const nibble = (digit: string): string => Number(digit).toString(2).padStart(4, '0');

/** A digit as a 5-bit character: four data bits, least significant first, and odd parity. ISO/IEC 7811-2. */
export function character(digit: string): string {
  const data = [...nibble(digit)].reverse();
  return [...data, parityBit(data.filter((d) => d === '1').length, 'odd')].join('');
}
