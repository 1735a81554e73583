/**
 * Decoding speed. Random reads whose lengths are drawn evenly from the catalogue's are each evaluated under every
 * catalogue format of their length, with every check and every value; beside it, in the same run and thread, the
 * registry's binary-parser cuts one known 26-bit layout out of the same kind of buffer, without parity.
 */
import { Bits } from '@rawbits/core/bits';
import { CATALOGUE } from '@rawbits/core/catalogue';
import { compile, Evaluation, evaluate, fitsOf } from '@rawbits/core/codec';
import { Parser } from 'binary-parser';
import { randomSource } from './random.ts';
import { report, rounds } from './rounds.ts';

const random = randomSource(4310);
const lengths = [...new Set(CATALOGUE.map((format) => format.bits))];
const reads = Array.from({ length: 4096 }, () => {
  const length = lengths[Math.floor(random() * lengths.length)]!;
  return Bits.build(length, () => random() < 0.5);
});

const byLength = new Map(
  lengths.map((length) => {
    const compiled = CATALOGUE.filter((format) => format.bits === length).map((format) => compile(format));
    return [length, compiled.map((c) => ({ compiled: c, out: new Evaluation(c) }))] as const;
  }),
);

let sink = 0;

function evaluateAll(): number {
  let evaluations = 0;
  for (const read of reads) {
    for (const { compiled, out } of byLength.get(read.length)!) {
      evaluate(compiled, read.words, out);
      sink ^= out.limbs[0]! ^ out.failures;
      evaluations++;
    }
  }
  return evaluations;
}

function describeAll(): number {
  let evaluations = 0;
  for (const read of reads) {
    const fits = fitsOf(read, byLengthFormats.get(read.length)!, true);
    sink ^= fits.length;
    evaluations += fits.length;
  }
  return evaluations;
}
const byLengthFormats = new Map(lengths.map((n) => [n, CATALOGUE.filter((format) => format.bits === n)] as const));

const cutter = Parser.start().endianness('big').bit1('lead').bit8('facility').bit16('number').bit1('trail');
const buffers = Array.from({ length: 4096 }, () => Buffer.from(Bits.build(26, () => random() < 0.5).toBytes()));

function parseAll(): number {
  for (const buffer of buffers) {
    const cut = cutter.parse(buffer);
    sink ^= cut.number! ^ cut.facility!;
  }
  return buffers.length;
}

const [ours, described, theirs] = rounds([evaluateAll, describeAll, parseAll]);
report('decode: catalogue, every value and check', ours!, 'format evaluations/s');
report('decode: the same with reasons in words (fitsOf)', described!, 'format evaluations/s');
report('baseline: binary-parser, one 26-bit layout, no parity', theirs!, 'cuts/s');
console.log(`decode / baseline: ${(ours! / theirs!).toFixed(2)} (aim: 10)`);
console.log(`decode with words / baseline: ${(described! / theirs!).toFixed(2)} (aim: 1)`);
if (sink === 0.5) console.log(sink);
