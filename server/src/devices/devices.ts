/** The devices of a site, by their names: on whichever host they are, and to whichever server that is connected. */
import type {
  DeviceSort,
  Devices as Offered,
  ReaderSetUp,
  RigSetup,
  WireAnswer,
  WireMethod,
  WireParams,
} from '@rawbits/api';
import type { ItemChange } from '@rawbits/core/access';
import { and, asc, eq, isNull } from 'drizzle-orm';
import type { Database } from '../platform/database/index.ts';
import { type DeviceHosts, isConnected } from './hosts.ts';
import { HostRefusal } from './line.ts';
import { allowedFrom, allowedOf, padsOf } from './offering.ts';
import { deviceHostTable, type HostRow, padClaimTable } from './tables.ts';

const WITHIN_MS = 5000;
const QUICKLY_MS = 1500;
/** A card that is worked on at the reader first. */
const PRESENTED_MS = 20_000;
/** Working through all that a controller holds takes a while. */
const SLOW_MS = 60_000;

/** Of which sort the device is that a call is about. */
const SORT_OF = {
  present: 'readers',
  beginLoad: 'controllers',
  loadPiece: 'controllers',
  commitLoad: 'controllers',
  parts: 'controllers',
} as const satisfies Partial<Record<WireMethod, DeviceSort>>;

type PadMethod = Extract<WireMethod, 'pad' | `pad${string}`>;
export type Parts = WireAnswer<'parts'>;

export class Devices {
  constructor(
    private readonly db: Database,
    readonly hosts: DeviceHosts,
  ) {}

  private hostsOf(site: string): Promise<HostRow[]> {
    return (
      this.db
        .select()
        .from(deviceHostTable)
        .where(and(eq(deviceHostTable.siteId, site), isNull(deviceHostTable.revokedAt)))
        // Of two that offer a device of one name the first that was added is meant, always.
        .orderBy(asc(deviceHostTable.madeAt), asc(deviceHostTable.id))
    );
  }

  /** The hosts of a site that may offer devices of a sort: a name that another gives to something else of its own counts for nothing. */
  private async hostsFor(site: string, sort: DeviceSort): Promise<HostRow[]> {
    return (await this.hostsOf(site)).filter((host) => allowedOf(host).includes(sort));
  }

  /** The host that offers a device; the first that may have its sort offers what nobody else does. */
  private async offering(site: string, sort: DeviceSort, device: string): Promise<HostRow | undefined> {
    const hosts = await this.hostsFor(site, sort);
    return hosts.find(({ offers }) => (offers as string[]).includes(device)) ?? hosts[0];
  }

  private async hostOf(site: string, sort: DeviceSort, device: string): Promise<HostRow> {
    const host = await this.offering(site, sort, device);
    if (!host) throw new HostRefusal(`No host of this site offers the device "${device}".`);
    return host;
  }

  /** Whether what a host says of a device counts: of two that offer one of its name the first that was added is meant. */
  async speaksFor(site: string, hostId: string, sort: DeviceSort, device: string): Promise<boolean> {
    return (await this.offering(site, sort, device))?.id === hostId;
  }

  private async call<M extends keyof typeof SORT_OF>(
    site: string,
    device: string,
    method: M,
    params: WireParams<M>,
    withinMs = WITHIN_MS,
  ): Promise<WireAnswer<M>> {
    return this.hosts.call(await this.hostOf(site, SORT_OF[method], device), method, params, withinMs);
  }

  /** What the hosts of a site offer that answer now; undefined when none does. */
  async of(site: string): Promise<Offered | undefined> {
    const hosts = await this.hostsOf(site);
    const answers = await Promise.all(
      hosts.map((host) =>
        this.hosts.call(host, 'devices', {}, QUICKLY_MS).then(
          (offered) => allowedFrom(host, offered),
          () => undefined,
        ),
      ),
    );
    // What was set up for another site is not this one's, whatever its names are.
    const there = answers.filter((answer) => answer?.site === site) as Offered[];
    if (there.length === 0) return undefined;
    return {
      site,
      cards: there.flatMap(({ cards }) => cards),
      readers: there.flatMap(({ readers }) => readers),
      controllers: there.flatMap(({ controllers }) => controllers),
      pads: there.flatMap(({ pads }) => pads),
    };
  }

  /** A controller as it is now. Throws HostRefusal. */
  async controller(site: string, device: string): Promise<{ digest: string; size: number }> {
    if ((await this.hostsOf(site)).length === 0)
      throw new HostRefusal(`No host of this site offers the device "${device}".`);
    const offered = await this.of(site);
    const controller = offered?.controllers.find(({ id }) => id === device);
    if (!controller) throw new HostRefusal(offered ? 'The rig has no such controller.' : 'The rig does not answer.');
    return controller;
  }

