/**
 * Inputs that mean nothing, or something else than they say: random bytes, and commands that were right until some of their
 * bytes were changed, cut off or said twice; and every parser on this side that takes bytes from outside.
 */
import { blankFiles, blankSectors, FilesCard, SectorRefused, SectorsCard, sectorFrame } from '@rawbits/core/chip';
import { bytesOf, joined } from '@rawbits/core/cipher';
import { RawBitsError } from '@rawbits/core/failure';
import { intake } from '@rawbits/core/intake';
import { Pn532 } from './pn532.ts';
import { VirtualReader } from './virtualReader.ts';

const LONGEST = 80;
const draw = (count: number) => new Uint8Array(count);

/** Commands that are right, to be spoiled. */
const RIGHT = [
  '905A00000300000000',
  '90AA0000010000',
  '90CA000005F542300F8100',
  '90CD00000700000EEE20000000',
  '903D00000B0000000004000001020304',
  '90BD0000070000000000000000',
  '9060000000',
  '90AF000000',
  '60',
  '0A00',
  // Frames of a sector card: authentication with the key as delivered, read, write, values.
  '6004FFFFFFFFFFFFB2C3D4E5',
  '3004',
  'A00401000000FEFFFFFF0100000004FB04FB',
  'C10405000000',
  'C00401000000',
  'C204',
  'B004',
].map((hex) => bytesOf(hex, 'command'));

/** A source of them; `next` gives numbers from 0 to below 1. */
export function inputs(next: () => number): () => Uint8Array {
  const below = (most: number): number => Math.floor(next() * most);
  const random = (length: number): Uint8Array => Uint8Array.from({ length }, () => below(256));
  function spoiled(right: Uint8Array): Uint8Array {
    const bytes = new Uint8Array(right);
    switch (below(4)) {
      case 0:
        if (bytes.length > 0) bytes[below(bytes.length)] = below(256);
        return bytes;
      case 1:
        return bytes.subarray(0, below(bytes.length + 1));
      case 2:
        return joined(bytes, bytes.subarray(below(bytes.length + 1)));
      default:
        return joined(bytes, random(below(8)));
    }
  }

  /** Two of five mean nothing, two are spoiled, and one is right, so that what comes after finds something done. */
  return function input(): Uint8Array {
    const kind = below(5);
    if (kind < 2) return random(below(LONGEST));
    const right = RIGHT[below(RIGHT.length)]!;
    return kind < 4 ? spoiled(right) : right;
  };
}

const uid = bytesOf('04A1B2C3D4E5F6', 'uid');
const files = () => new FilesCard(blankFiles({ generation: 2, masterKey: 'aes', uid }));
let card = files();
const sectors = new SectorsCard(blankSectors('1K', uid));
const pn532 = new Pn532(files(), draw);
const virtual = new VirtualReader(files(), draw);
const framed = (bytes: Uint8Array): Uint8Array => {
  const body = joined([0xd4, 0x40, 0x01], bytes);
  const sum = body.reduce((all, byte) => (all + byte) & 0xff, 0);
  return joined([0, 0, 0xff, body.length, -body.length & 0xff], body, [-sum & 0xff, 0]);
};

/** Each takes an input and its number; what it throws is a refusal. */
export const PARSERS: Record<string, (given: Uint8Array, i: number) => unknown> = {
  'APDUs of a file-system card': (given, i) => {
    if (i % 50_000 === 0) card = files();
    return card.transmit(given, draw);
  },
  'frames of a sector card': (given) => sectorFrame(sectors, given),
  'frames of a PN532': (given, i) => pn532.take(i % 3 ? framed(given) : given),
  'messages of the virtual reader': (given, i) =>
    virtual.take(i % 3 ? joined([given.length >> 8, given.length & 0xff], given) : given),
  'what can be pasted': (given) => intake(Buffer.from(given).toString(given.length % 2 ? 'hex' : 'latin1')),
};

export const isRefusal = (error: unknown): boolean => error instanceof SectorRefused || error instanceof RawBitsError;
