/**
 * Trials of Identify on hidden formats made from a seed: clean cases, mistyped prints, swapped pairs, mixed boxes.
 * Prints shares, and with a folder as argument keeps them as charts (SVG) for the docs.
 */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { CATALOGUE } from '@rawbits/core/catalogue';
import { type Finding, identify, type SpecimenInput } from '@rawbits/core/identify';
import { boxNumbers, type HiddenFormat, hiddenFormat, randomFrom } from '../../core/testing/hiddenFormats.ts';
import { lineChart } from './chart.ts';

const CASES = Number(process.env.TRIALS ?? 10_000);
const folder = process.argv[2];

interface Share {
  of: number;
  hits: number;
}
const shares = new Map<string, Map<number, Share>>();
function count(name: string, by: number, hit: boolean): void {
  const list = shares.get(name) ?? new Map<number, Share>();
  shares.set(name, list);
  const share = list.get(by) ?? { of: 0, hits: 0 };
  list.set(by, { of: share.of + 1, hits: share.hits + (hit ? 1 : 0) });
}

interface Trial {
  format: HiddenFormat;
  numbers: bigint[];
  asked: bigint[];
  specimens: SpecimenInput[];
}

function trial(seed: number, facilities = 1, least = 1): { random: () => number; made: Trial } {
  const random = randomFrom(seed);
  const format = hiddenFormat(random, { facilities });
  const wanted = least + Math.floor(random() * (25 - least));
  const all = boxNumbers(random, format, wanted + 4);
  const numbers = all.slice(0, wanted);
  const any = () => numbers[Math.floor(random() * numbers.length)]!;
  const asked = [...all.slice(wanted), any() ^ any() ^ any(), any() ^ any() ^ any()];
  const specimens = numbers.map((n, i) => ({
    bits: format.bitsOf(n, format.facilities[i % facilities]!).toBinary(),
    printed: n.toString(),
  }));
  return { random, made: { format, numbers, asked, specimens } };
}

const run = ({ specimens, asked }: Trial): Finding =>
  identify(specimens, { library: CATALOGUE, predict: asked.map(String), family: false });

function wrongProven(finding: Finding, { format, asked }: Trial): number {
  const truths = (n: bigint) => format.facilities.map((f) => format.bitsOf(n, f).toBinary());
  return finding.predictions.filter((p, i) => p.standing === 'proven' && !truths(asked[i]!).includes(p.bits!)).length;
}

function clean(seed: number): void {
  const { made } = trial(seed);
  const finding = run(made);
  const [facility] = made.format.facilities as [bigint];
  finding.predictions.forEach((p, i) => {
    const right = p.bits === made.format.bitsOf(made.asked[i]!, facility).toBinary();
    if (p.standing === 'proven') count('clean: proven predictions that are wrong', 0, !right);
    if (p.standing === 'presumed')
      count('clean: presumed predictions that are right, by specimens', made.numbers.length, right);
    if (i >= made.asked.length - 2)
      count(
        'clean: numbers in the hull that are proven, or stand against a rival',
        0,
        p.standing === 'proven' || finding.rivals.length > 0,
      );
  });
}

const noticed = (finding: Finding): boolean =>
  !finding.consistent || finding.suspects.length > 0 || finding.splits.length > 0;

/** How many checks the specimens leave over when nothing is wrong: what the trial's error has to get past. */
const checksOf = (made: Trial): number => Math.min(8, identify(made.specimens, { library: [], family: false }).checks);

function mistyped(seed: number): void {
  const { random, made } = trial(seed, 1, 4);
  const checks = checksOf(made);
  const at = Math.floor(random() * made.specimens.length);
  const digits = [...made.specimens[at]!.printed!];
  const k = Math.floor(random() * digits.length);
  digits[k] = String((Number(digits[k]) + 1 + Math.floor(random() * 9)) % 10);
  made.specimens[at]!.printed = digits.join('');
  const finding = run(made);
  count('mistyped print: found out, by checks', checks, noticed(finding));
  count(
    'mistyped print: the very card named, by checks',
    checks,
    finding.suspects.some((s) => s.rows.includes(at + 1)),
  );
  count('mistyped print: some prediction wrongly proven, by checks', checks, wrongProven(finding, made) > 0);
}

function swapped(seed: number): void {
  const { random, made } = trial(seed, 1, 4);
  const checks = checksOf(made);
  const a = Math.floor(random() * made.specimens.length);
  const b = (a + 1 + Math.floor(random() * (made.specimens.length - 1))) % made.specimens.length;
  const [one, two] = [made.specimens[a]!, made.specimens[b]!];
  [one.printed, two.printed] = [two.printed, one.printed];
  const finding = run(made);
  count('swapped pair: found out, by checks', checks, noticed(finding));
  count('swapped pair: some prediction wrongly proven, by checks', checks, wrongProven(finding, made) > 0);
}

