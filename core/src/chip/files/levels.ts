/** Commands about the card and its applications. */
import { joined, littleEndian, sameBytes } from '../../cipher/index.ts';
import { needsMaster, onlyInApplication, onlyOnCard, SETTINGS } from './access.ts';
import type { FilesCard } from './card.ts';
import type { Command, Commands } from './commands.ts';
import { enciphered, managed } from './managed.ts';
import {
  type Application,
  bytesOfApplication,
  CARD_KEY_BYTES,
  type CardKeyKind,
  freeMemory,
  KIND_BITS,
  three,
} from './memory.ts';
import { refuse } from './status.ts';

/** Of the first generation; later ones hold what their memory does. */
const MOST_APPLICATIONS = 28;
const MOST_KEYS = 14;
/** Identifiers in a first frame. */
const IDS_A_FRAME = 19;
/** Hardware's major version by generation [mem]. */
const MAJOR = { 1: 0x01, 2: 0x12, 3: 0x33 } as const;

const kindIn = (byte: number): CardKeyKind => {
  const kinds: Record<number, CardKeyKind> = { 0: 'des', 64: 'tdes3', 128: 'aes' };
  return kinds[byte & 0xc0] ?? refuse('parameter');
};

/** Identifier 3 ‖ settings ‖ kind and keys ‖ [file id 2 ‖ [name 1 to 16]]. */
function createApplication(card: FilesCard, data: Uint8Array): void {
  onlyOnCard(card);
  needsMaster(card, SETTINGS.freeCreate);
  const { memory } = card;
  const [id, settings, kinds] = [three(data, 0), data[3]!, data[4]!];
  const keyKind = kindIn(kinds);
  const count = kinds & 15;
  if (id === 0 || count > MOST_KEYS) refuse('parameter');
  // The bit says of the files that they may have identifiers; the application's own identifier and name stand without it [T].
  const usesIsoIds = (kinds & 0x20) !== 0;
  const application: Application = {
    id,
    settings,
    keyKind,
    keys: Array.from({ length: count }, () => ({
      bytes: memory.defaultKey.bytes.slice(0, CARD_KEY_BYTES[keyKind]),
      version: memory.defaultKey.version,
    })),
    usesIsoIds,
    ...(data.length >= 7 && { isoId: data[5]! | (data[6]! << 8) }),
    ...(data.length > 7 && { name: data.slice(7) }),
    files: [],
  };
  const isSame = (other: Application) =>
    other.id === id ||
    (application.isoId !== undefined && other.isoId === application.isoId) ||
    (application.name && other.name && sameBytes(other.name, application.name));
  if (memory.applications.some(isSame)) refuse('duplicate');
  if (memory.generation === 1 && memory.applications.length >= MOST_APPLICATIONS) refuse('count');
  if (bytesOfApplication(application) > freeMemory(memory)) refuse('outOfMemory');
  memory.applications.push(application);
}

const find = ({ memory }: FilesCard, id: number): Application =>
  memory.applications.find((application) => application.id === id) ?? refuse('noApplication');

/** By the card's key 0, or by the application's own while it is selected. */
function deleteApplication(card: FilesCard, data: Uint8Array): void {
  const application = find(card, three(data, 0));
  if (card.level !== card.memory.card && card.level !== application) refuse('permission');
  needsMaster(card);
  card.memory.applications = card.memory.applications.filter((other) => other !== application);
  if (card.level === application) card.select(card.memory.card);
}

function applicationIds(card: FilesCard) {
  onlyOnCard(card);
  needsMaster(card, SETTINGS.freeDirectory);
  const ids = card.memory.applications.map(({ id }) => littleEndian(id, 3));
  return { data: joined(...ids), cuts: [3 * IDS_A_FRAME] };
}

/** A frame an application that has a name: identifier 3 ‖ file id 2 ‖ name. */
function names(card: FilesCard) {
  onlyOnCard(card);
  needsMaster(card, SETTINGS.freeDirectory);
  const frames = card.memory.applications.flatMap(({ id, isoId, name }) =>
    isoId === undefined ? [] : [joined(littleEndian(id, 3), littleEndian(isoId, 2), name ?? [])],
  );
  const cuts: number[] = [];
  for (const { length } of frames.slice(0, -1)) cuts.push((cuts.at(-1) ?? 0) + length);
  return { data: joined(...frames), cuts };
}

