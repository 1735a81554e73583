/**
 * A sector card, 1K or 4K: blocks of 16 bytes, keys A and B a sector, access bits. Its cipher is broken and stays outside:
 * the model is told a key and checks it itself, so what works here works on a card, and nothing here is secret on one.
 */
import { hexOf, joined, sameBytes } from '../../cipher/index.ts';
import { accessBits, dataAccess, type KeyName, trailerAccess } from './access.ts';
import { valueBlock, valueIn } from './value.ts';

export interface SectorsMemory {
  kind: 'sectors';
  size: '1K' | '4K';
  /** Four or seven bytes. */
  uid: Uint8Array;
  blocks: Uint8Array[];
}

/** As delivered: every key FFFFFFFFFFFF, access bits FF 07 80. */
const TRAILER = joined(new Uint8Array(6).fill(0xff), [0xff, 0x07, 0x80, 0x69], new Uint8Array(6).fill(0xff));
const SAK = { '1K': 0x08, '4K': 0x18 } as const;
const ATQA = { '1K': [0x04, 0x00], '4K': [0x02, 0x00] } as const;

export const blocksOf = (size: SectorsMemory['size']): number => (size === '1K' ? 64 : 256);

/** The sector of a block, its first block and how many it has. */
export function sectorOf(block: number): { sector: number; first: number; count: number } {
  if (block < 128) return { sector: block >> 2, first: block & ~3, count: 4 };
  return { sector: 32 + ((block - 128) >> 4), first: block & ~15, count: 16 };
}

export function blankSectors(size: SectorsMemory['size'], uid: Uint8Array): SectorsMemory {
  const blocks = Array.from({ length: blocksOf(size) }, (_, block) => {
    const { first, count } = sectorOf(block);
    return block === first + count - 1 ? new Uint8Array(TRAILER) : new Uint8Array(16);
  });
  const bcc = uid.length === 4 ? [uid.reduce((all, byte) => all ^ byte, 0)] : [];
  blocks[0]!.set(joined(uid, bcc, [SAK[size]], ATQA[size]));
  return { kind: 'sectors', size, uid, blocks };
}

export type SectorRefusal =
  | 'no such block'
  | 'not authenticated'
  | 'not allowed'
  | 'no value'
  | 'wrong key'
  | 'locked'
  | 'length';

/** Thrown where a command is refused. A refused authentication halts the card, another command ends the session. */
export class SectorRefused extends Error {
  constructor(readonly why: SectorRefusal) {
    super(why);
  }
}

const refuse = (why: SectorRefusal): never => {
  throw new SectorRefused(why);
};

export class SectorsCard {
  private session: { sector: number; key: KeyName } | undefined;
  private buffer: { value: number; address: number } | undefined;

  constructor(readonly memory: SectorsMemory) {}

  powerOff(): void {
    this.session = undefined;
    this.buffer = undefined;
  }

  private place(block: number) {
    const bytes = this.memory.blocks[block] ?? refuse('no such block');
    const place = sectorOf(block);
    const trailer = this.memory.blocks[place.first + place.count - 1]!;
    const index = block - place.first;
    const isTrailer = index === place.count - 1;
    const group = isTrailer ? 3 : place.count === 4 ? index : Math.floor(index / 5);
    const bits = accessBits(trailer.subarray(6, 9));
    return { ...place, bytes, trailer, isTrailer, bits: bits?.[group], trailerBits: bits?.[3] };
  }

  /** With one of the two keys of a block's sector. A key B that can be read authenticates nobody. */
  authenticate(block: number, key: KeyName, value: Uint8Array): void {
    this.powerOff();
    const { sector, trailer, trailerBits } = this.place(block);
    if (trailerBits === undefined) refuse('locked');
    if (key === 'B' && trailerAccess(trailerBits!).keyBRead !== '') refuse('not allowed');
    if (!sameBytes(value, key === 'A' ? trailer.subarray(0, 6) : trailer.subarray(10))) refuse('wrong key');
    this.session = { sector, key };
  }

