/** Commands that make, list, describe and delete files. */
import { joined, littleEndian } from '../../cipher/index.ts';
import { changeRight, FREE, modeBy, needsMaster, onlyInApplication, SETTINGS } from './access.ts';
import type { FilesCard, Result } from './card.ts';
import type { Command, Commands } from './commands.ts';
import { managed } from './managed.ts';
import { bytesOfFile, type CardFile, freeMemory, three } from './memory.ts';
import { refuse } from './status.ts';

const MOST_FILES = 32;
const KINDS: CardFile['kind'][] = ['standard', 'backup', 'value', 'linear', 'cyclic'];

export const findFile = ({ level }: FilesCard, number: number): CardFile =>
  level.files.find((file) => file.number === number) ?? refuse('noFile');

const signed = (bytes: Uint8Array, at: number): number =>
  bytes[at]! | (bytes[at + 1]! << 8) | (bytes[at + 2]! << 16) | (bytes[at + 3]! << 24);
const modeIn = (byte: number): CardFile['mode'] =>
  byte === 0 || byte === 1 || byte === 3 ? byte : refuse('parameter');
const two = (bytes: Uint8Array, at: number): number => bytes[at]! | (bytes[at + 1]! << 8);

interface Head {
  number: number;
  isoId?: number;
  mode: CardFile['mode'];
  rights: number;
}

/** Number ‖ [file id 2] ‖ mode ‖ rights 2 ‖ what the kind needs. `isoId` says whether the kind may have a file id. */
function creates(rest: number, isoId: boolean, make: (head: Head, rest: Uint8Array) => CardFile): Command {
  return managed(isoId ? [4 + rest, 6 + rest] : [4 + rest], (card, data) => {
    onlyInApplication(card);
    needsMaster(card, SETTINGS.freeCreate);
    const hasId = data.length === 6 + rest;
    if (hasId && !card.level.usesIsoIds) refuse('length');
    const at = hasId ? 3 : 1;
    const [number, rights] = [data[0]!, two(data, at + 1)];
    if (number >= MOST_FILES) refuse('parameter');
    const head = { number, ...(hasId && { isoId: two(data, 1) }), mode: modeIn(data[at]!), rights };
    const file = make(head, data.subarray(at + 3));
    const { files } = card.level;
    if (files.some((other) => other.number === number || (hasId && other.isoId === head.isoId))) refuse('duplicate');
    if (bytesOfFile(file) > freeMemory(card.memory)) refuse('outOfMemory');
    files.push(file);
    return undefined;
  });
}

const dataFile = (kind: 'standard' | 'backup') =>
  creates(3, true, (head, rest) => {
    const size = three(rest, 0);
    if (size === 0) refuse('parameter');
    // More than any card holds: nothing of that size is made only to be refused.
    if (size > 0x10000) refuse('outOfMemory');
    return { ...head, kind, data: new Uint8Array(size) };
  });

const recordFile = (kind: 'linear' | 'cyclic') =>
  creates(6, true, (head, rest) => {
    const [size, most] = [three(rest, 0), three(rest, 3)];
    // Of a cyclic file one record is where the next is written.
    if (size === 0 || most < (kind === 'cyclic' ? 2 : 1)) refuse('parameter');
    return { ...head, kind, size, most, records: [] };
  });

/** Lower 4 ‖ upper 4 ‖ value 4 ‖ flags. */
const valueFile = creates(13, false, (head, rest) => {
  const [lower, upper, value, flags] = [signed(rest, 0), signed(rest, 4), signed(rest, 8), rest[12]!];
  if (lower > upper || value < lower || value > upper) refuse('parameter');
  const limitedCreditOn = (flags & 1) !== 0;
  return {
    ...head,
    kind: 'value',
    lower,
    upper,
    value,
    limitedCredit: 0,
    limitedCreditOn,
    freeGetValue: (flags & 2) !== 0,
  };
});

function deleteFile(card: FilesCard, [number]: Uint8Array): undefined {
  onlyInApplication(card);
  needsMaster(card, SETTINGS.freeCreate);
  const file = findFile(card, number!);
  card.level.files = card.level.files.filter((other) => other !== file);
  card.transaction.forget(file);
}

function fileIds(card: FilesCard): Result {
  onlyInApplication(card);
  needsMaster(card, SETTINGS.freeDirectory);
  return { data: Uint8Array.from(card.level.files, ({ number }) => number) };
}

function isoIds(card: FilesCard): Result {
  onlyInApplication(card);
  needsMaster(card, SETTINGS.freeDirectory);
  const ids = card.level.files.flatMap(({ isoId }) => (isoId === undefined ? [] : [littleEndian(isoId, 2)]));
  return { data: joined(...ids) };
}

function settings(card: FilesCard, [number]: Uint8Array): Result {
  onlyInApplication(card);
  needsMaster(card, SETTINGS.freeDirectory);
  const file = findFile(card, number!);
  const head = joined([KINDS.indexOf(file.kind), file.mode], littleEndian(file.rights, 2));
  return { data: joined(head, about(file)) };
}

const four = (value: number): Uint8Array => littleEndian(value < 0 ? value + 2 ** 32 : value, 4);

function about(file: CardFile): Uint8Array {
  if (file.kind === 'value') {
    const flags = (file.limitedCreditOn ? 1 : 0) | (file.freeGetValue ? 2 : 0);
    return joined(four(file.lower), four(file.upper), four(file.limitedCredit), [flags]);
  }
  if ('records' in file)
    return joined(littleEndian(file.size, 3), littleEndian(file.most, 3), littleEndian(file.records.length, 3));
  return littleEndian(file.data.length, 3);
}

/** Number, then mode ‖ rights 2: plain where everybody may change it, else enciphered by a key that may. */
const changeSettings: Command = {
  lengthOf: (_card, first) => first.length,
  carryOut: (card, code, data) => {
    onlyInApplication(card);
    if (data.length < 4) refuse('length');
    const file = findFile(card, data[0]!);
    const isFree = changeRight(file) === FREE;
    if (!isFree) modeBy(card, file, [changeRight(file)]);
    const { session } = card;
    const [head, body] = [data.subarray(0, 1), data.subarray(1)];
    const clear = session ? session.command(code, head, body, isFree ? 'plain' : 'full', 3) : body;
    if (clear.length !== 3) refuse('length');
    file.mode = modeIn(clear[0]!);
    file.rights = two(clear, 1);
    return isFree ? { mode: 'plain' } : {};
  },
};

export const fileCommands = {
  CreateStdDataFile: dataFile('standard'),
  CreateBackupDataFile: dataFile('backup'),
  CreateValueFile: valueFile,
  CreateLinearRecordFile: recordFile('linear'),
  CreateCyclicRecordFile: recordFile('cyclic'),
  DeleteFile: managed([1], deleteFile),
  GetFileIDs: managed([0], fileIds),
  GetISOFileIDs: managed([0], isoIds),
  GetFileSettings: managed([1], settings),
  ChangeFileSettings: changeSettings,
} satisfies Commands;
