/** The rig: a tray of credentials, readers that turn them into pulses, and the controllers at the end of the lines. */
import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import type { DoorStep, ReaderSetUp, TrayCard } from '@rawbits/api';
import { type ControllerOutput, type ControllerState, controllerStep, RELEASE_MS } from '@rawbits/core/access';
import { Bits } from '@rawbits/core/bits';
import { fail } from '@rawbits/core/failure';
import { type LinePulses, receivePulses, wiegandReaderStep } from '@rawbits/core/line';
import type { DoorReading } from '@rawbits/core/plan';
import { Bus } from '../bus/bus.ts';
import { type Clock, machineClock } from '../clock/clock.ts';
import { Controller } from '../controller/controller.ts';
import { Credentials } from '../credential/credentials.ts';
import { deliveredBy } from '../credential/inside.ts';
import { Pad } from '../pad/pad.ts';
import { Readers } from '../reader/readers.ts';
import { Log, type LogEntry } from '../store/log.ts';
import { readMemory, writeMemory } from '../store/memory.ts';
import { EMPTY_SETUP, type RigMemory } from '../store/setup.ts';

const draw = (count: number): Uint8Array => new Uint8Array(randomBytes(count));
/** The encoder's own pad. */
export const RIG_PAD = 'rig-pad';
const readerName = (id: string): string => `reader ${id}`;
const controllerName = (id: string): string => `controller ${id}`;

export class Rig {
  readonly log: Log;
  private readonly credentials: Credentials;
  /** The encoder's pad, and each reader as one: where cards are worked on that are held to it. */
  private readonly pads = new Map<string, Pad>();
  private readonly smart: Readers;
  private setup: RigMemory;
  private controllers = new Map<string, Controller>();
  private bus: Bus;
  /** What is being presented, and what came of it up to now. */
  private presenting: { reader: string; entries: LogEntry[]; chip?: DoorStep[] } | undefined;

  constructor(
    private readonly folder: string,
    readonly clock: Clock = machineClock,
  ) {
    this.log = new Log(folder);
    this.setup = { ...EMPTY_SETUP, ...readMemory(join(folder, 'setup.json'), EMPTY_SETUP) };
    this.credentials = new Credentials(join(folder, 'credentials'));
    this.smart = new Readers(join(folder, 'readers'), draw);
    this.pads.set(RIG_PAD, new Pad(this.credentials, draw));
    this.placeCredentials();
    this.bus = this.wire();
  }

  private placeCredentials(): void {
    for (const pad of this.pads.values()) pad.lay([]);
    this.credentials.place(new Map(this.setup.cards.flatMap(({ id, chip }) => (chip ? [[id, chip]] : []))));
  }

  /** Puts the devices on a bus, readers wired to their controllers; controllers that stay keep their memory. */
  private wire(): Bus {
    const before = this.bus;
    const bus = new Bus(this.clock, (device, output, now) => this.happened(device, output, now));
    this.controllers = new Map(
      this.setup.controllers.map(({ id }) => [
        id,
        this.controllers.get(id) ??
          new Controller(id, join(this.folder, 'controllers', id), join(this.folder, 'controllers', `${id}.json`)),
      ]),
    );
    for (const [id, controller] of this.controllers) {
      const fresh: ControllerState = {
        decide: (bits, atMs, line) => controller.decide(bits, atMs, line),
        releaseMs: RELEASE_MS,
        released: {},
      };
      const name = controllerName(id);
      bus.place(name, controllerStep, before?.stateOf<ControllerState>(name) ?? fresh);
      before?.remove(name);
    }
    for (const { id, controller, pulseWidthUs, pulseSpacingUs } of this.setup.readers)
      bus.place(
        readerName(id),
        wiegandReaderStep,
        { timing: { widthUs: pulseWidthUs, spacingUs: pulseSpacingUs }, line: id },
        controller === null ? [] : [controllerName(controller)],
      );
    return bus;
  }

  get pad(): Pad {
    return this.pads.get(RIG_PAD)!;
  }

  /** A pad by its name; without one the encoder's. */
  padOf(id: string = RIG_PAD): Pad {
    const there = this.pads.get(id);
    if (there) return there;
    if (!this.setup.readers.some((reader) => reader.id === id)) fail('no-pad', `The rig has no pad "${id}".`);
    const pad = new Pad(this.credentials, draw);
    this.pads.set(id, pad);
    return pad;
  }

  get padsOffered(): { id: string; name: string }[] {
    return [
      { id: RIG_PAD, name: 'The rig’s pad' },
      ...this.setup.readers.map(({ id }) => ({ id, name: `Reader ${id}` })),
    ];
  }

  /** Sets a reader up with what it is to read and its keys. */
  setReader(id: string, setUp: ReaderSetUp): void {
    if (!this.setup.readers.some((reader) => reader.id === id)) fail('no-reader', `The rig has no reader "${id}".`);
    this.smart.setUp(id, setUp);
  }

