/**
 * How many cards of a box of 200 have to be read until the bits of all of it are proven or settled: those that Identify names, and
 * random ones. Formats of the library and formats of the family made from a seed, half and half; the first card is random.
 */
import { CATALOGUE, catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { identify } from '@rawbits/core/identify';
import { hiddenFormat, type Random, randomFrom } from '../../core/testing/hiddenFormats.ts';

const FORMATS = Number(process.env.TRIALS ?? 40);
const BOX = 200;
const MOST = 25;
const LIBRARY = ['26-8-16', '30-12-16', '33-7-24', '34-16-16', '35-12-20', '37-16-19', '48-22-23', '24-8-16'];

interface Format {
  numberBits: number;
  bitsOf(number: number): string;
}

function formatOf(seed: number, random: Random): Format {
  if (seed % 2 === 0) {
    const format = catalogued(LIBRARY[(seed / 2) % LIBRARY.length]!)!;
    const [, facilityBits, numberBits] = format.id.split('-').map(Number) as [number, number, number];
    const facility = String(1 + Math.floor(random() * (2 ** facilityBits - 2)));
    return { numberBits, bitsOf: (n) => encode(format, { number: String(n), facility }).toBinary() };
  }
  for (;;) {
    const hidden = hiddenFormat(random, { facilities: 1, scattered: false });
    if (hidden.isOfFamily && hidden.length <= 100)
      return {
        numberBits: hidden.numberBits,
        bitsOf: (n) => hidden.bitsOf(BigInt(n), hidden.facilities[0]!).toBinary(),
      };
  }
}

function cardsNeeded(seed: number, isChosen: boolean): number {
  const random = randomFrom(seed * 31_337);
  const { numberBits, bitsOf } = formatOf(seed, random);
  const all = 2 ** Math.min(numberBits, 30);
  const start = Math.floor(random() * Math.max(1, all - BOX + 1));
  const range = { from: BigInt(start), to: BigInt(start + Math.min(BOX, all) - 1) };
  const any = () => start + Math.floor(random() * Math.min(BOX, all));
  const read = [any()];
  while (read.length < MOST) {
    const cards = read.map((n) => ({ bits: bitsOf(n), printed: String(n) }));
    const { range: box, tieBreaker } = identify(cards, { library: CATALOGUE, range });
    if (box!.open + box!.likely === 0) return read.length;
    const named = isChosen && tieBreaker ? Number(tieBreaker.printed) : undefined;
    let next = named !== undefined && !read.includes(named) ? named : any();
    while (read.includes(next)) next = any();
    read.push(next);
  }
  return MOST;
}

for (const isChosen of [true, false]) {
  const needed = Array.from({ length: FORMATS }, (_, i) => cardsNeeded(i + 1, isChosen)).sort((a, b) => a - b);
  console.log(
    `${isChosen ? 'the cards named' : 'random cards'}: median ${needed[needed.length >> 1]}, from ${needed[0]} to ${needed.at(-1)}${needed.at(-1) === MOST ? ' or more' : ''}; all: ${needed.join(' ')}`,
  );
}
