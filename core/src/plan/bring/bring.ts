/**
 * Bringing a file-system card to a plan: what is there is looked at, and the next step taken, until nothing differs. A blank,
 * a card that was torn away at any command, one with an older version of the plan and one whose keys have rolled over are
 * all brought along by the same steps, so nothing has to be known of how far a card had come. What freezes something comes last.
 *
 * Looking alone, without taking steps, is the verification: what it finds is what differs.
 */
import { fail } from '../../failure/index.ts';
import { CardRefusal, type FilesHost, type HostKey } from '../../host/index.ts';
import type { Known } from '../fields/index.ts';
import type { Plan, PlanApplication } from '../schema/index.ts';
import { bringFiles } from './files.ts';
import { wrappedBy } from './grant.ts';
import { settingsByte, settingsIn, WHILE_BUILDING } from './keys.ts';
import { Level } from './level.ts';
import { isWanted, type Ring, type SlotKeys, slotKeys } from './ring.ts';

/** One command that changes the card, in words a technician uses. */
export interface CardStep {
  do:
    | 'create application'
    | 'delete application'
    | 'create file'
    | 'delete file'
    | 'write file'
    | 'set the rights of file'
    | 'change key'
    | 'set the settings'
    | 'set the configuration'
    | 'write block'
    | 'lock block';
  /** Null for the card itself; of other chips the part that is meant, `sector 3` or `the tag`. */
  application: string | null;
  file?: number;
  block?: number;
  slot?: number;
  /** What is lost by it that no plan brings back. */
  loses?: string;
}

export interface Bringing {
  plan: Plan;
  /** An older version of the plan that the card may have, or any that was on it. */
  was?: Plan;
  ring: Ring;
  /** What its fields take from the card and its holder. */
  known: Known;
  /** The identifier by which the card was selected. */
  selected: Uint8Array;
  /** Is waited for before each command that changes the card; what it throws ends it there. */
  before?(step: CardStep): Promise<void> | void;
  /** Steps that an attempt before this one announced: what it replaced is not replaced again. */
  begun?(step: CardStep): boolean;
}

export interface Brought {
  steps: CardStep[];
  /** What cannot be told without a key that is not at hand. */
  unread: string[];
  /** The names of the plan's keys by which something was authenticated. */
  keys: string[];
  /** Identifiers of applications that the plan does not know. */
  others: string[];
}

/** Brings a card along. Throws what the card refuses, and a failure where a key is not at hand or something is frozen. */
export const bringCard = (host: FilesHost, bringing: Bringing): Promise<Brought> =>
  new Bringer(host, bringing, false).card();

/** What `bringCard` would do as far as can be told without doing it. */
export const compareCard = (host: FilesHost, bringing: Bringing): Promise<Brought> =>
  new Bringer(host, bringing, true).card();

export const idOf = (id: string): number => Number.parseInt(id, 16);
const textOf = (id: number): string => id.toString(16).toUpperCase().padStart(6, '0');
const KIND_BITS = { tdes2: 0, tdes3: 0x40, aes128: 0x80 } as const;
const RANDOM_UID = 8;

export class Bringer {
  private readonly brought: Brought = { steps: [], unread: [], keys: [], others: [] };

  constructor(
    readonly host: FilesHost,
    readonly about: Bringing,
    /** Whether it only looks. */
    readonly looks: boolean,
  ) {}

  /** What the fields take, keys of this card under others among it. */
  get known(): Known {
    return { ...this.about.known, wrapped: wrappedBy(this.about.ring) };
  }

  /** Takes a step, having announced it; where it only looks, notes it. Says whether it was taken. */
  async act(step: CardStep, level: Level, work: () => Promise<void>): Promise<boolean> {
    if (!this.looks) {
      await this.about.before?.(step);
      try {
        await work();
      } catch (error) {
        if (error instanceof CardRefusal) level.ended();
        throw error;
      }
    }
    this.brought.steps.push(step);
    return !this.looks;
  }

  cannotRead(what: string): void {
    this.brought.unread.push(what);
  }

