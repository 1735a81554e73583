/**
 * Bringing a sector card to a plan: in each sector the data first, by whichever key may write them, and the trailer last. A card
 * that was torn away before or after any frame is finished by the same steps. Torn while a trailer is written a sector can be
 * lost for good: that is the chip's, and is told.
 */
import { accessBits, dataAccess, directoryCrc, type KeyName, SectorRefused, trailerAccess } from '../../chip/index.ts';
import { sameBytes } from '../../cipher/index.ts';
import { fail, RawBitsError } from '../../failure/index.ts';
import { type SectorsHost, trailerBytes } from '../../host/index.ts';
import type { CardStep } from '../bring/index.ts';
import { bytesOfFields, type Known } from '../fields/index.ts';
import { blocksIn, type PlanSector, type SectorPlan, sectorsToBring } from './plan.ts';

export const FACTORY = new Uint8Array(6).fill(0xff);
/** Key A of the sector of the directory, which everybody is meant to know (AN10787). */
export const DIRECTORY_KEY = Uint8Array.of(0xa0, 0xa1, 0xa2, 0xa3, 0xa4, 0xa5);
/** General purpose byte: a directory of version 1 is there, and the card holds several applications (AN10787 §3.1). */
const WITH_DIRECTORY = 0xc1;
const PLAIN = 0x69;

/** A key of a plan as it is to be, and as it may be from before; undefined where it is not at hand. */
export type SectorRing = (name: string) => { now: Uint8Array; before: readonly Uint8Array[] } | undefined;

export interface SectorBringing {
  plan: SectorPlan;
  /** The plan whose keys may stand there besides. */
  was?: SectorPlan;
  ring: SectorRing;
  known: Known;
  before?(step: CardStep): Promise<void> | void;
}

/** Sixteen bytes each: what the data blocks of a sector are to hold, by block; nothing where nobody said. */
export function dataOf(plan: SectorPlan, sector: PlanSector, known: Known): Map<number, Uint8Array> {
  const wanted = new Map<number, Uint8Array>();
  const blocks = blocksIn(sector.number).slice(0, -1);
  if (sector.number === 0 && plan.directory) {
    const bytes = directoryBytes(plan);
    wanted.set(1, bytes.subarray(0, 16)).set(2, bytes.subarray(16));
  }
  if (sector.fields.length === 0) return wanted;
  const bytes = bytesOfFields(sector.fields, 16 * blocks.length, known);
  const claimed = new Set(claimedBlocks(sector));
  for (const [i, block] of blocks.entries())
    if (claimed.has(i)) wanted.set(block, bytes.subarray(16 * i, 16 * (i + 1)));
  return wanted;
}

/** The indexes of the data blocks that fields stand in. */
function claimedBlocks({ fields }: PlanSector): number[] {
  let next = 0;
  return fields.flatMap(({ at, length }) => {
    const from = at ?? next;
    next = from + length;
    return Array.from(
      { length: Math.floor((next - 1) / 16) - Math.floor(from / 16) + 1 },
      (_, i) => Math.floor(from / 16) + i,
    );
  });
}

/** Blocks 1 and 2: CRC ‖ info ‖ fifteen identifiers, the application before its cluster. */
export function directoryBytes({ sectors, publisher }: SectorPlan): Uint8Array {
  const bytes = new Uint8Array(32);
  bytes[1] = publisher;
  for (const { number, application } of sectors)
    if (application !== null && number >= 1 && number <= 15) {
      bytes[2 * number] = Number.parseInt(application.slice(2), 16);
      bytes[2 * number + 1] = Number.parseInt(application.slice(0, 2), 16);
    }
  bytes[0] = directoryCrc(bytes.subarray(1));
  return bytes;
}

/** Brings a card along; gives the steps that were taken. */
export const bringSectors = (host: SectorsHost, about: SectorBringing): Promise<CardStep[]> =>
  new SectorBringer(host, about, false).card();

/** What differs, without changing anything; what no key at hand reads is among it. */
export const compareSectors = (host: SectorsHost, about: SectorBringing): Promise<CardStep[]> =>
  new SectorBringer(host, about, true).card();

/** Takes a card back: everything that the plan put there is zeros again, and the sectors as they are delivered. */
export async function freeSectors(
  host: SectorsHost,
  about: Omit<SectorBringing, 'known' | 'was'>,
): Promise<CardStep[]> {
  const { plan } = about;
  const sectors = sectorsToBring(plan).map(({ number, fields }) => ({
    number,
    keyA: null,
    keyB: null,
    application: null,
    access: { data: [0, 0, 0] as [number, number, number], trailer: 1 },
    fields: fields.map((field) => ({ ...field, content: { is: 'fixed' as const, hex: '' } })),
  }));
  const free: SectorPlan = { ...plan, directory: false, sectors };
  const bringer = new SectorBringer(host, { ...about, plan: free, was: plan, known: { values: {} } }, false);
  return bringer.card();
}

class SectorBringer {
  private readonly steps: CardStep[] = [];

  constructor(
    private readonly host: SectorsHost,
    private readonly about: SectorBringing,
    private readonly looks: boolean,
  ) {}

  async card(): Promise<CardStep[]> {
    for (const sector of sectorsToBring(this.about.plan)) await this.sector(sector);
    return this.steps;
  }

  private async act(step: CardStep, work: () => Promise<void>): Promise<void> {
    if (!this.looks) {
      await this.about.before?.(step);
      await work();
    }
    this.steps.push(step);
  }

