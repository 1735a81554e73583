/**
 * Dry run speed. 200,000 random cards' reads of the catalogue's lengths, 100,000 cards on file, and a change of one
 * format; beside it, in the same run and thread, the same reads plainly decoded under the old and the new version.
 * The memory after many more reads is printed to show that it does not grow with them.
 */
import { type Credential, lookupIn } from '@rawbits/core/access';
import type { Bits } from '@rawbits/core/bits';
import { catalogued } from '@rawbits/core/catalogue';
import { compile, decode, Evaluation, encode, evaluate } from '@rawbits/core/codec';
import { DryRun } from '@rawbits/core/dryrun';
import { type Format, parseLayoutLine } from '@rawbits/core/format';
import { randomSource } from './random.ts';
import { rounds } from './rounds.ts';

const random = randomSource(4310);
const before = catalogued('37-16-19')!;
const after: Format = {
  ...before,
  ...parseLayoutLine('37 | 1 even 2-19 | 2-16 facility | 17-36 number | 37 odd 19-36'),
};
const CARDS = 100_000;
const facilities = ['2214', '2215', '77'];
const values = Array.from({ length: CARDS }, () => ({
  facility: facilities[Math.floor(random() * 3)]!,
  number: String(Math.floor(random() * (1 << 19))),
}));
const credentials: Credential[] = values.map(({ facility, number }, i) => ({
  id: `c-${i}`,
  format: before.id,
  facility,
  number,
  holder: null,
  state: i % 50 === 0 ? 'suspended' : 'active',
  validFrom: null,
  validTo: null,
}));
const reads: Bits[] = Array.from({ length: 2 * CARDS }, (_, i) =>
  encode(before, i % 2 ? values[i >> 1]! : { facility: '9', number: String(Math.floor(random() * (1 << 19))) }),
);
const onFile = lookupIn(credentials);
const side = (format: Format) => ({ formats: [format], comparesFacility: true, onFile });
const newRun = () =>
  new DryRun([{ id: 'site', name: 'Site', before: side(before), after: side(after) }], { atMs: 0, examples: 200 });

const compiled = [before, after].map((format) => compile(format));
const outs = compiled.map((c) => new Evaluation(c));
let sink = 0;

const run = newRun();
const dryRun = () => {
  for (const read of reads) sink ^= run.read('r', read).length;
  return reads.length;
};
const plainDecoding = () => {
  for (const read of reads) sink ^= decode(read, before).parity.length ^ decode(read, after).parity.length;
  return reads.length;
};
const bareEvaluation = () => {
  for (const read of reads) {
    for (let i = 0; i < 2; i++) {
      evaluate(compiled[i]!, read.words, outs[i]!);
      sink ^= outs[i]!.limbs[0]!;
    }
  }
  return reads.length;
};

const [dry, decoded, evaluated] = rounds([dryRun, plainDecoding, bareEvaluation], 9, 300);
const perSecond = (rate: number) => `${Math.round(rate / 1000).toLocaleString('en')} thousand reads/s`;
console.log(`dry run, sorted by what becomes of each: ${perSecond(dry!)}`);
console.log(`baseline: plainly decoding under both versions: ${perSecond(decoded!)}`);
console.log(`the inner loop of decoding alone, without a result: ${perSecond(evaluated!)}`);
console.log(`dry run / plainly decoding: ${(dry! / decoded!).toFixed(2)} (aim: 0.7)`);
console.log(`dry run / inner loop: ${(dry! / evaluated!).toFixed(2)}`);

const heap = () => {
  globalThis.gc?.();
  return process.memoryUsage().heapUsed / 2 ** 20;
};
const flat = newRun();
for (const read of reads) flat.read('r', read);
const early = heap();
for (let i = 0; i < 4; i++) for (const read of reads) flat.read('r', read);
const late = heap();
console.log(`heap after 200,000 reads ${early.toFixed(0)} MB, after 1,000,000 ${late.toFixed(0)} MB`);
if (sink === 0.5) console.log(sink);