/** It ends the session, so nothing of it is protected. */
const select: Command = {
  lengthOf: () => 3,
  carryOut: (card, _code, data) => {
    const id = three(data, 0);
    card.select(id === 0 ? card.memory.card : find(card, id));
    return { bare: true };
  },
};

function format(card: FilesCard): void {
  onlyOnCard(card);
  needsMaster(card);
  if (card.memory.noFormat) refuse('permission');
  card.memory.applications = [];
}

/** `vendor type subtype major minor storage protocol` twice, then UID, batch, week and year of production. */
function version({ memory: { generation, uid, randomUid } }: FilesCard) {
  const part = [0x04, 0x01, 0x01, MAJOR[generation], 0x00, 0x18, 0x05];
  // A card that draws its UID anew does not tell the one that it has [mem].
  const identity = randomUid ? new Uint8Array(7) : uid;
  return { data: joined(part, part, identity, [0xba, 0x54, 0x0a, 0x11, 0x20, 0x26, 0x24]), cuts: [7, 14] };
}

/** 00 flags, 01 default key and version, 02 ATS. */
const setConfiguration = enciphered(
  1,
  ([option]) => (option === 0 ? 1 : option === 1 ? 25 : (clear) => Math.max(1, clear[0] ?? 1)),
  (card, [option], clear) => {
    onlyOnCard(card);
    needsMaster(card);
    const { memory } = card;
    if (option === 0) {
      // Neither can be taken back [mem].
      memory.noFormat ||= (clear[0]! & 1) !== 0;
      memory.randomUid ||= (clear[0]! & 2) !== 0;
    } else if (option === 1) memory.defaultKey = { bytes: clear.slice(0, 24), version: clear[24]! };
    else if (option === 2 && clear.length === clear[0]) memory.ats = clear.slice();
    else refuse('parameter');
    return undefined;
  },
);

function cardUid(card: FilesCard) {
  if (!card.session) refuse('authentication');
  return { data: card.memory.uid, mode: 'full' as const };
}

const changeSettings = enciphered(
  0,
  () => 1,
  (card, _header, [settings]) => {
    needsMaster(card);
    if (!(card.level.settings & SETTINGS.changeable)) refuse('permission');
    card.level.settings = settings!;
    return undefined;
  },
);

function keySettings(card: FilesCard) {
  needsMaster(card, SETTINGS.freeDirectory);
  const { settings, keyKind, keys } = card.level;
  return { data: Uint8Array.of(settings, KIND_BITS[keyKind] | keys.length) };
}

const commit = (card: FilesCard): undefined => {
  onlyInApplication(card);
  if (!card.transaction.commit()) refuse('noChange');
};
const abort = (card: FilesCard): undefined => {
  onlyInApplication(card);
  if (card.transaction.isEmpty) refuse('noChange');
  card.transaction.drop();
};
const done = (act: (card: FilesCard, data: Uint8Array) => void) => (card: FilesCard, data: Uint8Array) => {
  act(card, data);
  return undefined;
};

export const levelCommands = {
  CreateApplication: managed((length) => length === 5 || (length >= 7 && length <= 23), done(createApplication)),
  DeleteApplication: managed([3], done(deleteApplication)),
  GetApplicationIDs: managed([0], applicationIds),
  GetDFNames: managed([0], names),
  SelectApplication: select,
  FormatPICC: managed([0], done(format)),
  GetVersion: managed([0], version),
  FreeMem: managed([0], (card) => ({ data: littleEndian(freeMemory(card.memory), 3) })),
  SetConfiguration: setConfiguration,
  GetCardUID: managed([0], cardUid),
  ChangeKeySettings: changeSettings,
  GetKeySettings: managed([0], keySettings),
  CommitTransaction: managed([0], commit),
  AbortTransaction: managed([0], abort),
} satisfies Commands;
