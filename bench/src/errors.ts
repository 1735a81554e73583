/**
 * One error in a case of 5 to 12 cards of formats made from a seed, half of them of the library: how often it is named, its kind
 * and its cards, and how often something is named where nothing is wrong. Prints shares; with a folder as argument a chart, too.
 */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { CATALOGUE, catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { type Finding, identify, type SpecimenInput } from '@rawbits/core/identify';
import { hiddenFormat, type Random, randomFrom } from '../../core/testing/hiddenFormats.ts';
import { barChart } from './chart.ts';

const CASES = Number(process.env.TRIALS ?? 200);
const FIRST = Number(process.env.SEED ?? 1);
const folder = process.argv[2];

interface Made {
  bitsOf(number: bigint, code: number): string;
  numberBits: number;
  isOfFamily: boolean;
}
const LIBRARY = ['26-8-16', '30-12-16', '33-7-24', '34-16-16', '35-12-20', '37-16-19', '48-22-23', '24-8-16'];
const below = (random: Random, n: number): number => Math.floor(random() * n);

/** A format with two facility codes. */
function formatOf(random: Random): Made {
  if (random() < 0.5) {
    const hidden = hiddenFormat(random, { facilities: 2, scattered: false });
    return {
      numberBits: hidden.numberBits,
      isOfFamily: hidden.isOfFamily,
      bitsOf: (number, code) => hidden.bitsOf(number, hidden.facilities[code]!).toBinary(),
    };
  }
  const format = catalogued(LIBRARY[below(random, LIBRARY.length)]!)!;
  const [, facilityBits, numberBits] = format.id.split('-').map(Number) as [number, number, number];
  const one = 1 + below(random, 2 ** facilityBits - 2);
  const codes = [one, (one + 1 + below(random, 2 ** facilityBits - 2)) % 2 ** facilityBits];
  return {
    numberBits,
    isOfFamily: true,
    bitsOf: (number, code) => encode(format, { number: number.toString(), facility: String(codes[code]) }).toBinary(),
  };
}

const ORDERS = ['consecutive', 'box', 'spread'] as const;
const COLUMNS = [...ORDERS, 'other formats'] as const;
function numbersOf(random: Random, order: (typeof ORDERS)[number], bits: number, count: number): bigint[] {
  const all = 2 ** Math.min(bits, 30);
  const reach = order === 'consecutive' ? count : order === 'box' ? Math.min(200, all) : all;
  const start = below(random, all - reach + 1);
  const numbers = new Set<number>();
  if (order === 'consecutive') for (let i = 0; i < count; i++) numbers.add(start + i);
  while (numbers.size < count) numbers.add(start + below(random, reach));
  return [...numbers].map(BigInt);
}

interface Error {
  kind: string;
  rows: number[];
  /** Rows that say as much: the other half. */
  or?: number[];
}
interface Case {
  random: Random;
  format: Made;
  numbers: bigint[];
  specimens: SpecimenInput[];
}
const flip = (bits: string, at: number): string =>
  bits.slice(0, at) + (bits[at] === '1' ? '0' : '1') + bits.slice(at + 1);

const ERRORS: Record<string, (made: Case) => Error | undefined> = {
  'nothing wrong': () => undefined,
  'pair swapped': ({ random, specimens }) => {
    const a = below(random, specimens.length);
    const b = (a + 1 + below(random, specimens.length - 1)) % specimens.length;
    [specimens[a]!.printed, specimens[b]!.printed] = [specimens[b]!.printed, specimens[a]!.printed];
    return { kind: 'swapped pair', rows: [a, b] };
  },
  'neighbours exchanged': ({ random, specimens }) => {
    const a = below(random, specimens.length - 1);
    [specimens[a]!.printed, specimens[a + 1]!.printed] = [specimens[a + 1]!.printed, specimens[a]!.printed];
    return { kind: 'swapped pair', rows: [a, a + 1] };
  },
  'one of another code': ({ random, specimens, numbers, format }) => {
    const a = below(random, specimens.length);
    specimens[a]!.bits = format.bitsOf(numbers[a]!, 1);
    return { kind: 'other facility code', rows: [a] };
  },
  'two codes, half and half': ({ specimens, numbers, format }) => {
    const half = specimens.length >> 1;
    for (let i = half; i < specimens.length; i++) specimens[i]!.bits = format.bitsOf(numbers[i]!, 1);
    const all = specimens.map((_, i) => i);
    return { kind: 'other facility code', rows: all.slice(half), or: all.slice(0, half) };
  },
  'bit misread': ({ random, specimens }) => {
    const a = below(random, specimens.length);
    const bits = specimens[a]!.bits;
    specimens[a]!.bits = flip(bits, below(random, bits.length));
    return { kind: 'misread bit', rows: [a] };
  },
  'read inverted': ({ random, specimens }) => {
    const a = below(random, specimens.length);
    specimens[a]!.bits = [...specimens[a]!.bits].map((bit) => (bit === '1' ? '0' : '1')).join('');
    return { kind: 'inverted read', rows: [a] };
  },
  'print mistyped': ({ random, specimens }) => {
    const a = below(random, specimens.length);
    const digits = [...specimens[a]!.printed!];
    const k = below(random, digits.length);
    digits[k] = String((Number(digits[k]) + 1 + below(random, 9)) % 10);
    specimens[a]!.printed = digits.join('');
    return { kind: 'mistyped print', rows: [a] };
  },
  'bit lost': ({ random, specimens }) => {
    const a = below(random, specimens.length);
    const bits = specimens[a]!.bits;
    const k = below(random, bits.length);
    specimens[a]!.bits = bits.slice(0, k) + bits.slice(k + 1);
    return { kind: 'lost bit', rows: [a] };
  },
  'two library formats': ({ random, specimens }) => {
    const [one, two] = PAIRS[below(random, PAIRS.length)]!.map((id) => catalogued(id)!);
    const count = specimens.length;
    const half = 2 + below(random, count - 3);
    const sizes = [one!, two!].map((f) => Math.min(30, Number(f.id.split('-').at(-1))));
    const code = String(1 + below(random, 250));
    const starts = sizes.map((bits) => 2 ** (bits - 1) + below(random, 2 ** (bits - 1) - 300));
    specimens.forEach((specimen, i) => {
      const which = i < half ? 0 : 1;
      const format = [one!, two!][which]!;
      const number = String(starts[which]! + below(random, 200));
      const facility = format.spans.some((s) => s.role === 'facility') && { facility: code };
      specimen.bits = encode(format, { number, ...facility }).toBinary();
      specimen.printed = number;
    });
    const all = specimens.map((_, i) => i);
    return { kind: 'other format', rows: all.slice(half), or: all.slice(0, half) };
  },
};
const PAIRS = [
  ['26-8-16', '26-0-24'],
  ['34-16-16', '34-0-32'],
  ['37-16-19', '37-0-35'],
  ['32-0-32', '32r-0-32'],
] as const;

function caseOf(seed: number): Case & { order: (typeof ORDERS)[number] } {
  const random = randomFrom(seed);
  const format = formatOf(random);
  const order = ORDERS[below(random, 3)]!;
  const count = 5 + below(random, 8);
  const numbers = numbersOf(random, order, format.numberBits, count);
  const specimens = numbers.map((n) => ({ bits: format.bitsOf(n, 0), printed: n.toString() }));
  return { random, format, numbers, specimens, order };
}

const sameRows = (a: readonly number[], b: readonly number[] | undefined): boolean =>
  b !== undefined &&
  [...a].sort((x, y) => x - y).join() ===
    b
      .map((i) => i + 1)
      .sort((x, y) => x - y)
      .join();

const isNamed = ({ suspects: [first] }: Finding, { kind, rows, or }: Error): boolean =>
  first !== undefined && first.kind === kind && (sameRows(first.rows, rows) || sameRows(first.rows, or));

interface Tally {
  of: number;
  named: number;
  wrong: number;
  known: number;
  instead: Map<string, number>;
}
const tallies = new Map<string, Map<string, Tally>>();
const times: number[] = [];
for (const [name, make] of Object.entries(ERRORS)) {
  if (process.env.ONLY && !process.env.ONLY.split(';').includes(name)) continue;
  const by = new Map<string, Tally>();
  tallies.set(name, by);
  for (let seed = FIRST; seed < FIRST + CASES; seed++) {
    const made = caseOf(seed * 7919 + name.length);
    const error = make(made);
    const least = made.numbers.reduce((a, b) => (a < b ? a : b));
    const from = (least / 200n) * 200n;
    const began = performance.now();
    const finding = identify(made.specimens, { library: CATALOGUE, range: { from, to: from + 199n } });
    times.push(performance.now() - began);
    const which = made.format.isOfFamily ? made.order : 'other formats';
    const tally = by.get(which) ?? { of: 0, named: 0, wrong: 0, known: 0, instead: new Map<string, number>() };
    by.set(which, tally);
    tally.of++;
    const named = error ? isNamed(finding, error) : finding.suspects.length + finding.splits.length === 0;
    if (named) tally.named++;
    else {
      const what = finding.suspects[0]
        ? `${finding.suspects[0].kind}${error && sameRows(finding.suspects[0].rows, error.rows) ? '' : ' of other cards'}`
        : finding.splits.length > 0
          ? 'a split'
          : 'nothing';
      tally.instead.set(what, (tally.instead.get(what) ?? 0) + 1);
      if (process.env.SHOW === name)
        console.log(
          seed,
          made.order,
          JSON.stringify(error),
          what,
          finding.suspects.map((s) => s.words),
          made.specimens,
        );
    }
    const claimed = (finding.range?.cards ?? []).filter(
      ({ standing }) => standing === 'proven' || standing === 'settled',
    );
    const codes = name === 'two library formats' ? [] : error?.or ? [0, 1] : [0];
    const isWrong = claimed.some(
      ({ number, bits, row }) =>
        row === undefined &&
        codes.length > 0 &&
        number.length < 12 &&
        BigInt(number) < 1n << BigInt(made.format.numberBits) &&
        codes.every((code) => made.format.bitsOf(BigInt(number), code) !== bits),
    );
    if (isWrong) tally.wrong++;
    if (isWrong && process.env.WRONG === name)
      console.log(
        'WRONG',
        seed,
        made.order,
        JSON.stringify(error),
        finding.assuming,
        finding.suspects.map((s) => s.words),
        made.specimens,
      );
    if (claimed.length > made.specimens.length) tally.known++;
  }
}
const percent = (part: number, of: number) => `${((100 * part) / Math.max(1, of)).toFixed(1)} %`;
for (const [name, by] of tallies) {
  const all = [...by.values()];
  const usual = ORDERS.flatMap((order) => by.get(order) ?? []);
  const sum = (pick: (t: Tally) => number, of: readonly Tally[] = all) =>
    of.reduce((total, one) => total + pick(one), 0);
  const orders = COLUMNS.flatMap((order) =>
    by.get(order) ? [`${order} ${percent(by.get(order)!.named, by.get(order)!.of)}`] : [],
  );
  const of = sum((t) => t.of);
  console.log(
    `${name}: rightly named ${percent(
      sum((t) => t.named, usual),
      sum((t) => t.of, usual),
    )} of ${sum((t) => t.of, usual)} of the family, ${percent(
      sum((t) => t.named),
      of,
    )} of all ${of} (${orders.join(', ')}); something wrongly proven or settled ${percent(
      sum((t) => t.wrong, usual),
      sum((t) => t.of, usual),
    )} of the family, ${percent(
      sum((t) => t.wrong),
      of,
    )} of all`,
  );
  const instead = new Map<string, number>();
  for (const t of all) for (const [what, n] of t.instead) instead.set(what, (instead.get(what) ?? 0) + n);
  if (instead.size > 0) console.log(`    instead: ${[...instead].map(([what, n]) => `${what} ${n}`).join(', ')}`);
}
times.sort((a, b) => a - b);
console.log(
  `\na whole answer: median ${times[times.length >> 1]!.toFixed(0)} ms, 99th percentile ${times[Math.floor(times.length * 0.99)]!.toFixed(0)} ms`,
);
if (folder)
  writeFileSync(
    join(folder, 'errors-named.svg'),
    barChart(
      'Errors rightly named, kind and cards, of 5 to 12 cards',
      [...tallies].map(([name, by]) => {
        const all = [...by.values()];
        return { name, value: (100 * all.reduce((s, t) => s + t.named, 0)) / all.reduce((s, t) => s + t.of, 0) };
      }),
    ),
  );