  /** The place of a block in the sector that is authenticated. Anything refused ends that. */
  private within<T>(block: number, act: (place: ReturnType<SectorsCard['place']>, may: (by: string) => void) => T): T {
    try {
      const place = this.place(block);
      const { session } = this;
      if (session?.sector !== place.sector) return refuse('not authenticated');
      if (place.bits === undefined) return refuse('locked');
      return act(place, (by) => void (by.includes(session.key) || refuse('not allowed')));
    } catch (error) {
      this.powerOff();
      throw error;
    }
  }

  /** The sixteen bytes of a block; of a trailer what may be read of it, zeros else. Key A is never read. */
  read(block: number): Uint8Array {
    return this.within(block, ({ bytes, isTrailer, bits }, may) => {
      if (!isTrailer) {
        may(dataAccess(bits!).read);
        return new Uint8Array(bytes);
      }
      const { bitsRead, keyBRead } = trailerAccess(bits!);
      const { key } = this.session!;
      const shown = new Uint8Array(16);
      if (bitsRead.includes(key)) shown.set(bytes.subarray(6, 10), 6);
      if (keyBRead.includes(key)) shown.set(bytes.subarray(10), 10);
      return shown;
    });
  }

  /** Of a trailer what may be written is; block 0 never. */
  write(block: number, data: Uint8Array): void {
    this.within(block, ({ bytes, isTrailer, bits }, may) => {
      if (data.length !== 16) return refuse('length');
      if (block === 0) return refuse('not allowed');
      if (!isTrailer) {
        may(dataAccess(bits!).write);
        bytes.set(data);
        return undefined;
      }
      const { keyAWrite, bitsWrite, keyBWrite } = trailerAccess(bits!);
      const { key } = this.session!;
      may(keyAWrite + bitsWrite + keyBWrite);
      if (keyAWrite.includes(key)) bytes.set(data.subarray(0, 6));
      if (bitsWrite.includes(key)) bytes.set(data.subarray(6, 10), 6);
      if (keyBWrite.includes(key)) bytes.set(data.subarray(10), 10);
      return undefined;
    });
  }

  /**
   * Takes a value block into the card's buffer, with `amount` (unsigned, four bytes) added or taken off; refused where the
   * sum is past what four signed bytes hold [mem]: a decrement never comes out higher.
   */
  change(block: number, how: 'increment' | 'decrement' | 'restore', amount = 0): void {
    this.within(block, ({ bytes, isTrailer, bits }, may) => {
      if (isTrailer) return refuse('not allowed');
      const access = dataAccess(bits!);
      may(how === 'increment' ? access.increment : access.decrement);
      const known = valueIn(bytes) ?? refuse('no value');
      const added = how === 'increment' ? amount : how === 'decrement' ? -amount : 0;
      const value = known.value + added;
      if (value !== (value | 0)) return refuse('no value');
      this.buffer = { ...known, value };
      return undefined;
    });
  }

  /** Writes the buffer to a block of the same sector. */
  transfer(block: number): void {
    this.within(block, ({ bytes, isTrailer, bits }, may) => {
      if (isTrailer || block === 0) return refuse('not allowed');
      may(dataAccess(bits!).decrement);
      const { value, address } = this.buffer ?? refuse('no value');
      bytes.set(valueBlock(value, address));
      return undefined;
    });
  }
}

/** The memory as JSON without keys. */
export function dumpSectors({ size, uid, blocks }: SectorsMemory): unknown {
  return {
    kind: 'sectors',
    size,
    uid: hexOf(uid),
    blocks: blocks.map((bytes, block) => {
      const { first, count } = sectorOf(block);
      return block === first + count - 1
        ? `${'·'.repeat(12)}${hexOf(bytes.subarray(6, 10))}${'·'.repeat(12)}`
        : hexOf(bytes);
    }),
  };
}