  /** Whether the host of a site answers, wherever its line is. */
  async answers(site: string): Promise<boolean> {
    return (await this.hostsOf(site)).some(isConnected);
  }

  /** Puts the rig of a site together anew; what its controllers hold stays. */
  async setUp(host: HostRow, site: string, setup: RigSetup): Promise<void> {
    await this.hosts.call(host, 'setUp', { site, setup }, WITHIN_MS);
    await this.hosts.noteOffers(host, await this.hosts.call(host, 'devices', {}, WITHIN_MS));
  }

  /** The pads of a site, each known by its host and its own name there: the rig's first. */
  async pads(site: string): Promise<{ id: string; name: string; connected: boolean }[]> {
    const hosts = await this.hostsOf(site);
    return hosts
      .toSorted((a, b) => Number(b.kind === 'rig') - Number(a.kind === 'rig'))
      .flatMap((host) =>
        padsOf(host).map(({ id, name }) => ({ id: `${host.id}/${id}`, name, connected: isConnected(host) })),
      );
  }

  /** Whether the lines of pads are here, or at no server at all: then it can be waited here for them to come back. */
  async linesAreHere(site: string, pads: readonly string[]): Promise<boolean> {
    const hosts = await this.hostsOf(site);
    return pads.every((pad) => {
      const host = hosts.find(({ id }) => id === pad.split('/')[0]);
      return !host || this.hosts.hasLine(host.id) || !isConnected(host);
    });
  }

  /** Whether somebody works at a pad for a while; without one the first of the rig. */
  async isClaimed(site: string, pad?: string): Promise<boolean> {
    const id = pad ?? (await this.pads(site))[0]?.id;
    return (
      (await this.db.$count(padClaimTable, and(eq(padClaimTable.siteId, site), eq(padClaimTable.pad, id ?? '')))) > 0
    );
  }

  /** The host that a pad belongs to; without one the first of the rig. Throws HostRefusal. */
  async hostOfPad(site: string, pad?: string): Promise<HostRow> {
    const hosts = await this.hostsOf(site);
    const host =
      pad === undefined
        ? (hosts.find(({ kind }) => kind === 'rig') ?? hosts[0])
        : hosts.find(({ id }) => id === pad.split('/')[0]);
    if (!host) throw new HostRefusal(pad === undefined ? 'No host of this site offers a pad.' : 'This pad is gone.');
    return host;
  }

  /** The host that offers a reader: the very one, and none that would only be asked in its place. Throws HostRefusal. */
  async hostOfReader(site: string, reader: string): Promise<HostRow> {
    const host = (await this.hostsFor(site, 'readers')).find(({ offers }) => (offers as string[]).includes(reader));
    if (!host) throw new HostRefusal(`No host of this site offers the reader "${reader}".`);
    return host;
  }

  /** Asks a pad of a site; without one the first of its rig. */
  async pad<M extends PadMethod>(site: string, method: M, params: WireParams<M>, pad?: string): Promise<WireAnswer<M>> {
    const [, own] = pad?.split('/') ?? [];
    const host = await this.hostOfPad(site, pad);
    return this.hosts.call(host, method, own === undefined ? params : { ...params, pad: own }, WITHIN_MS);
  }

  /** Sets a reader of a host (`hostOfReader`) up with what it is to read and its keys. */
  setReader(host: HostRow, reader: string, setUp: ReaderSetUp): Promise<unknown> {
    return this.hosts.call(host, 'setReader', { reader, setUp }, WITHIN_MS);
  }

  present(site: string, card: string, reader: string): Promise<WireAnswer<'present'>> {
    return this.call(site, reader, 'present', { card, reader }, PRESENTED_MS);
  }

  /**
   * Begins a load of changes to what the controller holds, whose digest is taken to be `base`; or finds out how many
   * pieces of it have come already, when this very load had been begun.
   */
  async beginLoad(site: string, controller: string, load: string, base: string): Promise<number> {
    return (await this.call(site, controller, 'beginLoad', { controller, load, base })).taken;
  }

  loadPiece(
    site: string,
    controller: string,
    load: string,
    seq: number,
    changes: readonly ItemChange[],
  ): Promise<unknown> {
    return this.call(site, controller, 'loadPiece', {
      controller,
      load,
      seq,
      changes: changes.map(([key, text]) => [key, text]),
    });
  }

  commitLoad(site: string, controller: string, load: string, digest: string): Promise<unknown> {
    return this.call(site, controller, 'commitLoad', { controller, load, digest }, SLOW_MS);
  }

  /** What a controller holds below a prefix of places: digests by the next hex digit, or hashes by key at a place. */
  parts(site: string, controller: string, prefix: string): Promise<Parts> {
    return this.call(site, controller, 'parts', { controller, prefix }, SLOW_MS);
  }
}
