/**
 * The credentials of the tray that have a chip or a tag inside: each keeps its memory in a file of its own, written after
 * every command that changed it and on the disk before the answer goes out, so that it outlives the process between any
 * two commands. One that is put together as it was keeps what is on it.
 */
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { ChipInside } from '@rawbits/api';
import { type ChipMemory, keptText, memoryFrom } from '@rawbits/core/chip';
import { readMemory, writeMemory } from '../store/memory.ts';
import { memoryOf, traced } from './inside.ts';

interface Kept {
  /** What it was put together from. */
  inside: string;
  memory: string;
}

export interface Credential {
  id: string;
  memory: ChipMemory;
}

const insideText = (inside: ChipInside): string =>
  createHash('sha256')
    .update(JSON.stringify(Object.entries(inside).sort()))
    .digest('hex');

export class Credentials {
  private readonly there = new Map<string, Credential>();

  constructor(private readonly folder: string) {}

  private file(id: string): string {
    return join(this.folder, `${id}.json`);
  }

  /** Puts the credentials together, or takes up those that are there as they were put together before. */
  place(insides: ReadonlyMap<string, ChipInside>): void {
    mkdirSync(this.folder, { recursive: true });
    for (const name of readdirSync(this.folder))
      if (!insides.has(name.replace(/[.]json$/, ''))) rmSync(join(this.folder, name), { force: true });
    this.there.clear();
    for (const [id, inside] of insides) {
      const own = insideText(inside);
      const kept = existsSync(this.file(id)) ? readMemory<Kept | undefined>(this.file(id), undefined) : undefined;
      if (kept?.inside === own) this.there.set(id, { id, memory: traced(memoryFrom(kept.memory), id) });
      else {
        const memory = memoryOf(inside, id);
        writeMemory(this.file(id), { inside: own, memory: keptText(memory) } satisfies Kept);
        this.there.set(id, { id, memory });
      }
    }
  }

  get(id: string): Credential | undefined {
    return this.there.get(id);
  }

  /** Keeps a memory: on the disk when this returns. Throws `rig-memory`, the old one untouched, where it cannot be kept. */
  keep(id: string, memory: ChipMemory): void {
    const { inside } = readMemory<Kept>(this.file(id), { inside: '', memory: '' });
    writeMemory(this.file(id), { inside, memory: keptText(memory) } satisfies Kept);
    this.put(id, memory);
  }

  /** What a credential is taken to hold, as long as this process runs. */
  put(id: string, memory: ChipMemory): void {
    this.there.set(id, { id, memory });
  }
}
