/**
 * Compile: a layout turned into the few numbers that decoding needs, in the order in which the bits arrive. How the
 * bits arrive is folded into the positions here once, so that nothing has to be moved when a read comes in.
 *
 * Parity, exclusive-or sums, LRC and CRC are all affine over GF(2): each of their bits is the exclusive or of some bits
 * of the read and a constant. So every such check becomes a list of equations, "the exclusive or of these bits is c". Additive sums and
 * the modulo-10 digit are not: they are worked out from their bits.
 */
import { Bits } from '../bits/index.ts';
import { additiveSum, crc, lrc5, mod10, xorSum } from '../check/index.ts';
import {
  arrivalOf,
  assertSound,
  type CheckMethod,
  checkWidth,
  isLinear,
  type Layout,
  labelOf,
  positionsOf,
  type Span,
} from '../format/index.ts';
import { compareCode, type Equation, parityCode, sideBySideCode, sumCode } from './testCode.ts';

/** What a read is tested for: it holds when all of its equations do. */
export interface Test {
  kind: 'parity' | 'check' | 'fixed' | 'characters';
  /** The index of its span in the layout. */
  span: number;
}

/** A value to cut out. */
export interface Field {
  label: string;
  written: 'binary' | 'decimal digits';
  /** The index of its span in the layout. */
  span: number;
  /** Its limbs of 32 bits in an evaluation, the least significant first. */
  firstLimb: number;
  limbs: number;
}

export interface Compiled {
  layout: Layout;
  fields: Field[];
  tests: Test[];
  limbs: number;
  /** The tests as one flat program, test after test; `evaluate` says how it reads. */
  testCode: Int32Array;
  /**
   * What gathers the values, limb after limb: what the limb is exclusive-ored with (all ones where the bits arrive
   * inverted), where its moves end in this code, and four numbers a move: word, shift right, mask, shift left.
   */
  moveCode: Int32Array;
  /** How many words of the read are needed turned round, their first bit last; none where no move asks for one. */
  turnedWords: number;
}

/** A read in the format's own order: what `arrives` did is undone (or done, it is its own inverse). */
export function ownOrder(bits: Bits, layout: Pick<Layout, 'bits' | 'arrives'>): Bits {
  const { invert } = layout.arrives;
  return Bits.build(bits.length, (p) => bits.at(arrivalOf(p, layout)) !== (invert ? 1 : 0));
}

/** Compiles a layout; throws its first error when it has one. */
export function compile(layout: Layout): Compiled {
  assertSound(layout);
  const fields: Field[] = [];
  const tests: Test[] = [];
  const testCode: number[] = [];
  const moveCode: number[] = [];
  let limbs = 0;
  let isTurned = false;
  const addTest = (kind: Test['kind'], span: number, equations: Equation[]) => {
    tests.push({ kind, span });
    if (kind === 'fixed') testCode.push(...compareCode(equations));
    else testCode.push(...(sideBySideCode(equations) ?? parityCode(equations)));
  };
  layout.spans.forEach((span, index) => {
    const label = labelOf(span);
    const at = positionsOf(span.at);
    if (span.role === 'check' && !isLinear(span.method)) {
      tests.push({ kind: 'check', span: index });
      testCode.push(...sumCode(span, at, layout));
      return;
    }
    if (label === undefined) {
      addTest(kindOf(span), index, equationsOf(span, at, layout));
      return;
    }
    const written = 'written' in span ? span.written : undefined;
    const bits = written === 'char5' ? digitBits(at) : written === 'bcd-low' ? highestFirst(at) : at;
    const count = (bits.length + 31) >>> 5;
    fields.push({
      label,
      written: written ? 'decimal digits' : 'binary',
      span: index,
      firstLimb: limbs,
      limbs: count,
    });
    limbs += count;
    const moves = movesOf(bits, layout);
    isTurned ||= moves.some(({ word }) => word >= wordsOf(layout));
    for (let k = 0; k < count; k++) {
      const own = moves.filter(({ limb }) => limb === k);
      const width = Math.min(32, bits.length - k * 32);
      moveCode.push(layout.arrives.invert ? ones(width) : 0, moveCode.length + 2 + 4 * own.length);
      for (const { word, right, mask, left } of own) moveCode.push(word, right, mask, left);
    }
    if (written === 'char5') addTest('characters', index, characterParity(at, layout));
  });
  return {
    layout,
    fields,
    tests,
    limbs,
    turnedWords: isTurned ? wordsOf(layout) : 0,
    testCode: Int32Array.from(testCode),
    moveCode: Int32Array.from(moveCode),
  };
}

/** Every equation that a full fit meets, over the bits as they arrive. Decimal digits above 9 and additive sums are no equation. */
export function testEquations(layout: Layout): Equation[] {
  return layout.spans.flatMap((span) => {
    const at = positionsOf(span.at);
    if (labelOf(span) === undefined) return equationsOf(span, at, layout);
    return 'written' in span && span.written === 'char5' ? characterParity(at, layout) : [];
  });
}

const ones = (width: number): number => (width === 32 ? -1 : (1 << width) - 1);

