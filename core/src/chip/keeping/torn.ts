/**
 * What is left when a card is torn from the field while it writes. A file that the chip backs up, and whatever it commits,
 * is as before or as after, never between (file-system cards, data sheet, "Backup management"). A standard file, a sector
 * block and a block of a tag are written in place: any byte that was to change may hold anything.
 */
import { sameBytes, wordOf } from '../../cipher/index.ts';
import type { CardFile, DataFile, FilesMemory } from '../files/index.ts';
import type { SectorsMemory } from '../sectors/index.ts';
import { type ChipMemory, copied } from './kept.ts';

/** Draws random bytes. */
export type Draw = (count: number) => Uint8Array;

/** One of the memories that can be there after a command that led from one to the other was torn. */
export function torn<M extends ChipMemory>(before: M, after: M, draw: Draw): M {
  if (after.kind === 'files') return tornFiles(before as FilesMemory, after, draw) as M;
  const left = copied(after);
  const was = (before as SectorsMemory).blocks;
  (left as SectorsMemory).blocks.forEach((block, i) => {
    if (typeof block === 'number') {
      const now = left as unknown as { blocks: number[] };
      const old = was[i] as unknown as number;
      if (block !== old) now.blocks[i] = wordOf(undefinedBytes(bytesOfWord(old), bytesOfWord(block), draw));
    } else block.set(undefinedBytes(was[i]!, block, draw));
  });
  return left;
}

function tornFiles(before: FilesMemory, after: FilesMemory, draw: Draw): FilesMemory {
  const left = copied(draw(1)[0]! & 1 ? after : before);
  for (const application of left.applications)
    for (const file of application.files) {
      const old = fileIn(before, application.id, file.number);
      const now = fileIn(after, application.id, file.number);
      if (file.kind === 'standard' && old?.kind === 'standard' && now?.kind === 'standard')
        file.data = undefinedBytes(old.data, now.data, draw);
    }
  return left;
}

const fileIn = (memory: FilesMemory, application: number, number: number): CardFile | DataFile | undefined =>
  memory.applications.find(({ id }) => id === application)?.files.find((file) => file.number === number);

/** Bytes that stay are as they were; one that was to change is the old one, the new one, or anything. */
function undefinedBytes(before: Uint8Array, after: Uint8Array, draw: Draw): Uint8Array {
  if (sameBytes(before, after)) return new Uint8Array(after);
  if (before.length !== after.length) return new Uint8Array(draw(1)[0]! & 1 ? after : before);
  const chance = draw(2 * after.length);
  return after.map((byte, i) => {
    if (byte === before[i]) return byte;
    return [before[i]!, byte, chance[2 * i + 1]!][chance[2 * i]! % 3]!;
  });
}

const bytesOfWord = (word: number): Uint8Array => Uint8Array.of(word >>> 24, word >>> 16, word >>> 8, word);
