/** The rig: a tray of credentials, readers that turn them into pulses, and the controllers at the end of the lines. */
import { join } from 'node:path';
import type { TrayCard } from '@rawbits/api';
import { Bits } from '@rawbits/core/bits';
import { fail } from '@rawbits/core/failure';
import { pulsesOf, receivePulses } from '@rawbits/core/line';
import { Controller } from './controller.ts';
import { Log } from './log.ts';
import { readMemory, writeMemory } from './memory.ts';
import { EMPTY_SETUP, type RigSetup } from './setup.ts';

export class Rig {
  readonly log: Log;
  private setup: RigSetup;
  private controllers = new Map<string, Controller>();

  constructor(private readonly folder: string) {
    this.log = new Log(folder);
    this.setup = { ...EMPTY_SETUP, ...readMemory(join(folder, 'setup.json'), EMPTY_SETUP) };
    this.wire();
  }

  private wire(): void {
    this.controllers = new Map(
      this.setup.controllers.map(({ id }) => [
        id,
        this.controllers.get(id) ??
          new Controller(id, join(this.folder, 'controllers', id), join(this.folder, 'controllers', `${id}.json`)),
      ]),
    );
  }

  /** Puts the rig together anew; controllers that stay keep their memory. */
  setUp(setup: RigSetup): void {
    writeMemory(join(this.folder, 'setup.json'), setup);
    this.setup = setup;
    this.wire();
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
  serve(site: string): void {
    if (this.setup.site !== site)
      fail(
        'rig-site',
        'These devices belong to another site.',
        { field: 'site' },
        'Load the devices of your own site.',
      );
  }

  get cards(): TrayCard[] {
    return this.setup.cards.map(({ bits: _inside, ...seen }) => seen);
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

  /** Holds a card to a reader: chip → pulses → read → controller. Gives the name of its log entry, if any. */
  present(cardId: string, readerId: string, atMs: number): { id: string | null; message: string } {
    const card = this.setup.cards.find((c) => c.id === cardId) ?? fail('no-card', `The tray has no card "${cardId}".`);
    const reader =
      this.setup.readers.find((r) => r.id === readerId) ?? fail('no-reader', `The rig has no reader "${readerId}".`);
    const timing = { widthUs: reader.pulseWidthUs, spacingUs: reader.pulseSpacingUs };
    const pulses = pulsesOf(Bits.fromBinary(card.bits), timing);
    const at = new Date(atMs).toISOString();
    const controller = reader.controller === null ? null : this.controller(reader.controller);
    const received = controller
      ? controller.receive(pulses, atMs)
      : receivePulses(pulses).reads.map(({ bits }) => ({ bits, decision: null }));
    const entries = received.map(({ bits, decision }) =>
      this.log.append({ at, reader: reader.id, controller: reader.controller, bits: bits.toBinary(), decision }),
    );
    return {
      id: entries.at(-1)?.id ?? null,
      message: entries.length === 0 ? 'Nothing came over the line.' : 'Read.',
    };
  }
}
