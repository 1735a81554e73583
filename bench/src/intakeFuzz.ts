/**
 * Texts made from true reads by every rule, and each once more with a slip of the finger: how many are mistaken, and whether any
 * breaks intake. Mistaken: the read is none of the readings, or a damaged frame is taken for one. Prints by rule.
 */

import { Bits } from '@rawbits/core/bits';
import { CATALOGUE } from '@rawbits/core/catalogue';
import { RawBitsError } from '@rawbits/core/failure';
import { intake } from '@rawbits/core/intake';
import { randomFrom } from '../../core/testing/hiddenFormats.ts';
import { mutated, readText } from '../../core/testing/readTexts.ts';

const TEXTS = Number(process.env.TEXTS ?? 1_000_000);
const random = randomFrom(Number(process.env.SEED ?? 1));
const lengths = [26, 34, 37];
const tally = new Map<
  string,
  { of: number; mistaken: number; first: number; damaged: number; refused: number; taken: number }
>();
const examples: string[] = [];
let broken = 0;

const told = (text: string) => {
  try {
    return intake(text, { lengths, formats: CATALOGUE }).readings;
  } catch (error) {
    if (error instanceof RawBitsError && /^[a-z0-9-]+$/.test(error.code)) return undefined;
    broken++;
    examples.push(`broke: ${JSON.stringify(text)} ${String(error)}`);
    return undefined;
  }
};

for (let made = 0; made < TEXTS; made += 2) {
  const length = random() < 0.5 ? 24 + Math.floor(random() * 41) : 9 + Math.floor(random() * 240);
  const bits = Bits.build(length, () => random() < 0.5);
  const one = readText(random, bits);
  const row = tally.get(one.rule) ?? { of: 0, mistaken: 0, first: 0, damaged: 0, refused: 0, taken: 0 };
  tally.set(one.rule, row);
  row.of++;
  const readings = told(one.text);
  if (!readings?.some((reading) => reading.bits.equals(bits))) {
    row.mistaken++;
    if (examples.length < 20) examples.push(`${one.rule}: ${one.text} (${length})`);
  } else if (readings[0]!.bits.equals(bits)) row.first++;
  const slipped = mutated(random, one.text);
  if (slipped === one.text) continue;
  const after = told(slipped);
  row.damaged++;
  if (!after) row.refused++;
  else if (one.isGuarded && after.some((reading) => !reading.bits.equals(bits))) {
    row.taken++;
    if (examples.length < 20) examples.push(`damaged ${one.rule}: ${slipped}`);
  }
}
let mistaken = 0;
for (const [rule, row] of [...tally].sort()) {
  mistaken += row.mistaken + row.taken;
  console.log(
    `${rule}: ${row.of}, the read among the readings of ${row.of - row.mistaken}, leading ${row.first}; damaged ${row.damaged}, refused ${row.refused}${row.taken ? `, TAKEN ${row.taken}` : ''}`,
  );
}
for (const example of examples.slice(0, 20)) console.log(example);
console.log(`\n${TEXTS} texts: ${mistaken} mistaken, ${broken} broke intake`);
process.exitCode = mistaken + broken > 0 ? 1 : 0;
