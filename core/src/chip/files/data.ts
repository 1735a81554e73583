/** Commands on the data of files: read, write, credit, debit, records. */
import { joined, littleEndian } from '../../cipher/index.ts';
import { bothRight, FREE, modeBy, onlyInApplication, readRight, writeRight } from './access.ts';
import type { FilesCard, Result } from './card.ts';
import type { Command, Commands } from './commands.ts';
import { findFile } from './fileSettings.ts';
import { type CardFile, type DataFile, type RecordFile, three, type ValueFile } from './memory.ts';
import type { Mode } from './session.ts';
import { refuse } from './status.ts';

const NOTHING = new Uint8Array(0);

/** A file of one of these kinds. Refuses `parameter` where it is of another. */
function fileOf<K extends CardFile['kind']>(
  card: FilesCard,
  number: number,
  ...kinds: K[]
): Extract<CardFile, { kind: K }> {
  onlyInApplication(card);
  const file = findFile(card, number);
  if (!(kinds as string[]).includes(file.kind)) refuse('parameter');
  return file as Extract<CardFile, { kind: K }>;
}

const ofReading = (file: CardFile): number[] => [readRight(file), bothRight(file)];
const ofWriting = (file: CardFile): number[] => [writeRight(file), bothRight(file)];

/** Of a command without data only the newer authentication protects anything. */
function header(card: FilesCard, code: number, data: Uint8Array, mode: Mode, length: number): Uint8Array {
  const { session } = card;
  const clear = session
    ? session.command(code, NOTHING, data, session.kind === 'newer' && mode !== 'plain' ? 'mac' : 'plain')
    : data;
  if (clear.length !== length) refuse('length');
  return clear;
}

/** A command that reads: its header alone, the answer in the file's mode. */
function reads(
  length: number,
  rightsOf: (file: CardFile) => number[],
  kinds: CardFile['kind'][],
  read: (file: never, header: Uint8Array) => { data: Uint8Array; open?: boolean },
): Command {
  return {
    lengthOf: (_card, first) => first.length,
    carryOut: (card, code, data): Result => {
      if (data.length < length) refuse('length');
      const file = fileOf(card, data[0]!, ...kinds);
      const mode = modeBy(card, file, rightsOf(file));
      const head = header(card, code, data, mode, length);
      return { ...read(file as never, head), mode };
    },
  };
}

/** A command that writes: header, then data in the file's mode, in as many frames as they need. */
function writes(
  headerLength: number,
  lengthIn: (header: Uint8Array) => number,
  rightsOf: (file: CardFile) => number[],
  kinds: CardFile['kind'][],
  write: (card: FilesCard, file: never, header: Uint8Array, data: Uint8Array) => void,
): Command {
  const modeOf = (card: FilesCard, first: Uint8Array): Mode => {
    const file = fileOf(card, first[0]!, ...kinds);
    return modeBy(card, file, rightsOf(file));
  };
  return {
    lengthOf: (card, first) => {
      if (first.length < headerLength) refuse('length');
      const length = lengthIn(first.subarray(0, headerLength));
      const mode = modeOf(card, first);
      return headerLength + (card.session?.sent(length, mode) ?? length);
    },
    carryOut: (card, code, data) => {
      const mode = modeOf(card, data);
      const head = data.subarray(0, headerLength);
      const body = data.subarray(headerLength);
      const length = lengthIn(head);
      const { session } = card;
      const clear = session ? session.command(code, head, body, mode, length) : body;
      if (clear.length !== length) refuse('length');
      write(card, fileOf(card, data[0]!, ...kinds) as never, head, clear);
      return { mode: session?.kind === 'newer' && mode !== 'plain' ? 'mac' : 'plain' };
    },
  };
}

/** Number ‖ offset 3 ‖ length 3; a length of 0 goes to the end. */
function readData(file: DataFile, head: Uint8Array) {
  const [offset, length] = [three(head, 1), three(head, 4)];
  if (offset >= file.data.length || offset + length > file.data.length) refuse('boundary');
  const end = length === 0 ? file.data.length : offset + length;
  return { data: file.data.slice(offset, end), open: length === 0 };
}

