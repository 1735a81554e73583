/**
 * The memory of a file-system card: what stays when the field goes. Plain data, so that whoever holds the card keeps it;
 * what a transaction has pending is not in it.
 */
import { fromLittleEndian, hexOf } from '../../cipher/index.ts';
import { versionIn } from '../../key/index.ts';

export type Generation = 1 | 2 | 3;
/** `des`: DES and two-key triple DES. */
export type CardKeyKind = 'des' | 'tdes3' | 'aes';

/** The bits of a kind in commands: kind and number of keys, and the number of the card's own key. */
export const KIND_BITS: Record<CardKeyKind, number> = { des: 0x00, tdes3: 0x40, aes: 0x80 };
export const CARD_KEY_BYTES: Record<CardKeyKind, number> = { des: 16, tdes3: 24, aes: 16 };

export interface CardKey {
  bytes: Uint8Array;
  /** Of AES keys; triple DES keys have theirs in their lowest bits. */
  version: number;
}

interface FileHead {
  number: number;
  isoId?: number;
  /** 0 plain, 1 MACed, 3 enciphered. */
  mode: 0 | 1 | 3;
  /** Nibbles, the highest first: read, write, both, change; E free, F never. */
  rights: number;
}
export interface DataFile extends FileHead {
  kind: 'standard' | 'backup';
  data: Uint8Array;
}
export interface ValueFile extends FileHead {
  kind: 'value';
  lower: number;
  upper: number;
  value: number;
  limitedCredit: number;
  limitedCreditOn: boolean;
  freeGetValue: boolean;
}
export interface RecordFile extends FileHead {
  kind: 'linear' | 'cyclic';
  size: number;
  most: number;
  /** The newest first. */
  records: Uint8Array[];
}
export type CardFile = DataFile | ValueFile | RecordFile;

export interface Application {
  /** From 0 to FFFFFF; 0 is the card itself. */
  id: number;
  settings: number;
  keyKind: CardKeyKind;
  keys: CardKey[];
  usesIsoIds: boolean;
  isoId?: number;
  name?: Uint8Array;
  files: CardFile[];
}

export interface FilesMemory {
  kind: 'files';
  generation: Generation;
  /** Seven bytes. */
  uid: Uint8Array;
  /** Bytes that applications and files can take. */
  capacity: number;
  randomUid: boolean;
  noFormat: boolean;
  /** What keys of new applications are: 24 bytes, and a version. */
  defaultKey: CardKey;
  ats: Uint8Array;
  card: Application;
  applications: Application[];
}

/** How much a card of 4 KiB holds. */
const CAPACITY = 4096;
/** The unit in which the chip gives memory away. */
const UNIT = 32;

export interface Blank {
  generation: Generation;
  masterKey: CardKeyKind;
  /** Seven bytes, the first 04. */
  uid: Uint8Array;
  capacity?: number;
}

/** A card as it is sold: no application, a card master key of zeros, everything changeable and free. */
export function blankFiles({ generation, masterKey, uid, capacity = CAPACITY }: Blank): FilesMemory {
  return {
    kind: 'files',
    generation,
    uid,
    capacity,
    randomUid: false,
    noFormat: false,
    defaultKey: { bytes: new Uint8Array(24), version: 0 },
    // Sold so [CHIPS, Identity].
    ats: Uint8Array.of(0x06, 0x75, 0x77, 0x81, 0x02, 0x80),
    card: {
      id: 0,
      settings: 0x0f,
      keyKind: masterKey,
      keys: [{ bytes: new Uint8Array(CARD_KEY_BYTES[masterKey]), version: 0 }],
      usesIsoIds: false,
      files: [],
    },
    applications: [],
  };
}

const units = (bytes: number): number => Math.ceil(bytes / UNIT) * UNIT;

/** What a file takes of the memory. */
export function bytesOfFile(file: CardFile): number {
  switch (file.kind) {
    case 'standard':
      return units(file.data.length);
    case 'backup':
      return 2 * units(file.data.length);
    case 'value':
      return UNIT;
    default:
      return units(file.size * file.most);
  }
}

export const bytesOfApplication = ({ keys, files }: Pick<Application, 'keys' | 'files'>): number =>
  UNIT +
  units(keys.reduce((sum, { bytes }) => sum + bytes.length + 1, 0)) +
  files.reduce((sum, file) => sum + bytesOfFile(file), 0);

/** Bytes that are free. */
export const freeMemory = ({ capacity, applications }: FilesMemory): number =>
  capacity - applications.reduce((sum, application) => sum + bytesOfApplication(application), 0);

export const keyVersion = (kind: CardKeyKind, { bytes, version }: CardKey): number =>
  kind === 'aes' ? version : versionIn(bytes);

/** The memory as JSON, to be looked at: of keys the versions alone. */
export function dumpFiles(memory: FilesMemory): unknown {
  const { generation, uid, randomUid, noFormat, card, applications } = memory;
  return {
    kind: 'files',
    generation,
    uid: hexOf(uid),
    randomUid,
    noFormat,
    free: freeMemory(memory),
    card: levelIn(card),
    applications: applications.map((application) => ({
      id: application.id.toString(16).toUpperCase().padStart(6, '0'),
      ...levelIn(application),
      ...(application.isoId !== undefined && { isoId: application.isoId.toString(16).toUpperCase().padStart(4, '0') }),
      ...(application.name && { name: hexOf(application.name) }),
      files: application.files.map(fileIn),
    })),
  };
}

const levelIn = ({ settings, keyKind, keys }: Application) => ({
  settings: hexOf(Uint8Array.of(settings)),
  keyKind,
  keyVersions: keys.map((key) => keyVersion(keyKind, key)),
});

function fileIn(file: CardFile): unknown {
  const { number, kind, mode, rights } = file;
  const head = { number, kind, mode, rights: rights.toString(16).toUpperCase().padStart(4, '0') };
  if (file.kind === 'value') {
    const { lower, upper, value, limitedCredit, limitedCreditOn, freeGetValue } = file;
    return { ...head, lower, upper, value, limitedCredit, limitedCreditOn, freeGetValue };
  }
  if ('records' in file) return { ...head, size: file.size, most: file.most, records: file.records.map(hexOf) };
  return { ...head, data: hexOf(file.data) };
}

/** A number of three bytes, the least significant first. */
export const three = (bytes: Uint8Array, at: number): number => fromLittleEndian(bytes.subarray(at, at + 3));
