/**
 * The rewritable tag (ATA5577C data sheet; the layout of block 0 as in CHIPS, from memory): eight blocks of 32 bits on page
 * 0: block 0 is the configuration, 1 to 7 data, 7 the password where the configuration turns it on. Every block has a lock
 * bit that cannot be cleared. It sends its blocks from 1 to the last, over and over.
 */
import { fail } from '../failure/index.ts';
import { carrierBits } from './carrier.ts';
import { type Fsk, isFsk, shifted } from './fsk.ts';
import { type Modulation, modulate, type Signal } from './modulation.ts';
import { tagBits } from './tag64.ts';

export interface TagMemory {
  kind: 'tag';
  /** Blocks 0 to 7 of page 0. */
  blocks: number[];
  locked: boolean[];
  /** Blocks 1 and 2 of page 1: by whom and when it was made, and which one it is; never written. */
  trace?: number[];
}

const RATES = [8, 16, 32, 40, 50, 64, 100, 128] as const;
const MODULATION: Record<number, Modulation | Fsk> = {
  4: 'fsk1',
  5: 'fsk2',
  6: 'fsk1a',
  7: 'fsk2a',
  8: 'manchester',
  16: 'biphase',
};

export interface Configuration {
  /** Carrier periods a bit. */
  rate: number;
  /** Undefined for modulations that are not modelled (PSK, direct). */
  modulation: Modulation | Fsk | undefined;
  /** Blocks 1 to this one are sent; none where it is 0. */
  lastBlock: number;
  hasPassword: boolean;
}

/** Bit 1 is the highest. */
const bitsOf = (word: number, from: number, count: number): number =>
  (word >>> (32 - from - count + 1)) & ((1 << count) - 1);

export function configurationIn(word: number): Configuration {
  return {
    rate: RATES[bitsOf(word, 12, 3)]!,
    modulation: MODULATION[bitsOf(word, 16, 5)],
    lastBlock: bitsOf(word, 25, 3),
    hasPassword: bitsOf(word, 28, 1) === 1,
  };
}

/** The configuration word; rates 8 to 128 as the data sheet has them. Throws `tag-rate` for another. */
export function configurationOf({ rate, modulation, lastBlock, hasPassword }: Configuration): number {
  const code = RATES.indexOf(rate as (typeof RATES)[number]);
  if (code < 0) fail('tag-rate', `A tag sends at RF/${RATES.join(', RF/')}, not at RF/${rate}.`, { field: 'rate' });
  const kind = Object.entries(MODULATION).find(([, name]) => name === modulation);
  return ((code << 18) | (Number(kind?.[0] ?? 0) << 12) | (lastBlock << 5) | (Number(hasPassword) << 4)) >>> 0;
}

export const blankTag = (trace?: readonly [number, number]): TagMemory => ({
  kind: 'tag',
  blocks: new Array<number>(8).fill(0),
  locked: new Array<boolean>(8).fill(false),
  ...(trace && { trace: [...trace] }),
});

/** What stands in the blocks from 1 on of a tag that sends something, and its configuration word without a password. */
export interface TagContents {
  configuration: Configuration;
  words: number[];
}

const wordsOf = (bits: string): number[] =>
  Array.from({ length: bits.length / 32 }, (_, i) => Number.parseInt(bits.slice(32 * i, 32 * i + 32), 2));

/** To send the 64 bits of an identification tag: blocks 1 and 2, Manchester. */
export function identificationContents(data: bigint, rate: 32 | 64 = 64): TagContents {
  return {
    configuration: { rate, modulation: 'manchester', lastBlock: 2, hasPassword: false },
    words: wordsOf(tagBits(data)),
  };
}

/** To carry a Wiegand string of 1 to 37 bits: blocks 1 to 3, FSK 2a at RF/50. */
export function carrierContents(string: string): TagContents {
  return {
    configuration: { rate: 50, modulation: 'fsk2a', lastBlock: 3, hasPassword: false },
    words: wordsOf(carrierBits(string)),
  };
}

function tagWith({ configuration, words }: TagContents, trace?: readonly [number, number]): TagMemory {
  const memory = blankTag(trace);
  memory.blocks.splice(0, words.length + 1, configurationOf(configuration), ...words);
  return memory;
}

/** A tag set up to send the 64 bits of an identification tag. */
export const identificationTag = (data: bigint, rate: 32 | 64 = 64, trace?: readonly [number, number]): TagMemory =>
  tagWith(identificationContents(data, rate), trace);

/** A tag set up to carry a Wiegand string. */
export const carrierTag = (string: string, trace?: readonly [number, number]): TagMemory =>
  tagWith(carrierContents(string), trace);

export type TagRefusal = 'no such block' | 'locked' | 'password';

/** Writes a block; gives why it does not: the tag itself answers nothing and goes on as it was. */
export function writeTag(
  memory: TagMemory,
  block: number,
  word: number,
  { password, lock = false }: { password?: number; lock?: boolean } = {},
): TagRefusal | undefined {
  if (!Number.isInteger(block) || block < 0 || block > 7) return 'no such block';
  const { hasPassword } = configurationIn(memory.blocks[0]!);
  if (hasPassword && password !== memory.blocks[7]) return 'password';
  if (memory.locked[block]) return 'locked';
  memory.blocks[block] = word >>> 0;
  memory.locked[block] = lock;
  return undefined;
}

/** What the tag sends in a field, its blocks `rounds` times; undefined where it sends nothing that is modelled. */
export function sendingOf({ blocks }: TagMemory, rounds = 3): Signal | undefined {
  const { rate, modulation, lastBlock } = configurationIn(blocks[0]!);
  if (!modulation || lastBlock === 0) return undefined;
  const bits = blocks
    .slice(1, lastBlock + 1)
    .map((word) => word.toString(2).padStart(32, '0'))
    .join('');
  const all = bits.repeat(rounds);
  return isFsk(modulation) ? { levels: shifted(all, modulation, rate) } : modulate(all, modulation, rate);
}
