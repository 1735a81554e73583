/** A sector card that an exchange is played on: of authentications and trailers nothing is kept but which. */
import { SectorRefused, SectorsCard, type SectorsMemory, sectorFrame, sectorOf } from '../chip/index.ts';
import { bytesOf, hexOf } from '../cipher/index.ts';
import type { ExchangeLine } from '../host/index.ts';
import type { Choose, Simulated } from './replay.ts';

/** The trailers that may have been written to a sector, sixteen bytes each: the likeliest first. */
export type TrailersOfSector = (sector: number) => readonly Uint8Array[];

const [KEY_A, KEY_B, READ, WRITE] = [0x60, 0x61, 0x30, 0xa0];

export class ReplayedSectors implements Simulated {
  private readonly card: SectorsCard;
  /** Blocks that were cut short as they were written. */
  private readonly cut = new Set<number>();

  constructor(
    memory: SectorsMemory,
    private readonly trailers: TrailersOfSector,
  ) {
    this.card = new SectorsCard(memory);
  }

  powerOff(): void {
    this.card.powerOff();
  }

  cutShort({ command }: ExchangeLine): void {
    const [code, block = -1] = bytesOf(command, 'command');
    if (code === WRITE) this.cut.add(block);
  }

  async play({ command, answer }: ExchangeLine, choose: Choose): Promise<string | undefined> {
    const frame = bytesOf(command, 'command');
    const [code, block = 0] = frame;
    try {
      const { sector, first, count } = sectorOf(block);
      const isTrailer = block === first + count - 1;
      if (code === KEY_A || code === KEY_B) {
        const trailer = this.card.memory.blocks[first + count - 1] ?? new Uint8Array(16);
        this.card.authenticate(
          block,
          code === KEY_A ? 'A' : 'B',
          code === KEY_A ? trailer.slice(0, 6) : trailer.slice(10),
        );
        return '';
      }
      if (code === WRITE && isTrailer) {
        const possible = this.trailers(sector);
        if (possible.length === 0) return 'no trailer';
        this.card.write(block, possible[choose(possible.length)]!);
        return '';
      }
      if (this.cut.delete(block) && code === READ && answer.length === 32)
        this.card.memory.blocks[block] = bytesOf(answer, 'answer');
      const came = hexOf(sectorFrame(this.card, frame));
      return code === READ && isTrailer ? undefined : came;
    } catch (error) {
      if (error instanceof SectorRefused) return error.why;
      throw error;
    }
  }
}