function writeData(card: FilesCard, file: DataFile, head: Uint8Array, data: Uint8Array): void {
  const offset = three(head, 1);
  if (data.length === 0) refuse('parameter');
  if (offset + data.length > file.data.length) refuse('boundary');
  if (file.kind === 'backup') card.transaction.write(file, offset, data);
  else file.data.set(data, offset);
}

/** Number ‖ the first, counted from the newest ‖ how many, 0 for all from the oldest; the oldest comes first. */
function readRecords(file: RecordFile, head: Uint8Array) {
  const [first, count] = [three(head, 1), three(head, 4)];
  if (first >= file.records.length || first + count > file.records.length) refuse('boundary');
  const end = count === 0 ? file.records.length : first + count;
  return { data: joined(...file.records.slice(first, end).reverse()), open: count === 0 };
}

function writeRecord(card: FilesCard, file: RecordFile, head: Uint8Array, data: Uint8Array): void {
  const offset = three(head, 1);
  if (data.length === 0) refuse('parameter');
  if (offset + data.length > file.size) refuse('boundary');
  card.transaction.writeRecord(file, offset, data);
}

/** A number of four bytes, signed; refuses `parameter` where it is below zero. */
function amountIn(data: Uint8Array): number {
  const amount = data[0]! | (data[1]! << 8) | (data[2]! << 16) | (data[3]! << 24);
  return amount < 0 ? refuse('parameter') : amount;
}

const getValue = reads(
  1,
  (file) => [readRight(file), writeRight(file), bothRight(file), ...((file as ValueFile).freeGetValue ? [FREE] : [])],
  ['value'],
  (file: ValueFile) => ({ data: littleEndian(file.value < 0 ? file.value + 2 ** 32 : file.value, 4) }),
);

const changesValue = (
  rightsOf: (file: CardFile) => number[],
  change: (card: FilesCard, file: ValueFile, amount: number) => void,
): Command =>
  writes(
    1,
    () => 4,
    rightsOf,
    ['value'],
    (card, file: ValueFile, _head, data) => change(card, file, amountIn(data)),
  );

const credit = changesValue(
  (file) => [bothRight(file)],
  (card, file, amount) => card.transaction.credit(file, amount, false),
);
const limitedCredit = changesValue(ofWriting, (card, file, amount) => {
  if (!file.limitedCreditOn) refuse('permission');
  card.transaction.credit(file, amount, true);
});
const debit = changesValue(
  (file) => [readRight(file), writeRight(file), bothRight(file)],
  (card, file, amount) => card.transaction.debit(file, amount),
);

/** Of the record files the right to do both clears them. */
const clearRecords: Command = {
  lengthOf: (_card, first) => first.length,
  carryOut: (card, code, data) => {
    if (data.length < 1) refuse('length');
    const file = fileOf(card, data[0]!, 'linear', 'cyclic');
    modeBy(card, file, [bothRight(file)]);
    const { session } = card;
    const clear = session ? session.command(code, NOTHING, data, card.managed(session)) : data;
    if (clear.length !== 1) refuse('length');
    card.transaction.clearRecords(file);
    return {};
  },
};

export const dataCommands = {
  ReadData: reads(7, ofReading, ['standard', 'backup'], readData),
  WriteData: writes(7, (head) => three(head, 4), ofWriting, ['standard', 'backup'], writeData),
  ReadRecords: reads(7, ofReading, ['linear', 'cyclic'], readRecords),
  WriteRecord: writes(7, (head) => three(head, 4), ofWriting, ['linear', 'cyclic'], writeRecord),
  GetValue: getValue,
  Credit: credit,
  LimitedCredit: limitedCredit,
  Debit: debit,
  ClearRecordFile: clearRecords,
} satisfies Commands;