  private level(called: string, slots: readonly SlotKeys[]): Level {
    return new Level(this.host, called, slots, (name) => {
      if (!this.brought.keys.includes(name)) this.brought.keys.push(name);
    });
  }

  private cardLevel(): Level {
    const { plan, was, ring } = this.about;
    return this.level('the card', [slotKeys(ring, null, plan.card.keyKind, namesOf(plan.card.key, was?.card.key))]);
  }

  async card(): Promise<Brought> {
    const { plan, was } = this.about;
    await this.host.select();
    const level = this.cardLevel();
    await level.mustEnter(0);
    const there = (await this.host.applications()).map(textOf);
    const planned = plan.applications.map(({ id }) => id);
    for (const id of there)
      if (was?.applications.some((application) => application.id === id) && !planned.includes(id))
        await this.act({ do: 'delete application', application: id, loses: 'all its files' }, level, () =>
          this.host.deleteApplication(idOf(id)),
        );
      else if (!planned.includes(id)) this.brought.others.push(id);
    const open: PlanApplication[] = [];
    for (const application of plan.applications)
      if (await this.isThere(application, there.includes(application.id), level)) open.push(application);
    for (const application of open) await this.application(application);
    await this.ofCard();
    return this.brought;
  }

  /** Sees to it that an application is there; false where it is not, since this only looks. */
  private async isThere(application: PlanApplication, there: boolean, level: Level): Promise<boolean> {
    const { id, there: policy, keyKind, keys, isoId, isoName, files } = application;
    const create: CardStep = { do: 'create application', application: id };
    const begun = this.about.begun?.(create) ?? false;
    if (there && !begun && policy === 'refuse')
      fail('application-there', `The card has an application ${id} already.`, { field: 'card' }, 'Take another card.');
    let isThere = there;
    if (there && !begun && policy === 'replace' && !this.looks) {
      await this.act({ do: 'delete application', application: id, loses: 'all its files' }, level, () =>
        this.host.deleteApplication(idOf(id)),
      );
      isThere = false;
    }
    if (isThere) return true;
    if (policy === 'renew contents' && !begun)
      fail('application-missing', `The card has no application ${id}, and the plan renews its contents only.`, {
        field: 'card',
      });
    const iso = {
      ...(isoId !== undefined && { id: idOf(isoId) }),
      ...(isoName !== undefined && { name: hexBytes(isoName) }),
      files: files.some((file) => 'isoId' in file && file.isoId !== undefined),
    };
    return this.act(create, level, () =>
      this.host.createApplication(idOf(id), WHILE_BUILDING, keyKind, keys.length, iso),
    );
  }

  private async application(application: PlanApplication): Promise<void> {
    const { was, ring } = this.about;
    const { id, keyKind, keys, settings } = application;
    const older = was?.applications.find((one) => one.id === id);
    const slots = keys.map((name, slot) => slotKeys(ring, id, keyKind, namesOf(name, older?.keys[slot])));
    const level = this.level(id, slots);
    await this.host.select(idOf(id));
    await level.mustEnter(0);
    const [byte, kind] = await this.host.keySettings();
    if (kind !== (KIND_BITS[keyKind] | keys.length))
      fail(
        'application-other',
        `The application ${id} on the card has ${kind! & 15} keys of ${kindOf(kind!)}; the plan has ${keys.length} of ${keyKind}.`,
        { field: 'card' },
        'Have the plan replace it, or give it another identifier.',
      );
    await bringFiles(this, application, level);
    if (application.there === 'renew contents') return;
    const now = await this.keys(id, level, slots, byte!);
    const wanted = settingsByte(settings, settings.changeKeys);
    if (now === wanted) return;
    if (!settingsIn(now).changeable) frozen(`The settings of ${id}`);
    await level.mustEnter(0);
    await this.act({ do: 'set the settings', application: id }, level, () => this.host.changeKeySettings(wanted));
  }

  /** Key 0 last. Gives the settings as they are then. */
  private async keys(id: string, level: Level, slots: readonly SlotKeys[], byte: number): Promise<number> {
    let now = byte;
    for (const slot of [...slots.keys()].slice(1).concat(0)) {
      const there = await level.keyIn(slot);
      if (there && isWanted(there, slots[slot]!)) continue;
      now = await this.key(id, level, slot, there, now);
    }
    return now;
  }

