/** What is inside a credential of the tray: the chip or tag that it is put together with, and what a reader makes of it. */
import type { ChipInside } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { catalogued } from '@rawbits/core/catalogue';
import { blankFiles, blankSectors, type ChipMemory, selectionOf } from '@rawbits/core/chip';
import { bytesOf } from '@rawbits/core/cipher';
import { encode } from '@rawbits/core/codec';
import { carrierTag, identificationTag, sendingOf, stringHeard, tagHeard } from '@rawbits/core/lf';

const MASTER_KEYS = { aes128: 'aes', tdes2: 'des', tdes3: 'tdes3' } as const;

/** The memory of a credential as it is put together. */
export function memoryOf(inside: ChipInside): ChipMemory {
  switch (inside.kind) {
    case 'files': {
      const { generation, masterKey, uid } = inside;
      return blankFiles({ generation, masterKey: MASTER_KEYS[masterKey], uid: bytesOf(uid, 'uid', 7) });
    }
    case 'sectors':
      return blankSectors(inside.size, bytesOf(inside.uid, 'uid'));
    case 'tag':
      return identificationTag(BigInt(`0x${inside.data}`), inside.rate);
    case 'carrier':
      return carrierTag(inside.bits);
  }
}

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