  /** Puts the rig together anew; controllers that stay keep their memory. */
  setUp(setup: RigMemory): void {
    writeMemory(join(this.folder, 'setup.json'), setup);
    this.setup = setup;
    this.placeCredentials();
    this.bus = this.wire();
  }

  get site(): string | null {
    return this.setup.site;
  }

  /** Gives a rig that belongs to no site to one; throws `rig-site` when it belongs to another. */
  claim(site: string): void {
    if (this.setup.site === null) this.setUp({ ...this.setup, site });
    this.serve(site);
  }

  /** Throws `rig-site` unless this rig was set up for the site that somebody acts for. */
  serve(site: string | null): void {
    if (site === null || this.setup.site !== site)
      fail(
        'rig-site',
        'These devices belong to another site.',
        { field: 'site' },
        'Load the devices of your own site.',
      );
  }

  get cards(): TrayCard[] {
    return this.setup.cards.map(({ bits: _bits, chip: _chip, ...seen }) => seen);
  }

  get readers(): { id: string; controller: string | null }[] {
    return this.setup.readers.map(({ id, controller }) => ({ id, controller }));
  }

  get controllerStates(): { id: string; digest: string; size: number }[] {
    return [...this.controllers.values()].map(({ id, digest, size }) => ({ id, digest, size }));
  }

  controller(id: string): Controller {
    return this.controllers.get(id) ?? fail('no-controller', `The rig has no controller "${id}".`);
  }

  /** Whether a controller keeps the door of one of its readers released now. */
  isReleased(controller: string, reader: string): boolean {
    return this.bus.stateOf<ControllerState>(controllerName(controller))?.released[reader] !== undefined;
  }

  /**
   * Holds a card to a reader, whatever the reader is set up for. Where somebody works at the reader as at a pad, they have the
   * card first.
   */
  async hold(cardId: string, readerId: string): Promise<{ id: string | null; message: string }> {
    const pad = this.pads.get(readerId);
    const chip = this.credentials.get(cardId);
    if (pad?.isWatched(this.clock.now()) && chip && chip.memory.kind !== 'tag') {
      pad.lay([cardId]);
      await pad.letGo((ms) => this.clock.after(ms));
      pad.lay([]);
    }
    return this.present(cardId, readerId, await this.smart.read(readerId, this.credentials.get(cardId)?.memory));
  }

  /** Holds a card to a reader: chip → pulses → read → controller. Gives the name of its log entry, if any. */
  present(cardId: string, readerId: string, chip?: DoorReading): { id: string | null; message: string } {
    const card =
      this.setup.cards.find((c) => c.id === cardId) ?? fail('no-credential', `The tray has no card "${cardId}".`);
    const reader =
      this.setup.readers.find((r) => r.id === readerId) ?? fail('no-reader', `The rig has no reader "${readerId}".`);
    if (chip && !chip.bits) return this.stopped(reader, chip.steps);
    const bits = chip?.bits ?? this.bitsOf(card);
    if (!bits) return { id: null, message: 'The reader sees nothing: what is on this credential is not of its kind.' };
    // What the bus does, it does before it gives the word back.
    this.presenting = { reader: reader.id, entries: [], ...(chip && { chip: chip.steps }) };
    try {
      this.bus.send(readerName(reader.id), { held: bits });
      const last = this.presenting.entries.at(-1);
      return { id: last?.id ?? null, message: last ? 'Read.' : 'Nothing came over the line.' };
    } finally {
      this.presenting = undefined;
    }
  }

  /** Notes that a reader did not come so far as to send anything over its line. */
  private stopped({ id, controller }: RigMemory['readers'][number], chip: DoorStep[]): { id: string; message: string } {
    const at = new Date(this.clock.now()).toISOString();
    const entry = this.log.append({ at, reader: id, controller, bits: '', chip, decision: null });
    return { id: entry.id, message: 'The reader did not take the card.' };
  }

  /** What a reader makes of a card; undefined where it sees nothing. */
  private bitsOf({ id, bits }: RigMemory['cards'][number]): Bits | undefined {
    if (bits !== undefined) return Bits.fromBinary(bits);
    const credential = this.credentials.get(id);
    return credential && deliveredBy(credential.memory, draw);
  }

  /** Notes in the log what a reader delivered: what its controller made of it, or bare where none is at the line's end. */
  private happened(device: string, output: unknown, now: number): void {
    if (!this.presenting) return;
    const { reader, entries, chip } = this.presenting;
    const controller = this.setup.readers.find(({ id }) => id === reader)?.controller ?? null;
    const at = new Date(now).toISOString();
    const note = (bits: Bits, decision: LogEntry['decision']) =>
      entries.push(this.log.append({ at, reader, controller, bits: bits.toBinary(), ...(chip && { chip }), decision }));
    if (device === readerName(reader) && controller === null)
      for (const { bits } of receivePulses((output as LinePulses).pulses).reads) note(bits, null);
    if (controller === null || device !== controllerName(controller)) return;
    const sent = output as ControllerOutput;
    if ('read' in sent) note(sent.read, sent.decision);
  }
}
