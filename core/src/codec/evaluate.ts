/** Evaluate: the inner loop of decoding. It allocates nothing; what it finds goes into an `Evaluation` used again. */
import type { Compiled } from './compile.ts';
import { COMPARE, NEAR, SIDE_BY_SIDE, SUM, SUMS } from './testCode.ts';

/** One read under one layout. */
export class Evaluation {
  /** All values' limbs; each field says which are its own. */
  readonly limbs: Uint32Array;
  /** 1 for each test of the layout that fails. */
  readonly failed: Uint8Array;
  failures = 0;
  /** Room for the words of a read and for what is turned round of them. */
  readonly source: Uint32Array;

  constructor(compiled: Compiled) {
    this.limbs = new Uint32Array(compiled.limbs);
    this.failed = new Uint8Array(compiled.tests.length);
    this.source = new Uint32Array(2 * compiled.turnedWords);
  }
}

/** Cuts out every value and runs every test. `words` are the left-justified words of a read of the layout's length. */
export function evaluate(compiled: Compiled, words: Uint32Array, out: Evaluation): void {
  runTests(compiled.testCode, words, out);
  const { moveCode, turnedWords } = compiled;
  const { limbs } = out;
  const source = turnedWords === 0 ? words : withTurned(words, turnedWords, out.source);
  for (let limb = 0, c = 0; limb < limbs.length; limb++) {
    let value = moveCode[c]!;
    const end = moveCode[c + 1]!;
    for (c += 2; c < end; c += 4)
      value ^= ((source[moveCode[c]!]! >>> moveCode[c + 1]!) & moveCode[c + 2]!) << moveCode[c + 3]!;
    limbs[limb] = value;
  }
}

/** The words of a read, and behind them each of them turned round, its first bit last. */
function withTurned(words: Uint32Array, count: number, into: Uint32Array): Uint32Array {
  for (let k = 0; k < count; k++) {
    let word = words[k]!;
    into[k] = word;
    word = ((word >>> 1) & 0x55555555) | ((word & 0x55555555) << 1);
    word = ((word >>> 2) & 0x33333333) | ((word & 0x33333333) << 2);
    word = ((word >>> 4) & 0x0f0f0f0f) | ((word & 0x0f0f0f0f) << 4);
    word = ((word >>> 8) & 0x00ff00ff) | ((word & 0x00ff00ff) << 8);
    into[count + k] = (word >>> 16) | (word << 16);
  }
  return into;
}

function runTests(code: Int32Array, words: Uint32Array, out: Evaluation): void {
  let failures = 0;
  let test = 0;
  for (let c = 0; c < code.length; test++) {
    const opcode = code[c++]!;
    let count = code[c++]!;
    let wrong = 0;
    if (opcode === NEAR) {
      for (; count > 0; count--, c += 5) {
        let sum = (words[code[c + 1]!]! & code[c + 2]!) ^ (words[code[c + 3]!]! & code[c + 4]!);
        sum ^= sum >>> 16;
        sum ^= sum >>> 8;
        sum ^= sum >>> 4;
        wrong |= ((0x6996 >>> (sum & 15)) & 1) ^ code[c]!;
      }
    } else if (opcode === COMPARE) {
      for (; count > 0; count--, c += 3) wrong |= (words[code[c]!]! & code[c + 1]!) ^ code[c + 2]!;
      wrong = wrong === 0 ? 0 : 1;
    } else if (opcode === SIDE_BY_SIDE) {
      for (; count > 0; count--, c += 6) {
        const from = code[c + 2]!;
        // The bits of the chunk from its first, in two words or in one; a shift by 32 would be none.
        const chunk = (words[code[c]!]! << from) | ((words[code[c + 1]!]! >>> 1) >>> (31 - from));
        let sums = chunk;
        for (let k = code[c + 3]!; k > 0; k--) sums ^= chunk << k;
        wrong |= (sums & code[c + 4]!) ^ code[c + 5]!;
      }
      wrong = wrong === 0 ? 0 : 1;
    } else if (opcode === SUM) {
      wrong = sumFails(code, c, count, words);
      c += 3 + code[c]! + code[c + 2]!;
    } else {
      for (; count > 0; count--) {
        const constant = code[c++]!;
        let terms = code[c++]!;
        let sum = 0;
        for (; terms > 0; terms--, c += 2) sum ^= words[code[c]!]! & code[c + 1]!;
        sum ^= sum >>> 16;
        sum ^= sum >>> 8;
        sum ^= sum >>> 4;
        wrong |= ((0x6996 >>> (sum & 15)) & 1) ^ constant;
      }
    }
    out.failed[test] = wrong;
    failures += wrong;
  }
  out.failures = failures;
}

/** 1 where a sum is not what stands in its own bits; `c` at its width, as `sumCode` writes it. */
function sumFails(code: Int32Array, c: number, which: number, words: Uint32Array): 0 | 1 {
  const [width, flip, covered] = [code[c]!, code[c + 1]!, code[c + 2]!];
  const from = c + 3;
  const bit = (k: number) => ((words[code[from + k]! >>> 5]! >>> (31 - (code[from + k]! & 31))) & 1) ^ flip;
  let own = 0;
  for (let k = covered; k < covered + width; k++) own = own * 2 + bit(k);
  let sum = 0;
  for (let at = 0; at < covered; at += width) {
    let group = 0;
    for (let k = at; k < at + width; k++) group = group * 2 + bit(k);
    if (which !== SUMS.mod10) sum += group;
    else if (group > 9) return 1;
    // The last digit, and every second one before it, is doubled.
    else if (((covered - at) / width) % 2 === 1) sum += group > 4 ? 2 * group - 9 : 2 * group;
    else sum += group;
  }
  const modulus = which === SUMS.mod10 ? 10 : 2 ** width;
  const rest = sum % modulus;
  return own === (which === SUMS.plain ? rest : (modulus - rest) % modulus) ? 0 : 1;
}
