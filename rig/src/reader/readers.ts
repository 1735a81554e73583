/**
 * Readers that are set up by a plan: each keeps where on a card the credential stands and the keys by which it reads it, as
 * readers at doors do, in a file of its own. What it makes of a card goes step by step.
 */
import { join } from 'node:path';
import type { ReaderSetUp } from '@rawbits/api';
import { type ChipMemory, FilesCard, SectorsCard, sectorFrame, selectionOf } from '@rawbits/core/chip';
import { bytesOf } from '@rawbits/core/cipher';
import { FilesHost, SectorsHost } from '@rawbits/core/host';
import {
  CHIPS,
  type DoorReading,
  type FileReader,
  readAtDoor,
  readSectorAtDoor,
  readTagAtDoor,
  type SectorReader,
} from '@rawbits/core/plan';
import { readMemory, writeMemory } from '../store/memory.ts';

type Draw = (count: number) => Uint8Array;

/** What does not answer at all to a reader for another kind. */
const ofAnotherKind = (kind: keyof typeof CHIPS): DoorReading => ({
  steps: [
    {
      step: kind === 'tag' ? 'hear the tag' : 'select the card',
      holds: false,
      expected: `one of the ${CHIPS[kind]}`,
      came: 'a credential of another kind',
    },
  ],
});

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

  /** What a reader that is set up by a plan makes of a card; undefined where it reads as it always did. */
  async read(id: string, memory: ChipMemory | undefined): Promise<DoorReading | undefined> {
    const { reads, keys } = this.of(id);
    if (reads.reads === 'file') return this.readFile(reads, keys, memory);
    if (reads.reads === 'sector') return this.readSector(reads, keys, memory);
    if (reads.reads === 'tag') return memory?.kind === 'tag' ? readTagAtDoor(memory, reads) : ofAnotherKind('tag');
    return undefined;
  }

  private async readSector(reads: SectorReader, keys: ReaderSetUp['keys'], memory: ChipMemory | undefined) {
    if (memory?.kind !== 'sectors') return ofAnotherKind('sectors');
    const card = new SectorsCard(memory);
    const host = new SectorsHost({ transmitRaw: async (frame) => sectorFrame(card, frame) }, memory.uid);
    const reading = await readSectorAtDoor(host, reads, (name) => {
      const key = keys[name];
      return key && bytesOf(key.hex, 'key');
    });
    card.powerOff();
    return reading;
  }

  private async readFile(reads: FileReader, keys: ReaderSetUp['keys'], memory: ChipMemory | undefined) {
    if (memory?.kind !== 'files') return ofAnotherKind('files');
    const card = new FilesCard(memory);
    const host = new FilesHost({ transmit: async (apdu) => card.transmit(apdu, this.draw) }, this.draw);
    const { uid } = selectionOf(memory, this.draw)!;
    const reading = await readAtDoor(host, reads, uid, (name) => {
      const key = keys[name];
      return key && key.kind !== 'sector'
        ? { kind: key.kind, bytes: bytesOf(key.hex, 'key'), version: key.version }
        : undefined;
    });
    card.powerOff();
    return reading;
  }
}
