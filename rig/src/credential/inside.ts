/** What is inside a credential of the tray: the chip or tag that it is put together with, and what a reader makes of it. */
import { createHash } from 'node:crypto';
import type { ChipInside } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { catalogued } from '@rawbits/core/catalogue';
import { blankFiles, blankSectors, type ChipMemory, selectionOf } from '@rawbits/core/chip';
import { bytesOf, wordOf } from '@rawbits/core/cipher';
import { encode } from '@rawbits/core/codec';
import { blankTag, carrierTag, identificationTag, sendingOf, stringHeard, tagHeard } from '@rawbits/core/lf';

const MASTER_KEYS = { aes128: 'aes', tdes2: 'des', tdes3: 'tdes3' } as const;

/** The memory of a credential as it is put together. */
export function memoryOf(inside: ChipInside, id: string): ChipMemory {
  switch (inside.kind) {
    case 'files': {
      const { generation, masterKey, uid } = inside;
      return blankFiles({ generation, masterKey: MASTER_KEYS[masterKey], uid: bytesOf(uid, 'uid', 7) });
    }
    case 'sectors':
      return blankSectors(inside.size, bytesOf(inside.uid, 'uid'));
    case 'tag':
      return identificationTag(BigInt(`0x${inside.data}`), inside.rate, traceMadeOf(id));
    case 'carrier':
      return carrierTag(inside.bits, traceMadeOf(id));
    case 'blank tag':
      return blankTag(wordsOf(bytesOf(inside.trace, 'trace', 8)));
  }
}

const wordsOf = (bytes: Uint8Array): [number, number] => [wordOf(bytes.subarray(0, 4)), wordOf(bytes.subarray(4))];

/** Where a tag comes from whose maker nobody has told: two bytes of class and maker as a data sheet has them, and its name. */
function traceMadeOf(id: string): [number, number] {
  const name = createHash('sha256').update(id).digest();
  return wordsOf(Uint8Array.of(0xe0, 0x15, ...name.subarray(0, 6)));
}

/** A tag that was kept before tags told where they come from tells it, too. */
export const traced = (memory: ChipMemory, id: string): ChipMemory =>
  memory.kind === 'tag' ? { ...memory, trace: memory.trace ?? traceMadeOf(id) } : memory;

type Draw = (count: number) => Uint8Array;

/**
 * The bits that a reader at a door sends on; undefined where it sees nothing. It hears identification tags at RF/64 and
 * carriers, and selects chips by their identifier, which it sends most significant byte first. Of an identification tag it
 * sends the low 24 bits as the open 26-bit format, as most readers are set up (common practice, no source).
 */
export function deliveredBy(memory: ChipMemory, draw: Draw): Bits | undefined {
  if (memory.kind !== 'tag') {
    const { uid } = selectionOf(memory, draw)!;
    return Bits.fromBinary([...uid].map((byte) => byte.toString(2).padStart(8, '0')).join(''));
  }
  const signal = sendingOf(memory);
  const string = signal && stringHeard(signal);
  if (string !== undefined) return Bits.fromBinary(string);
  const data = signal && tagHeard(signal);
  if (data === undefined) return undefined;
  const facility = String((data >> 16n) & 0xffn);
  return encode(catalogued('26-8-16')!, { facility, number: String(data & 0xffffn) });
}