function mixed(seed: number): void {
  const { made } = trial(seed, 2, 6);
  const finding = run(made);
  const checks = Math.min(8, finding.checks);
  count('two facility codes in one case: found out, by checks', checks, noticed(finding));
  count(
    'two facility codes in one case: some prediction wrongly proven, by checks',
    checks,
    wrongProven(finding, made) > 0,
  );
}

/** A box of 200 and some cards of it, neighbours or not: how its other cards stand, and whether they are right. */
function box(seed: number): void {
  const random = randomFrom(seed);
  const format = hiddenFormat(random, { facilities: 1 });
  const most = 2 ** Math.min(format.numberBits, 24);
  const size = Math.min(200, most);
  const start = Math.floor(random() * (most - size + 1));
  const wanted = 2 + Math.floor(random() * 9);
  const neighbours = random() < 0.4;
  const first = Math.floor(random() * Math.max(1, size - wanted));
  const numbers = [
    ...new Set(
      Array.from({ length: wanted }, (_, i) => start + (neighbours ? (first + i) % size : Math.floor(random() * size))),
    ),
  ];
  const truth = (n: number) => format.bitsOf(BigInt(n), format.facilities[0]!).toBinary();
  const began = performance.now();
  const { range } = identify(
    numbers.map((n) => ({ bits: truth(n), printed: String(n) })),
    { library: CATALOGUE, range: { from: BigInt(start), to: BigInt(start + size - 1) } },
  );
  if (format.length <= 64) boxMs.push(performance.now() - began);
  for (const { number, bits, standing, odds, row } of range?.cards ?? []) {
    if (row !== undefined) continue;
    const right = bits === truth(Number(number));
    const said =
      standing === 'likely' ? (odds! >= 0.99 ? 'likely with 99 % or more' : 'likely with 90 to 99 %') : standing;
    const how = format.isOfFamily ? 'of the family' : 'other formats';
    if (standing !== 'open') count(`box, ${how}: ${said}, right`, 0, right);
    count(`box, ${neighbours ? 'neighbours' : 'spread'}: not open, by cards read`, wanted, standing !== 'open');
    count(
      `box, ${neighbours ? 'neighbours' : 'spread'}: proven or settled, by cards read`,
      wanted,
      standing === 'proven' || standing === 'settled',
    );
  }
}
const boxMs: number[] = [];

for (let seed = 1; seed <= CASES; seed++) {
  clean(seed);
  if (seed % 10 === 0) box(4_000_000 + seed);
  if (seed % 4 === 0) {
    mistyped(1_000_000 + seed);
    swapped(2_000_000 + seed);
    mixed(3_000_000 + seed);
  }
}
for (const [name, list] of shares) {
  console.log(`\n${name}`);
  for (const [by, { of, hits }] of [...list].sort((a, b) => a[0] - b[0]))
    console.log(
      `  ${list.size === 1 ? '' : `${by}: `}${hits} of ${of}${of > 0 ? ` (${((100 * hits) / of).toFixed(1)} %)` : ''}`,
    );
}
boxMs.sort((a, b) => a - b);
console.log(
  `\nthe whole answer with its box, reads of up to 64 bits: median ${boxMs[boxMs.length >> 1]?.toFixed(0)} ms, 95th percentile ${boxMs[Math.floor(boxMs.length * 0.95)]?.toFixed(0)} ms`,
);
if (folder) {
  const points = (name: string): [number, number][] =>
    [...(shares.get(name) ?? [])].sort((a, b) => a[0] - b[0]).map(([by, { of, hits }]) => [by, (100 * hits) / of]);
  writeFileSync(
    join(folder, 'presumed-right.svg'),
    lineChart('Presumed predictions that are right', 'specimens', [
      { name: 'right', points: points('clean: presumed predictions that are right, by specimens') },
    ]),
  );
  writeFileSync(
    join(folder, 'box-known.svg'),
    lineChart('Cards of a box of 200 that are not open', 'cards read', [
      { name: 'spread', points: points('box, spread: not open, by cards read') },
      { name: 'neighbours', points: points('box, neighbours: not open, by cards read') },
      { name: 'spread, proven or settled', points: points('box, spread: proven or settled, by cards read') },
    ]),
  );
  writeFileSync(
    join(folder, 'errors-found.svg'),
    lineChart('Errors found out, by checks left over', 'checks (8: eight or more)', [
      { name: 'mistyped print', points: points('mistyped print: found out, by checks') },
      { name: 'swapped pair', points: points('swapped pair: found out, by checks') },
      { name: 'two facility codes', points: points('two facility codes in one case: found out, by checks') },
    ]),
  );
  writeFileSync(
    join(folder, 'wrongly-proven.svg'),
    lineChart('Cases with a prediction wrongly called proven, by checks left over', 'checks (8: eight or more)', [
      { name: 'mistyped print', points: points('mistyped print: some prediction wrongly proven, by checks') },
      { name: 'swapped pair', points: points('swapped pair: some prediction wrongly proven, by checks') },
      {
        name: 'two facility codes',
        points: points('two facility codes in one case: some prediction wrongly proven, by checks'),
      },
    ]),
  );
}
