/**
 * Identify. The exact part (elimination, every number bit's effect, 32 predictions) beside plain Gaussian elimination
 * on BigInts that answers the same, and beside z3-solver answering one of its questions; then the whole answer, with
 * number search, tie-breaker and suspects.
 */
import { Bits } from '@rawbits/core/bits';
import { CATALOGUE } from '@rawbits/core/catalogue';
import { Hull, identify } from '@rawbits/core/identify';
import { init } from 'z3-solver';
import { randomSource } from './random.ts';
import { rounds } from './rounds.ts';

const random = randomSource(4310);
const word = (bits: number): bigint =>
  BigInt(`0b${Array.from({ length: bits }, () => (random() < 0.5 ? '0' : '1')).join('')}`);

interface Case {
  width: number;
  length: number;
  numbers: bigint[];
  reads: Bits[];
  asked: bigint[];
}

/** Cards of a random format: every bit of the read is a random exclusive or of number bits and a constant. */
function randomCase(count: number, length: number, width: number): Case {
  const columns = Array.from({ length: width }, () => word(length));
  const constant = word(length);
  const bitsOf = (n: bigint) =>
    Bits.fromBigInt(
      columns.reduce((sum, c, k) => ((n >> BigInt(k)) & 1n ? sum ^ c : sum), constant),
      length,
    );
  const numbers = [...new Set(Array.from({ length: count }, () => word(width)))];
  const pick = () => numbers[Math.floor(random() * numbers.length)]!;
  const asked = Array.from({ length: 32 }, (_, i) => (i % 2 ? word(width) : pick() ^ pick() ^ pick()));
  return { width, length, numbers, reads: numbers.map(bitsOf), asked };
}

let sink = 0;

function ours({ width, length, numbers, reads, asked }: Case): number {
  const hull = new Hull(width, length, numbers.length);
  numbers.forEach((n, i) => {
    hull.add(n, reads[i]!);
  });
  for (let k = 0; k < width; k++) sink ^= hull.effectOf(k) ? 1 : 0;
  for (const n of asked) sink ^= hull.predict(n)?.from.length ?? 0;
  return 1;
}

/** The textbook: rows of number, read and who they are made of, eliminated column by column. */
function plainly({ width, length, numbers, reads, asked }: Case): number {
  const count = BigInt(numbers.length);
  const [L, one] = [BigInt(length), 1n];
  const head = L + count;
  const top = head + BigInt(width);
  const rows = numbers.map((n, i) => (one << top) | (n << head) | (reads[i]!.toBigInt() << count) | (one << BigInt(i)));
  const pivots: { column: bigint; row: bigint }[] = [];
  let from = 0;
  for (let column = top; column >= head; column--) {
    const at = rows.findIndex((row, i) => i >= from && ((row >> column) & one) === one);
    if (at < 0) continue;
    [rows[from], rows[at]] = [rows[at]!, rows[from]!];
    const pivot = rows[from]!;
    for (let i = from + 1; i < rows.length; i++) if (((rows[i]! >> column) & one) === one) rows[i] = rows[i]! ^ pivot;
    pivots.push({ column, row: pivot });
    from++;
  }
  for (let i = from; i < rows.length; i++) if (rows[i]! >> count !== 0n) sink++;
  const reduce = (value: bigint) => {
    let rest = value;
    for (const { column, row } of pivots) if (((rest >> column) & one) === one) rest ^= row;
    return rest;
  };
  // The same answers as ours: the bits that turn, or the bits of the number and the specimens that they follow from.
  const [readMask, madeMask] = [(one << L) - one, (one << count) - one];
  const answer = (value: bigint) => {
    const rest = reduce(value);
    return rest >> head === 0n ? { bits: (rest >> count) & readMask, from: rest & madeMask } : undefined;
  };
  for (let k = 0; k < width; k++) sink ^= answer(one << (head + BigInt(k))) ? 1 : 0;
  for (const n of asked) sink ^= answer((one << top) | (n << head)) ? 1 : 0;
  return 1;
}

for (const [count, length, width, aim] of [
  [64, 128, 40, 4.5],
  [1000, 512, 128, 4.5],
] as const) {
  const sample = randomCase(count, length, width);
  const [a, b] = rounds([() => ours(sample), () => plainly(sample)], 9, count > 100 ? 600 : 200);
  console.log(
    `exact part, ${count} specimens of ${length} bits, numbers of ${width}: ${(1000 / a!).toFixed(2)} ms; plain elimination on BigInts ${(1000 / b!).toFixed(2)} ms; ratio ${(a! / b!).toFixed(1)} (aim: ${aim})`,
  );
}