  private wanted(sector: PlanSector, key: KeyName): Uint8Array {
    const name = key === 'A' ? sector.keyA : sector.keyB;
    if (name === null) return key === 'A' && sector.number === 0 && this.about.plan.directory ? DIRECTORY_KEY : FACTORY;
    return (
      this.about.ring(name)?.now ??
      fail('key-not-at-hand', `The key "${name}" of sector ${sector.number} is not at hand.`, { field: 'keys' })
    );
  }

  private candidates(sector: PlanSector, key: KeyName): Uint8Array[] {
    const named = [this.about.plan, this.about.was].flatMap((plan) => {
      const one = plan?.sectors.find(({ number }) => number === sector.number);
      const name = key === 'A' ? one?.keyA : one?.keyB;
      const ring = name == null ? undefined : this.about.ring(name);
      return ring ? [ring.now, ...ring.before] : [];
    });
    const all = [this.wanted(sector, key), ...named, FACTORY, ...(sector.number === 0 ? [DIRECTORY_KEY] : [])];
    return all.filter((one, i) => all.findIndex((other) => sameBytes(other, one)) === i);
  }

  /** Authenticates by whichever of the keys that may be there; gives it. */
  private async find(sector: PlanSector, key: KeyName): Promise<Uint8Array | undefined> {
    const trailer = blocksIn(sector.number).at(-1)!;
    for (const bytes of this.candidates(sector, key)) if (await this.enter(trailer, key, bytes)) return bytes;
    return undefined;
  }

  private async enter(block: number, key: KeyName, bytes: Uint8Array): Promise<boolean> {
    try {
      await this.host.authenticate(block, key, bytes);
      return true;
    } catch (error) {
      if (error instanceof SectorRefused || (error instanceof RawBitsError && error.code === 'refused')) return false;
      throw error;
    }
  }

  private async sector(sector: PlanSector): Promise<void> {
    const { number } = sector;
    const trailer = blocksIn(number).at(-1)!;
    const keyA = await this.find(sector, 'A');
    const groups = keyA && accessBits((await this.host.read(trailer)).subarray(6, 9));
    if (!keyA || !groups)
      return fail(
        'sector-lost',
        `No key at hand opens sector ${number}: it is somebody else’s, or was lost when the card was torn away.`,
        { field: 'card' },
        'Take another card.',
      );
    const shows = trailerAccess(groups[3]!).keyBRead !== '';
    const keyB = shows ? (await this.host.read(trailer)).slice(10) : await this.find(sector, 'B');
    const there = { A: keyA, B: shows ? undefined : keyB };
    await this.data(sector, groups, there);
    await this.trailer(sector, groups, there, keyB);
  }

  /** Authenticates by a key that may do something; undefined where none of those at hand may. */
  private async by(
    block: number,
    may: string,
    keys: Partial<Record<KeyName, Uint8Array>>,
  ): Promise<KeyName | undefined> {
    for (const key of ['A', 'B'] as const)
      if (may.includes(key) && keys[key] && (await this.enter(block, key, keys[key]))) return key;
    return undefined;
  }

  private async data(
    sector: PlanSector,
    groups: readonly number[],
    keys: Partial<Record<KeyName, Uint8Array>>,
  ): Promise<void> {
    const blocks = blocksIn(sector.number).slice(0, -1);
    for (const [block, bytes] of dataOf(this.about.plan, sector, this.about.known)) {
      const index = blocks.indexOf(block);
      const access = dataAccess(groups[blocks.length === 3 ? index : Math.floor(index / 5)]!);
      const reads = await this.by(block, access.read, keys);
      if (reads && sameBytes(await this.host.read(block), bytes)) continue;
      if (!reads && this.looks) continue;
      const step: CardStep = { do: 'write block', application: `sector ${sector.number}`, block };
      await this.act(step, async () => {
        if (!(await this.by(block, access.write, keys)))
          fail('not-writable', `Block ${block} of sector ${sector.number} differs, and no key at hand may write it.`, {
            field: 'card',
          });
        await this.host.write(block, bytes);
        if ((await this.by(block, access.read, keys)) && !sameBytes(await this.host.read(block), bytes))
          fail('not-written', `Block ${block} does not hold what was written to it.`);
      });
    }
  }

  private async trailer(
    sector: PlanSector,
    groups: readonly number[],
    keys: Partial<Record<KeyName, Uint8Array>>,
    keyB: Uint8Array | undefined,
  ): Promise<void> {
    const wanted = { A: this.wanted(sector, 'A'), B: this.wanted(sector, 'B') };
    const bits = [...sector.access.data, sector.access.trailer];
    const isSame =
      bits.every((condition, i) => condition === groups[i]) &&
      sameBytes(keys.A!, wanted.A) &&
      keyB !== undefined &&
      sameBytes(keyB, wanted.B);
    if (isSame) return;
    const trailer = blocksIn(sector.number).at(-1)!;
    const { keyAWrite, bitsWrite, keyBWrite } = trailerAccess(groups[3]!);
    // A trailer is written whole, so one key has to be allowed all that changes.
    const all = (['A', 'B'] as const).filter((key) =>
      [keyAWrite, bitsWrite, keyBWrite].every((may) => may.includes(key)),
    );
    const user = sector.number === 0 && this.about.plan.directory ? WITH_DIRECTORY : PLAIN;
    await this.act({ do: 'set the settings', application: `sector ${sector.number}` }, async () => {
      if (!(await this.by(trailer, all.join(''), keys)))
        fail(
          'frozen',
          `The keys and access bits of sector ${sector.number} differ, and can not be changed by the keys at hand.`,
          { field: 'card' },
          'Take another card, or make the plan as this card is.',
        );
      await this.host.write(trailer, trailerBytes(wanted.A, bits, user, wanted.B));
    });
  }
}
