/**
 * Readers that are set up by a plan: each keeps where on a card the credential stands and the keys by which it reads it, as
 * readers at doors do, in a file of its own. What it makes of a card goes step by step.
 */
import { join } from 'node:path';
import type { ReaderSetUp } from '@rawbits/api';
import { type ChipMemory, FilesCard, selectionOf } from '@rawbits/core/chip';
import { bytesOf } from '@rawbits/core/cipher';
import { FilesHost } from '@rawbits/core/host';
import { type DoorReading, readAtDoor } from '@rawbits/core/plan';
import { readMemory, writeMemory } from '../store/memory.ts';

type Draw = (count: number) => Uint8Array;

export class Readers {
  private readonly there = new Map<string, ReaderSetUp>();

  constructor(
    private readonly folder: string,
    private readonly draw: Draw,
  ) {}

  private file(id: string): string {
    return join(this.folder, `${id}.json`);
  }

  /** How a reader is set up; one that never was reads what it always did. */
  of(id: string): ReaderSetUp {
    let setUp = this.there.get(id);
    if (!setUp) {
      setUp = readMemory<ReaderSetUp>(this.file(id), { reads: { reads: 'uid' }, keys: {} });
      this.there.set(id, setUp);
    }
    return setUp;
  }

  setUp(id: string, setUp: ReaderSetUp): void {
    writeMemory(this.file(id), setUp);
    this.there.set(id, setUp);
  }

  /** What a reader that is set up for a file makes of a card; undefined where it reads as it always did. */
  async read(id: string, memory: ChipMemory | undefined): Promise<DoorReading | undefined> {
    const { reads, keys } = this.of(id);
    if (reads.reads !== 'file') return undefined;
    if (memory?.kind !== 'files')
      return {
        steps: [
          {
            step: 'select the card',
            holds: false,
            expected: 'a file-system card',
            came: 'a credential of another kind',
          },
        ],
      };
    const card = new FilesCard(memory);
    const host = new FilesHost({ transmit: async (apdu) => card.transmit(apdu, this.draw) }, this.draw);
    const { uid } = selectionOf(memory, this.draw)!;
    const reading = await readAtDoor(host, reads, uid, (name) => {
      const key = keys[name];
      return key && { kind: key.kind, bytes: bytesOf(key.hex, 'key'), version: key.version };
    });
    card.powerOff();
    return reading;
  }
}
