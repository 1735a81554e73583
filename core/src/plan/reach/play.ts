/** Taking the steps of a reach on a card: what was found is not only told, it can be watched. */

import { fail } from '../../failure/index.ts';
import type { FileMode, FilesHost } from '../../host/index.ts';
import { bringCard, type KeyBytes, keyOf, ringOf, settingsByte, wayOf } from '../bring/index.ts';
import type { Known } from '../fields/index.ts';
import type { Plan, PlanApplication, PlanFile } from '../schema/index.ts';
import { forgedBy } from './forge.ts';
import { ALL_FREE, type FileUse, FREEST, rightsFor, type SlotKey, type Step } from './model.ts';

/** The key that whoever does it puts in place of another. */
const THEIR_BYTES = { aes128: 16, tdes2: 16, tdes3: 24 } as const;
const OPEN = settingsByte(FREEST);

/** Where the steps have led: what the next one means depends on it. */
interface Place {
  application?: PlanApplication;
  session?: number;
  /** Files whose rights were opened, or that were made anew with all of them free. */
  opened: Set<string>;
}

/** A card as it comes from the factory, and what stands for what its fields take. */
export interface Blank {
  host: FilesHost;
  uid: Uint8Array;
  known(plan: Plan): Known;
}

export class Player {
  private place: Place = { opened: new Set() };

  /** `bytes` gives the plan's keys. */
  constructor(
    private readonly host: FilesHost,
    private readonly plan: Plan,
    private readonly bytes: KeyBytes,
    /** A blank of whoever takes the steps, where they take one. */
    private readonly blank?: () => Blank,
  ) {}

  private key(kind: PlanApplication['keyKind'], key: SlotKey) {
    if (key !== 'theirs') return keyOf(kind, key === 'factory' ? null : key.plan, this.bytes);
    return { kind, bytes: Uint8Array.from({ length: THEIR_BYTES[kind] }, (_, i) => 0x11 * (1 + (i % 14))), version: 9 };
  }

  async take(steps: readonly Step[]): Promise<void> {
    const at = steps.findIndex((step) => step.do === 'take a blank');
    for (const step of at < 0 ? steps : steps.slice(0, at)) await this.one(step);
    if (at >= 0) await this.forge(steps.slice(at));
  }

  /** Puts together on a blank what a reader of the plan takes, and reads it as the reader would. */
  private async forge(steps: readonly Step[]): Promise<void> {
    const blank = this.blank?.() ?? fail('no-blank', 'There is no blank to take.');
    const { plan, application, file, slot } = forgedBy(this.plan, steps);
    const { id, keyKind, keys } = application;
    await bringCard(blank.host, {
      plan,
      ring: ringOf(plan, this.bytes),
      known: blank.known(plan),
      selected: blank.uid,
    });
    await blank.host.select(Number.parseInt(id, 16));
    if (slot !== undefined)
      await blank.host.authenticate(wayOf(keyKind), slot, keyOf(keyKind, keys[slot] ?? null, this.bytes));
    await blank.host.read(file.number, 0, 1, slot === undefined ? 'plain' : file.mode);
  }

  private get kind(): PlanApplication['keyKind'] {
    return this.place.application?.keyKind ?? this.plan.card.keyKind;
  }

  private async one(step: Step): Promise<void> {
    const host = this.host;
    switch (step.do) {
      case 'select':
        this.place.session = undefined;
        this.place.application = this.plan.applications.find(({ id }) => id === step.application);
        return host.select(step.application === null ? 0 : Number.parseInt(step.application, 16));
      case 'authenticate':
        this.place.session = step.slot;
        return host.authenticate(wayOf(this.kind), step.slot, this.key(this.kind, step.key));
      case 'create application': {
        const { keyKind, keys } = this.plan.applications.find(({ id }) => id === step.application)!;
        return host.createApplication(Number.parseInt(step.application, 16), OPEN, keyKind, keys.length);
      }
      case 'delete application':
        await host.deleteApplication(Number.parseInt(step.application, 16));
        // An application that deletes itself leaves the card's own level selected, and nobody authenticated.
        if (this.place.application) await host.select();
        this.place.application = undefined;
        return undefined;
      case 'format':
        return host.format();
      case 'open the card’s settings':
      case 'open the settings':
        return host.changeKeySettings(OPEN);
      case 'change key': {
        const old = step.slot === this.place.session ? undefined : this.key(this.kind, step.old);
        return host.changeKey(step.slot, this.key(this.kind, 'theirs'), old, step.isCard);
      }
      case 'set the configuration':
        return host.setConfiguration(NO_CHANGE);
      case 'learn the UID':
        return void (await host.uid());
      case 'list applications':
        return void (await host.applications());
      case 'list files':
        return void (await host.files());
      case 'take a blank':
      case 'put a key in':
        return undefined;
      default:
        return this.withFile(step);
    }
  }

  private async withFile(step: Extract<Step, { file: number }>): Promise<void> {
    const { host, place } = this;
    const { application, session } = place;
    const file = (application ?? this.plan.applications[0]!).files.find(({ number }) => number === step.file)!;
    const called = `${application?.id} ${file.number}`;
    const rights = place.opened.has(called) ? ALL_FREE : file.rights;
    if (step.do === 'create file') {
      place.opened.add(called);
      return this.create(file);
    }
    if (step.do === 'delete file') return host.deleteFile(file.number);
    const mode = (held: unknown[]): FileMode => (session !== undefined && held.includes(session) ? file.mode : 'plain');
    if (step.do === 'open the rights') {
      await host.changeFileSettings(file.number, file.mode, ALL_FREE, rights.change === 'free');
      return void place.opened.add(called);
    }
    return this.use(step.do, file, mode, rights);
  }

  private create(file: PlanFile): Promise<void> {
    const { host } = this;
    const { kind, number, mode } = file;
    if (kind === 'standard' || kind === 'backup') return host.createData(kind, number, mode, ALL_FREE, file.size);
    if (kind === 'value') return host.createValue(number, mode, ALL_FREE, file);
    return host.createRecords(kind, number, mode, ALL_FREE, file.size, file.records);
  }

  private async use(
    what: FileUse,
    file: PlanFile,
    mode: (held: unknown[]) => FileMode,
    rights: PlanFile['rights'],
  ): Promise<void> {
    const { host } = this;
    const { read, write, both } = rights;
    const { number, kind } = file;
    const data = kind === 'value' ? undefined : Uint8Array.of(0xa5);
    if (what === 'read' && kind === 'value') return void (await host.value(number, mode([read, write, both])));
    if (what === 'read' && 'records' in file)
      // Of a file without records there is nothing to read; that it may be read is told by another refusal.
      return void (await host.readRecords(number, 0, 1, file.size, mode([read, both])).catch((error) => {
        if ((error as { status?: number }).status !== BOUNDARY) throw error;
      }));
    if (what === 'read') return void (await host.read(number, 0, 1, mode([read, both])));
    if (what === 'write' && 'records' in file) await host.writeRecord(number, 0, data!, mode([write, both]));
    else if (what === 'write') await host.write(number, 0, data!, mode([write, both]));
    else if (what === 'clear') await host.clearRecords(number);
    else await host.changeValue(what, number, 0, mode(rightsFor(what, kind, rights)));
    if (kind !== 'standard') await host.commit();
  }
}

const BOUNDARY = 0xbe;
/** Flags of a configuration of which none is set. */
const NO_CHANGE = 0;
