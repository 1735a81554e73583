/**
 * A file-system card as whoever attacks it has it before them: which keys they know, and what each command would do. Only what
 * decides about further commands is in it; the rules are the chip's (CHIPS, "Layouts of commands and answers", "Files").
 *
 * Of every command that sets something, the freest setting alone is a step: everything that another setting would open, the
 * freest opens, too. What a command can take away is told as an ability of its own.
 */
import type { FilesCommand } from '../../chip/index.ts';
import type { Plan, PlanApplication, PlanFile, Who } from '../schema/index.ts';

/** What stands in a slot: a key of the plan, the factory's, or one that whoever attacks put there. */
export type SlotKey = { plan: string; level: 'card' | 'application' } | 'factory' | 'theirs';
const slotKey =
  (level: 'card' | 'application') =>
  (name: string | null): SlotKey =>
    name === null ? 'factory' : { plan: name, level };

export interface Settings {
  masterChangeable: boolean;
  freeDirectory: boolean;
  freeCreate: boolean;
  changeable: boolean;
}

/** What is planned, gone, or was put there by whoever does it. */
type Standing = 'planned' | 'gone' | 'theirs';

export interface CardState {
  level: 'card' | 'application';
  /** The slot that is authenticated; undefined where none is. */
  session: number | undefined;
  card: { key: SlotKey; settings: Settings };
  application: {
    standing: Standing;
    keys: readonly SlotKey[];
    settings: Settings;
    changeKeys: PlanApplication['settings']['changeKeys'];
  };
  file: { standing: Standing; rights: PlanFile['rights'] };
}

/** What is looked at: one application, and one file or one slot of it, or none. */
export interface Focus {
  plan: Plan;
  application?: PlanApplication;
  file?: PlanFile;
  slot?: number;
}

/** One command, as data: it can be told, and played on a card. */
export type Step =
  | { do: 'select'; application: string | null }
  | { do: 'authenticate'; slot: number; key: SlotKey }
  | { do: 'create application' | 'delete application'; application: string }
  | { do: 'format' | 'open the card’s settings' | 'open the settings' | 'set the configuration' | 'learn the UID' }
  | { do: 'change key'; slot: number; old: SlotKey; isCard: boolean }
  | { do: 'create file' | 'delete file' | 'open the rights' | FileUse; file: number }
  | { do: 'list applications' | 'list files' }
  /** From here on it is another card: one of whoever does it, as it comes from the factory. */
  | { do: 'take a blank' }
  /** A key of the plan, made for the blank where each card has its own. */
  | { do: 'put a key in'; slot: number; key: string };

export type FileUse = 'read' | 'write' | 'credit' | 'limited credit' | 'debit' | 'clear';

/**
 * The steps that stand for each command of the chip, or why it needs none. The table is the chip's own: a command that is not in
 * it does not compile, and the walks of `walk.test.ts` drive each of them.
 */
export const STEPS_OF: Record<FilesCommand, readonly Step['do'][] | string> = {
  Authenticate: ['authenticate'],
  AuthenticateISO: ['authenticate'],
  AuthenticateAES: ['authenticate'],
  AuthenticateEV2First: ['authenticate'],
  AuthenticateEV2NonFirst: ['authenticate'],
  AdditionalFrame: 'goes on with the command before it',
  CreateApplication: ['create application'],
  DeleteApplication: ['delete application'],
  GetApplicationIDs: ['list applications'],
  GetDFNames: ['list applications'],
  SelectApplication: ['select'],
  FormatPICC: ['format'],
  GetVersion: 'shows what every card of the kind shows to everybody, and the UID where it is no secret',
  FreeMem: 'shows to everybody how much memory is free',
  SetConfiguration: ['set the configuration'],
  GetCardUID: ['learn the UID'],
  ChangeKeySettings: ['open the settings', 'open the card’s settings'],
  GetKeySettings: ['list files', 'list applications'],
  CommitTransaction: 'part of each step that writes to a file whose changes are committed',
  AbortTransaction: 'takes back what was not committed, as the end of the field does',
  GetKeyVersion: 'shows to everybody which version a key has, which is no secret',
  ChangeKey: ['change key'],
  CreateStdDataFile: ['create file'],
  CreateBackupDataFile: ['create file'],
  CreateValueFile: ['create file'],
  CreateLinearRecordFile: ['create file'],
  CreateCyclicRecordFile: ['create file'],
  DeleteFile: ['delete file'],
  GetFileIDs: ['list files'],
  GetISOFileIDs: ['list files'],
  GetFileSettings: ['list files'],
  ChangeFileSettings: ['open the rights'],
  ReadData: ['read'],
  WriteData: ['write'],
  ReadRecords: ['read'],
  WriteRecord: ['write'],
  GetValue: ['read'],
  Credit: ['credit'],
  LimitedCredit: ['limited credit'],
  Debit: ['debit'],
  ClearRecordFile: ['clear'],
};

export const FREEST: Settings = { masterChangeable: true, freeDirectory: true, freeCreate: true, changeable: true };
export const ALL_FREE: PlanFile['rights'] = { read: 'free', write: 'free', both: 'free', change: 'free' };

/** The card as it was planned, its field just come. */
export function planned({ plan, application, file }: Focus): CardState {
  return {
    level: 'card',
    session: undefined,
    card: { key: slotKey('card')(plan.card.key), settings: plan.card.settings },
    application: application
      ? {
          standing: 'planned',
          keys: application.keys.map(slotKey('application')),
          settings: application.settings,
          changeKeys: application.settings.changeKeys,
        }
      : { standing: 'gone', keys: [], settings: FREEST, changeKeys: 0 },
    file: file ? { standing: 'planned', rights: file.rights } : { standing: 'gone', rights: ALL_FREE },
  };
}

/** Which slot changes a slot of an application; undefined where none does. */
export function changingSlot({ settings, changeKeys }: CardState['application'], slot: number): number | undefined {
  if (slot === 0) return settings.masterChangeable ? 0 : undefined;
  if (changeKeys === 'never') return undefined;
  if (changeKeys === 'itself') return slot;
  return changeKeys === slot ? 0 : changeKeys;
}

/** Which rights of a file allow a use of it (CHIPS, "Files": clear RW; GetValue and Debit R, W or RW; LimitedCredit W or RW; Credit RW). */
export function rightsFor(use: FileUse, kind: PlanFile['kind'], { read, write, both }: PlanFile['rights']): Who[] {
  if (use === 'credit' || use === 'clear') return [both];
  if (use === 'write' || use === 'limited credit') return [write, both];
  if (use === 'debit' || kind === 'value') return [read, write, both];
  return [read, both];
}

/** The uses that a file has. */
export function usesOf(file: PlanFile): FileUse[] {
  const { kind } = file;
  if (kind === 'value')
    return ['read', 'credit', ...(file.limitedCredit ? (['limited credit'] as const) : []), 'debit'];
  return kind === 'linear' || kind === 'cyclic' ? ['read', 'write', 'clear'] : ['read', 'write'];
}
