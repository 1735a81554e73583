/** Texts in which a read may turn up, made from true reads by every rule that intake takes, from a seed. Invented. */
import type { Bits } from '../src/bits/index.ts';
import { buildOsdpFrame, RAW, rawReplyData } from '../src/line/index.ts';
import type { Random } from './hiddenFormats.ts';

const below = (random: Random, n: number): number => Math.floor(random() * n);
const pick = <T>(random: Random, list: readonly T[]): T => list[below(random, list.length)]!;
const hexOf = (bytes: Uint8Array): string => Buffer.from(bytes).toString('hex').toUpperCase();

export interface ReadText {
  rule: string;
  text: string;
  bits: Bits;
  /** Whether a damaged text of this kind can be told from a sound one. */
  isGuarded: boolean;
}

/** A frame with its RAW reply. */
export function frameOf(random: Random, bits: Bits): string {
  const frame = { address: below(random, 127), isReply: true, sequence: below(random, 4), code: RAW };
  return hexOf(buildOsdpFrame({ ...frame, data: rawReplyData(bits) }));
}

/** Hex that nobody takes for a printed number. */
const noPrint = (bits: Bits): string => {
  const hex = bits.toHex('right');
  return /^\d{1,5}$/.test(hex) ? `0x${hex}` : hex;
};

const STAMPS = [
  '2026-11-26 14:03:22 ',
  '2026-11-26T14:03:22.113Z ',
  '[14:03:22.113] ',
  '26.11.2026 14:03:22; ',
  'Nov 26 14:03:22 ',
  '11/26/2026, 14:03:22 - ',
];

/** By rule: a text that says the bits, with their length where the rule has one. */
const RULES: Record<string, (bits: Bits, random: Random) => string> = {
  'binary digits': (bits) => bits.toBinary(),
  'binary digits in groups': (bits) => bits.toBinary().replace(/(.{4})(?=.)/g, '$1 '),
  'binary digits and their length': (bits) => `${bits.toBinary()} (${bits.length} bits)`,
  'binary digits, their length after a blank': (bits) => `${bits.toBinary()} ${bits.length}`,
  'length, blank, binary digits in groups': (bits) =>
    `${bits.length} ${bits.toBinary().replace(/(.{8})(?=.)/g, '$1 ')}`,
  'length, sign, hex': (bits, random) => `${bits.length}${pick(random, [':', ',', ' : '])}${noPrint(bits)}`,
  'hex, sign, length': (bits, random) => `${noPrint(bits)}${pick(random, [':', ',', ' : '])}${bits.length}`,
  'binary digits with 0b': (bits) => `0b${bits.toBinary()}`,
  'length, then hex': (bits) => `${bits.length} bits: 0x${bits.toHex('right')}`,
  'hex, then length': (bits) => `${bits.toHex('right')} ${bits.length} bits`,
  'hex padded to eight bytes and more': (bits) => `${bits.toHex('right').padStart(32, '0')} ${bits.length} bits`,
  'hex without its leading zeros': (bits) => `${bits.length} bits: 0x${bits.toBigInt().toString(16)}`,
  'decimal with its length': (bits) => `dec: ${bits.toDecimal()} ${bits.length} bits`,
  'names and values': (bits) => `bits=${bits.length} data=${bits.toHex('right')}`,
  'names and values, turned': (bits) => `Data: 0x${bits.toHex('right')}, Bits: ${bits.length}`,
  'length in brackets': (bits) => `[${bits.length}] 0x${bits.toHex('right')}`,
  'hex with h': (bits) => `0${bits.toHex('right')}h ${bits.length} bits`,
  'a list of bytes': (bits) =>
    `{${(bits.toHex('right').length % 2 ? `0${bits.toHex('right')}` : bits.toHex('right')).replace(/../g, '0x$&,').slice(0, -1)}} ${bits.length} bits`,
  quoted: (bits) => `"${bits.toHex('right')} ${bits.length} bits"`,
  'a log line': (bits, random) => `${pick(random, STAMPS)}${bits.length} bits: 0x${bits.toHex('right')}`,
  'a log line from a door': (bits, random) =>
    `${pick(random, STAMPS)}reader ${1 + below(random, 40)}: ${bits.length} bits 0x${bits.toHex('right')}`,
  'from a door': (bits, random) => `reader ${1 + below(random, 40)}: ${bits.length} bits 0x${bits.toHex('right')}`,
  'left-justified': (bits) => `hex: ${bits.toHex('left')} ${bits.length} bits`,
  'BER bit string': (bits) => {
    const body = `${(bits.length % 8 ? 8 - (bits.length % 8) : 0).toString(16).padStart(2, '0')}${hexOf(bits.toBytes())}`;
    const length = body.length / 2;
    const told = length < 128 ? length.toString(16).padStart(2, '0') : `81${length.toString(16)}`;
    return `03${told}${body}`.toUpperCase();
  },
  'OSDP reply': (bits, random) => frameOf(random, bits),
  'OSDP reply in bytes': (bits, random) => `FF ${frameOf(random, bits).replace(/../g, '$& ').trim()}`,
};
const GUARDED = new Set(['OSDP reply', 'OSDP reply in bytes']);

export function readText(random: Random, bits: Bits): ReadText {
  const rule = pick(random, Object.keys(RULES));
  return { rule, text: RULES[rule]!(bits, random), bits, isGuarded: GUARDED.has(rule) };
}

/** One digit changed, left out, doubled or exchanged with its neighbour. */
export function mutated(random: Random, text: string): string {
  const at = below(random, text.length);
  const other = pick(random, [...'0123456789ABCDEFx ,:;-?']);
  switch (below(random, 4)) {
    case 0:
      return text.slice(0, at) + other + text.slice(at + 1);
    case 1:
      return text.slice(0, at) + text.slice(at + 1);
    case 2:
      return text.slice(0, at) + text[at] + text.slice(at);
    default:
      return text.slice(0, at) + (text[at + 1] ?? '') + text[at] + text.slice(at + 2);
  }
}