  private async key(id: string, level: Level, slot: number, there: HostKey | undefined, byte: number): Promise<number> {
    const { wanted, name } = level.slot(slot);
    if (!wanted)
      return fail(
        'key-not-at-hand',
        `The key "${name}" is not at hand, and the card is to have it as key ${slot} of ${id}.`,
        { field: 'keys' },
        'Put it in the key store, or let its holder set it.',
      );
    if (!there) await level.mustEnter(slot);
    let now = byte;
    let by = changingSlot(settingsIn(now), slot);
    if (by === undefined || !(await level.enter(by))) {
      if (!settingsIn(now).changeable) frozen(`Key ${slot} of ${id}`);
      await level.mustEnter(0);
      if (!this.looks) {
        await this.act({ do: 'set the settings', application: id }, level, () =>
          this.host.changeKeySettings(WHILE_BUILDING),
        );
        now = WHILE_BUILDING;
      }
      by = 0;
      await level.mustEnter(by);
    }
    const taken = await this.act({ do: 'change key', application: id, slot }, level, () =>
      this.host.changeKey(slot, wanted, by === slot ? undefined : there),
    );
    if (taken) level.changed(slot, wanted);
    return now;
  }

  /** The card's own key, its configuration and its settings. */
  private async ofCard(): Promise<void> {
    const { host } = this;
    const { plan, was, selected } = this.about;
    const level = this.cardLevel();
    await host.select();
    await level.mustEnter(0);
    const keys = level.slot(0);
    const there = (await level.keyIn(0))!;
    const wanted = keys.wanted ?? fail('key-not-at-hand', `The key "${keys.name}" of the card is not at hand.`);
    const [byte] = await host.keySettings();
    if (!isWanted(there, keys)) {
      if (!settingsIn(byte!).masterChangeable) frozen('The card master key');
      const taken = await this.act({ do: 'change key', application: null, slot: 0 }, level, () =>
        host.changeKey(0, wanted, undefined, true),
      );
      if (taken) level.changed(0, wanted);
      await level.mustEnter(0);
    }
    const draws = selected.length === 4 && selected[0] === RANDOM_UID;
    const flags = (plan.noFormat && !was?.noFormat ? 1 : 0) | (plan.randomUid && !draws ? 2 : 0);
    // Whether formatting was given up cannot be asked for: it is said again, and no harm done.
    if (flags !== 0 && (!this.looks || flags & 2))
      await this.act({ do: 'set the configuration', application: null }, level, () => host.setConfiguration(flags));
    const settings = settingsByte(plan.card.settings);
    // Of the card itself nobody changes keys but key 0: the high digit is nothing.
    if ((byte! & 15) === settings) return;
    if (!settingsIn(byte!).changeable) frozen('The settings of the card');
    await this.act({ do: 'set the settings', application: null }, level, () => host.changeKeySettings(settings));
  }
}

const namesOf = (name: string | null, older: string | null | undefined): (string | null)[] =>
  older === undefined || older === name ? [name] : [name, older];

const hexBytes = (hex: string): Uint8Array =>
  Uint8Array.from(hex.match(/../g) ?? [], (byte) => Number.parseInt(byte, 16));

const kindOf = (byte: number): string =>
  Object.entries(KIND_BITS).find(([, bits]) => bits === (byte & 0xc0))?.[0] ?? 'an unknown kind';

/** Which slot changes a slot of an application; undefined where none does. */
export function changingSlot(
  { masterChangeable, changeKeys }: PlanApplication['settings'],
  slot: number,
): number | undefined {
  if (slot === 0) return masterChangeable ? 0 : undefined;
  if (changeKeys === 'never') return undefined;
  if (changeKeys === 'itself') return slot;
  return changeKeys === slot ? 0 : changeKeys;
}

const frozen = (what: string): never =>
  fail(
    'frozen',
    `${what} can never be changed again on this card, and the plan has another.`,
    { field: 'card' },
    'Take another card, or make the plan as this card is.',
  );