/** z3's part is small: at 64 specimens of 128 bits it does not come to an end. */
const Z3_CASE = { count: 24, width: 20 };

/**
 * The same question to both: is the bit that a number gives unique? That is, must the difference of two maps which both
 * agree with every specimen vanish at the number?
 */
async function besideZ3(): Promise<void> {
  const sample = randomCase(Z3_CASE.count, 128, Z3_CASE.width);
  const { Context } = await init();
  const { Solver, Bool, Xor, Not } = Context('bench');
  const times: number[] = [];
  for (let q = 0; q < 7; q++) {
    const started = performance.now();
    const difference = Array.from({ length: Z3_CASE.width + 1 }, (_, k) => Bool.const(`d${q}_${k}`));
    const at = (n: bigint) =>
      difference
        .slice(1)
        .reduce(
          (sum, bit, k) => ((n >> BigInt(k)) & 1n ? Xor(sum, bit) : sum),
          difference[0]! as ReturnType<typeof Xor>,
        );
    const solver = new Solver();
    solver.set('timeout', 10_000);
    for (const n of sample.numbers) solver.add(Not(at(n)));
    solver.add(at(sample.asked[q]!));
    sink ^= (await solver.check()) === 'unsat' ? 1 : 0;
    times.push(performance.now() - started);
  }
  const theirs = times.sort((x, y) => x - y)[3]!;
  const question = () => {
    const hull = new Hull(sample.width, sample.length, sample.numbers.length);
    sample.numbers.forEach((n, i) => {
      hull.add(n, sample.reads[i]!);
    });
    sink ^= hull.has(sample.asked[0]!) ? 1 : 0;
    return 1;
  };
  const [rate] = rounds([question], 9, 100);
  console.log(
    `is this bit unique? ${Z3_CASE.count} specimens, numbers of ${Z3_CASE.width} bits: ${(1000 / rate!).toFixed(3)} ms for all 128 bits at once; z3-solver ${theirs.toFixed(0)} ms for one; ratio ${((theirs * rate!) / 1000).toFixed(0)} (aim: 1,000)`,
  );
}

/** The whole answer on cards as the trade has them: a number in one run, parity at both ends, a facility code. */
function wholeAnswer(count: number, length: number, wrong: boolean): void {
  // What is left beside the number and the parity bits, at most 24 of it.
  const facility = word(Math.min(24, length - 34));
  const bitsOf = (n: bigint) => {
    const inner = (facility << 32n) | n;
    const body = Bits.fromBigInt(inner, length - 2);
    const half = (length - 2) >> 1;
    const lead = body.slice(1, half).count() & 1;
    const trail = (body.slice(half + 1, length - 2).count() & 1) ^ 1;
    return `${lead}${body.toBinary()}${trail}`;
  };
  const numbers = [...new Set(Array.from({ length: count }, () => word(32)))];
  const specimens = numbers.map((n) => ({ bits: bitsOf(n), printed: n.toString() }));
  if (wrong) specimens[count >> 1]!.printed = (numbers[count >> 1]! ^ 12n).toString();
  // The first ones are as slow as the first answer after a page was opened; while somebody types the engine is warm.
  const times = Array.from({ length: count > 100 ? 5 : 25 }, () => {
    const started = performance.now();
    const finding = identify(specimens, {
      library: CATALOGUE,
      predict: numbers.slice(0, 8).map((n) => String(n ^ 1n)),
    });
    sink ^= finding.layouts.length;
    return performance.now() - started;
  })
    .slice(count > 100 ? 0 : 10)
    .sort((x, y) => x - y);
  console.log(
    `whole answer, ${count} × ${length}${wrong ? ', one print mistyped' : ''}: median ${times[times.length >> 1]!.toFixed(0)} ms (aim: ${count > 100 ? '3,000' : count > 30 ? '200' : '50'} ms)`,
  );
}

await besideZ3();
for (const wrong of [false, true]) {
  wholeAnswer(24, 64, wrong);
  wholeAnswer(64, 128, wrong);
  wholeAnswer(1000, 512, wrong);
}
if (sink === 0.5) console.log(sink);
process.exit(0);