function kindOf(span: Span): Test['kind'] {
  return span.role === 'parity' || span.role === 'check' ? span.role : 'fixed';
}

/** The bits of decimal digits that stand lowest first, with the highest digit first. */
export const highestFirst = (at: readonly number[]): number[] =>
  at.map((_, i) => at[at.length - 4 - (i - (i % 4)) + (i % 4)]!);

/** The data bits of 5-bit characters, each character's most significant first. */
function digitBits(at: number[]): number[] {
  const bits: number[] = [];
  for (let i = 0; i < at.length; i += 5) bits.push(at[i + 3]!, at[i + 2]!, at[i + 1]!, at[i]!);
  return bits;
}

function characterParity(at: number[], layout: Layout): Equation[] {
  const equations: Equation[] = [];
  for (let i = 0; i < at.length; i += 5) equations.push(equation(at.slice(i, i + 5), 1, layout));
  return equations;
}

/** The equation that these positions of the format's own order exclusive-or to `constant`. */
function equation(positions: Iterable<number>, constant: number, layout: Layout): Equation {
  const mask = new Uint32Array((layout.bits + 31) >>> 5);
  let sum = constant & 1;
  for (const position of positions) {
    const i = arrivalOf(position, layout) - 1;
    mask[i >>> 5]! ^= 0x80000000 >>> (i & 31);
    if (layout.arrives.invert) sum ^= 1;
  }
  return { mask, constant: sum as 0 | 1 };
}

function equationsOf(span: Span, at: number[], layout: Layout): Equation[] {
  if (span.role === 'fixed') return at.map((p, i) => equation([p], Number(span.bits[i]), layout));
  if (span.role === 'parity')
    return [equation([...positionsOf(span.covers), ...at], span.sense === 'odd' ? 1 : 0, layout)];
  if (span.role === 'check' && isLinear(span.method)) {
    const covers = positionsOf(span.covers);
    return linearOf(span.method, covers.length).map(({ of, constant }, i) =>
      equation([...of.map((k) => covers[k]!), at[i]!], constant, layout),
    );
  }
  return [];
}

/** Each bit of a check over `length` bits, first bit first: which covered bits (0-based) it sums, and the constant. */
function linearOf(method: CheckMethod, length: number): { of: number[]; constant: number }[] {
  const width = checkWidth(method);
  const result = (bits: Bits) => Bits.fromBigInt(checkValue(method, bits), width);
  const none = result(Bits.build(length, () => 0));
  const rows = Array.from({ length: width }, (_, i) => ({ of: [] as number[], constant: none.at(i + 1) as number }));
  for (let k = 0; k < length; k++) {
    const changed = result(Bits.build(length, (p) => p === k + 1)).xor(none);
    for (let i = 0; i < width; i++) if (changed.at(i + 1)) rows[i]!.of.push(k);
  }
  return rows;
}

/** The value of a check over the covered bits, as a number whose top bit is the check's first position. */
export function checkValue(method: CheckMethod, covered: Bits): bigint {
  if (method.kind === 'xor') return xorSum(covered, method.width);
  if (method.kind === 'lrc5') return lrc5(covered);
  if (method.kind === 'sum') return additiveSum(covered, method.width, method.negated);
  if (method.kind === 'mod10') return mod10(covered);
  const hex = (digits: string) => BigInt(`0x${digits}`);
  const { width, reflectIn, reflectOut } = method;
  return crc(covered, {
    width,
    reflectIn,
    reflectOut,
    poly: hex(method.poly),
    init: hex(method.init),
    xorOut: hex(method.xorOut),
  });
}

interface Move {
  word: number;
  right: number;
  mask: number;
  left: number;
  limb: number;
}

/**
 * What gathers bits of the format's own order (most significant first) into limbs: a run of the read at a time, rising, or
 * falling where digits or all bits stand lowest first. A falling run rises in the word turned round, which stands `words`
 * further on.
 */
function movesOf(bits: number[], layout: Layout): Move[] {
  const words = wordsOf(layout);
  const width = bits.length;
  const moves: Move[] = [];
  const arrival = bits.map((p) => arrivalOf(p, layout) - 1);
  const limbAt = (k: number) => (width - 1 - k) >>> 5;
  const runFrom = (i: number, step: 1 | -1) => {
    let end = i + 1;
    const follows = (k: number) =>
      arrival[k] === arrival[k - 1]! + step && arrival[k]! >>> 5 === arrival[i]! >>> 5 && limbAt(k) === limbAt(i);
    while (end < width && follows(end)) end++;
    return end;
  };
  for (let i = 0; i < width; ) {
    const [rising, falling] = [runFrom(i, 1), runFrom(i, -1)];
    const isRising = rising >= falling;
    const end = isRising ? rising : falling;
    const last = arrival[end - 1]! & 31;
    moves.push({
      word: (arrival[i]! >>> 5) + (isRising ? 0 : words),
      right: isRising ? 31 - last : last,
      mask: ones(end - i),
      left: (width - end) & 31,
      limb: limbAt(i),
    });
    i = end;
  }
  return moves;
}

const wordsOf = ({ bits }: Pick<Layout, 'bits'>): number => (bits + 31) >>> 5;
