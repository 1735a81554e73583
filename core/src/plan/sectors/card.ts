/** A plan of a sector card on a card, and the steps of a reach taken there. */
import type { KeyName } from '../../chip/index.ts';
import { type SectorsHost, trailerBytes } from '../../host/index.ts';
import { standInKey } from '../bring/index.ts';
import { bringSectors, FACTORY } from './bring.ts';
import { blocksIn, everySector, type PlanSector, type SectorPlan } from './plan.ts';
import type { SectorStep } from './reach.ts';

export type SectorKey = (name: string) => Uint8Array;
const THEIRS = Uint8Array.of(0xde, 0xad, 0x11, 0x22, 0x33, 0x44);
const USER_BYTE = 0x69;

/** Six bytes that stand in for a key, made of its name. */
export const standInSectorKey: SectorKey = (name) => standInKey(name).subarray(0, 6);

const bytesOf = (name: string | null, keys: SectorKey): Uint8Array => (name === null ? FACTORY : keys(name));
const trailerOf = (number: number): number => blocksIn(number).at(-1)!;

/** Puts a plan on a card as it is delivered, its data blocks left as they are. */
export async function encodeSectors(host: SectorsHost, plan: SectorPlan, keys: SectorKey): Promise<void> {
  const bare = { ...plan, sectors: plan.sectors.map((sector) => ({ ...sector, fields: [] })) };
  await bringSectors(host, { plan: bare, ring: (name) => ({ now: keys(name), before: [] }), known: { values: {} } });
}

/** Takes steps on a card with the plan on it. */
export class SectorPlayer {
  private session: { sector: PlanSector; key: KeyName } | undefined;
  /** What stands in the trailers that were written since. */
  private readonly now = new Map<number, { keyA: Uint8Array; keyB: Uint8Array; access: number[] }>();

  constructor(
    private readonly host: SectorsHost,
    private readonly plan: SectorPlan,
    private readonly keys: SectorKey,
  ) {}

  async take(steps: readonly SectorStep[]): Promise<void> {
    for (const step of steps) await this.one(step);
  }

  private nowOf(sector: PlanSector) {
    const { number, keyA, keyB, access } = sector;
    let now = this.now.get(number);
    if (!now) {
      now = {
        keyA: bytesOf(keyA, this.keys),
        keyB: bytesOf(keyB, this.keys),
        access: [...access.data, access.trailer],
      };
      this.now.set(number, now);
    }
    return now;
  }

  private async one(step: SectorStep): Promise<void> {
    const host = this.host;
    switch (step.do) {
      case 'authenticate': {
        const sector = everySector(this.plan)[step.sector]!;
        const now = this.nowOf(sector);
        this.session = { sector, key: step.key };
        return host.authenticate(trailerOf(step.sector), step.key, step.key === 'A' ? now.keyA : now.keyB);
      }
      case 'read':
        return void (await host.read(step.block));
      case 'write':
        return host.writeValue(step.block, 5);
      case 'increment':
        return host.add(step.block, 1);
      case 'decrement':
        return host.add(step.block, -1);
      case 'read key B': {
        const bytes = await host.read(trailerOf(step.sector));
        if (bytes.subarray(10).every((byte) => byte === 0)) throw new Error('the card did not show key B');
        return undefined;
      }
      default:
        return this.writeTrailer(step);
    }
  }

  /** A trailer is written whole; the card takes of it what the key may write. */
  private async writeTrailer(step: Extract<SectorStep, { sector: number }>): Promise<void> {
    const sector = everySector(this.plan)[step.sector]!;
    const now = this.nowOf(sector);
    const next = {
      keyA: step.do === 'change key A' ? THEIRS : now.keyA,
      keyB: step.do === 'change key B' ? THEIRS : now.keyB,
      access: step.do === 'open the access bits' ? [0, 0, 0, this.session?.key === 'B' ? 3 : 1] : now.access,
    };
    await this.host.write(trailerOf(step.sector), trailerBytes(next.keyA, next.access, USER_BYTE, next.keyB));
    this.now.set(step.sector, next);
  }
}
