/** A plan of a sector card on a card, and the steps of a reach taken there. */
import { blankSectors, type KeyName, SectorsCard, type SectorsMemory, sectorFrame } from '../../chip/index.ts';
import { fail } from '../../failure/index.ts';
import { SectorsHost, trailerBytes } from '../../host/index.ts';
import { standInKey } from '../bring/index.ts';
import { bringSectors, FACTORY } from './bring.ts';
import { blocksIn, everySector, type PlanSector, type SectorPlan } from './plan.ts';
import type { SectorStep } from './reach.ts';

type TrailerStep = Extract<SectorStep, { do: 'open the access bits' | 'change key A' | 'change key B' }>;
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

const UID = Uint8Array.of(0xa1, 0xb2, 0xc3, 0xd4);
/** Of another card than that of the plan. */
const BLANK_UID = Uint8Array.of(0x0b, 0x1a, 0x2c, 0x3d);

/** A card with the plan on it under keys that stand in for its own; in its data blocks stand values, so that they can be counted in. */
export async function standInSectors(plan: SectorPlan): Promise<{ memory: SectorsMemory; uid: Uint8Array }> {
  const card = new SectorsCard(blankSectors(plan.size, UID));
  const host = new SectorsHost({ transmitRaw: async (frame) => sectorFrame(card, frame) }, UID);
  for (const { number } of plan.sectors)
    for (const block of blocksIn(number).slice(0, -1)) {
      if (block === 0) continue;
      await host.authenticate(block, 'A', FACTORY);
      await host.writeValue(block, 5);
    }
  await encodeSectors(host, plan, standInSectorKey);
  return { memory: card.memory, uid: UID };
}

/** A blank of whoever takes the steps, as it is delivered. */
export const standInBlankSectors = ({ size }: SectorPlan): { memory: SectorsMemory; uid: Uint8Array } => ({
  memory: blankSectors(size, BLANK_UID),
  uid: BLANK_UID,
});

/** Takes steps on a card with the plan on it. */
export class SectorPlayer {
  private session: { sector: PlanSector; key: KeyName } | undefined;
  /** What stands in the trailers that were written since. */
  private readonly now = new Map<number, { keyA: Uint8Array; keyB: Uint8Array; access: number[] }>();

  constructor(
    private readonly host: SectorsHost,
    private readonly plan: SectorPlan,
    private readonly keys: SectorKey,
    /** A blank of whoever takes the steps, where they take one. */
    private readonly blank?: () => SectorsHost,
  ) {}

  async take(steps: readonly SectorStep[]): Promise<void> {
    const at = steps.findIndex((step) => step.do === 'take a blank');
    for (const step of at < 0 ? steps : steps.slice(0, at)) await this.one(step);
    if (at >= 0) await this.forge(steps.slice(at + 1));
  }

  /** Puts together on a blank what a reader takes, and reads it as the reader would. */
  private async forge(steps: readonly SectorStep[]): Promise<void> {
    const host = this.blank?.() ?? fail('no-blank', 'There is no blank to take.');
    let block = 0;
    let [slot, key]: [KeyName, Uint8Array] = ['A', FACTORY];
    for (const step of steps)
      if (step.do === 'write') {
        block = step.block;
        await host.authenticate(block, 'A', FACTORY);
        await host.writeValue(block, 5);
      } else if (step.do === 'put a key in') {
        [slot, key] = [step.slot, this.keys(step.key)];
        const [keyA, keyB, trailer] = slot === 'A' ? [key, FACTORY, 1] : [FACTORY, key, 3];
        await host.authenticate(trailerOf(step.sector), 'A', FACTORY);
        await host.write(trailerOf(step.sector), trailerBytes(keyA, [0, 0, 0, trailer], USER_BYTE, keyB));
      }
    await host.authenticate(block, slot, key);
    await host.read(block);
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
      case 'decrement':
      case 'restore':
        return host.count(step.block, step.do, 1);
      case 'transfer':
        return host.transfer(step.block);
      case 'read key B': {
        const bytes = await host.read(trailerOf(step.sector));
        if (bytes.subarray(10).every((byte) => byte === 0)) throw new Error('the card did not show key B');
        return undefined;
      }
      case 'take a blank':
      case 'put a key in':
        return undefined;
      default:
        return this.writeTrailer(step);
    }
  }

  /** A trailer is written whole; the card takes of it what the key may write. */
  private async writeTrailer(step: TrailerStep): Promise<void> {
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
