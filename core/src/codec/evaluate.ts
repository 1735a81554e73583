/** Evaluate: the inner loop of decoding. It allocates nothing; what it finds goes into an `Evaluation` used again. */
import { COMPARE, type Compiled, SUM, SUMS } from './compile.ts';

/** One read under one layout. */
export class Evaluation {
  /** All values' limbs; each field says which are its own. */
  readonly limbs: Uint32Array;
  /** 1 for each test of the layout that fails. */
  readonly failed: Uint8Array;
  failures = 0;

  constructor(compiled: Compiled) {
    this.limbs = new Uint32Array(compiled.limbs);
    this.failed = new Uint8Array(compiled.tests.length);
  }
}

/** Cuts out every value and runs every test. `words` are the left-justified words of a read of the layout's length. */
export function evaluate(compiled: Compiled, words: Uint32Array, out: Evaluation): void {
  runTests(compiled.testCode, words, out);
  const { moveCode, limbFlips } = compiled;
  const { limbs } = out;
  for (let k = 0; k < limbs.length; k++) limbs[k] = limbFlips[k]!;
  for (let m = 0; m < moveCode.length; m += 5) {
    const piece = (words[moveCode[m]!]! >>> moveCode[m + 1]!) & moveCode[m + 2]!;
    limbs[moveCode[m + 4]!]! ^= piece << moveCode[m + 3]!;
  }
}

function runTests(code: Int32Array, words: Uint32Array, out: Evaluation): void {
  let failures = 0;
  let test = 0;
  for (let c = 0; c < code.length; test++) {
    const opcode = code[c++]!;
    let count = code[c++]!;
    let wrong = 0;
    if (opcode === COMPARE) {
      for (; count > 0; count--, c += 3) wrong |= (words[code[c]!]! & code[c + 1]!) ^ code[c + 2]!;
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
