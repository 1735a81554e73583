/** The memory of a simulated credential as JSON text and back, keys and all: for whoever keeps it in a file. */
import { bytesOf, hexOf } from '../../cipher/index.ts';
import { fail } from '../../failure/index.ts';
import type { TagMemory } from '../../lf/index.ts';
import type { FilesMemory } from '../files/index.ts';
import type { SectorsMemory } from '../sectors/index.ts';

export type ChipMemory = FilesMemory | SectorsMemory | TagMemory;

const KINDS = ['files', 'sectors', 'tag'];

/** Bytes stand as `{"hex": "…"}`. */
export const keptText = (memory: ChipMemory): string =>
  JSON.stringify(memory, (_, value: unknown) => (value instanceof Uint8Array ? { hex: hexOf(value) } : value));

/** Throws `chip-memory` where a text is not one that `keptText` made. */
export function memoryFrom(text: string): ChipMemory {
  let memory: unknown;
  try {
    memory = JSON.parse(text, (_, value: unknown) => {
      const hex = (value as { hex?: unknown } | null)?.hex;
      return typeof hex === 'string' ? bytesOf(hex, 'hex') : value;
    });
  } catch {
    memory = undefined;
  }
  const kind = (memory as { kind?: unknown } | undefined)?.kind;
  if (typeof kind !== 'string' || !KINDS.includes(kind))
    fail('chip-memory', 'This is not the memory of a credential.', undefined, 'Put the credential together anew.');
  return memory as ChipMemory;
}

/** A memory of its own with the same in it. */
export const copied = <M extends ChipMemory>(memory: M): M => memoryFrom(keptText(memory)) as M;
