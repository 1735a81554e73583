/**
 * Commands of a file-system card and their answers taken apart, field by field (CHIPS, "Layouts of commands and answers").
 * What is enciphered stays so; what carries a key is never shown, not even enciphered: whoever has the session's key would
 * have the new one.
 */
import { bytesOf, hexOf } from '../cipher/index.ts';
import type { TagFrame } from './tagHost.ts';

export interface Part {
  what: string;
  /** In hex; empty where it is not shown. */
  hex: string;
}
export interface Explained {
  name: string;
  parts: Part[];
}

/** Fields of a command's data after its code: what each is called, and its bytes; the rest is one field. */
type Layout = [what: string, bytes: number][];
const FILE: [string, number] = ['file', 1];
const PLACE: Layout = [FILE, ['offset', 3], ['length', 3]];
const HEAD: Layout = [FILE, ['mode', 1], ['rights', 2]];

const COMMANDS: Record<number, [name: string, layout: Layout, rest: string]> = {
  10: ['Authenticate, oldest way', [['key', 1]], 'data'],
  26: ['Authenticate, triple DES', [['key', 1]], 'data'],
  170: ['Authenticate, AES', [['key', 1]], 'data'],
  113: ['Authenticate, first', [['key', 1]], 'capabilities'],
  119: ['Authenticate, following', [['key', 1]], 'data'],
  90: ['SelectApplication', [['application', 3]], 'data'],
  202: [
    'CreateApplication',
    [
      ['application', 3],
      ['settings', 1],
      ['kind and keys', 1],
    ],
    'file id and name',
  ],
  218: ['DeleteApplication', [['application', 3]], 'MAC'],
  106: ['GetApplicationIDs', [], 'MAC'],
  109: ['GetDFNames', [], 'MAC'],
  252: ['FormatPICC', [], 'MAC'],
  96: ['GetVersion', [], 'MAC'],
  110: ['FreeMem', [], 'MAC'],
  92: ['SetConfiguration', [['option', 1]], 'enciphered'],
  81: ['GetCardUID', [], 'MAC'],
  84: ['ChangeKeySettings', [], 'enciphered'],
  69: ['GetKeySettings', [], 'MAC'],
  100: ['GetKeyVersion', [['key', 1]], 'MAC'],
  196: ['ChangeKey', [['key', 1]], 'the new key, enciphered'],
  205: ['CreateStdDataFile', HEAD, 'size'],
  203: ['CreateBackupDataFile', HEAD, 'size'],
  204: ['CreateValueFile', HEAD, 'lower, upper, value, flags'],
  193: ['CreateLinearRecordFile', HEAD, 'record size, most'],
  192: ['CreateCyclicRecordFile', HEAD, 'record size, most'],
  223: ['DeleteFile', [FILE], 'MAC'],
  111: ['GetFileIDs', [], 'MAC'],
  97: ['GetISOFileIDs', [], 'MAC'],
  245: ['GetFileSettings', [FILE], 'MAC'],
  95: ['ChangeFileSettings', [FILE], 'mode and rights'],
  189: ['ReadData', PLACE, 'MAC'],
  61: ['WriteData', PLACE, 'data'],
  187: ['ReadRecords', PLACE, 'MAC'],
  59: ['WriteRecord', PLACE, 'data'],
  235: ['ClearRecordFile', [FILE], 'MAC'],
  108: ['GetValue', [FILE], 'MAC'],
  12: ['Credit', [FILE], 'amount'],
  28: ['LimitedCredit', [FILE], 'amount'],
  220: ['Debit', [FILE], 'amount'],
  199: ['CommitTransaction', [], 'MAC'],
  167: ['AbortTransaction', [], 'MAC'],
  175: ['go on', [], 'data'],
};
const CHANGE_KEY = 0xc4;
const MORE = 0xaf;

const STATUS: Record<number, string> = {
  0: 'done',
  12: 'nothing to commit',
  14: 'out of memory',
  28: 'unknown command',
  30: 'not intact',
  64: 'no such key',
  126: 'wrong length',
  157: 'never permitted',
  158: 'wrong parameter',
  160: 'no such application',
  174: 'not authenticated',
  175: 'more follows',
  190: 'past the end',
  202: 'another command was under way',
  206: 'no more of these',
  222: 'is there already',
  240: 'no such file',
};

/** Frames of a sector card; what they carry after the block. */
const FRAMES: Record<number, [name: string, rest: string]> = {
  96: ['authenticate with key A', 'key'],
  97: ['authenticate with key B', 'key'],
  48: ['read', 'data'],
  160: ['write', 'data'],
  192: ['decrement', 'amount'],
  193: ['increment', 'amount'],
  194: ['restore', 'data'],
  176: ['transfer', 'data'],
};
const [KEY_A, KEY_B, WRITE] = [0x60, 0x61, 0xa0];
/** Trailers: the last of four blocks, or of sixteen from block 128 on. */
const isTrailer = (block: number): boolean => (block < 128 ? block % 4 === 3 : block % 16 === 15);

/** A frame of a sector card; keys are not shown. */
function explainedFrame(frame: Uint8Array): Explained | undefined {
  const known = frame.length >= 2 ? FRAMES[frame[0]!] : undefined;
  if (!known) return undefined;
  const [name, rest] = known;
  const parts: Part[] = [{ what: 'block', hex: hexOf(frame.subarray(1, 2)) }];
  const carriesKey = frame[0] === KEY_A || frame[0] === KEY_B || (frame[0] === WRITE && isTrailer(frame[1]!));
  if (carriesKey) parts.push({ what: frame[0] === WRITE ? 'keys and access bits' : rest, hex: '' });
  else if (frame.length > 2) parts.push({ what: rest, hex: hexOf(frame.subarray(2)) });
  return { name, parts };
}

/** A wrapped command (`90 INS 00 00 Lc data 00`); anything else is one field. */
export function explainedCommand(apdu: Uint8Array): Explained {
  const frame = explainedFrame(apdu);
  if (frame) return frame;
  const command = apdu[0] === 0x90 ? COMMANDS[apdu[1]!] : undefined;
  if (!command) return { name: 'unknown', parts: [{ what: 'bytes', hex: hexOf(apdu) }] };
  const [name, layout, rest] = command;
  const data = apdu.length > 5 ? apdu.subarray(5, apdu.length - 1) : new Uint8Array(0);
  const parts: Part[] = [];
  let at = 0;
  for (const [what, bytes] of layout) {
    if (at >= data.length) break;
    parts.push({ what, hex: hexOf(data.subarray(at, at + bytes)) });
    at += bytes;
  }
  if (at < data.length) parts.push({ what: rest, hex: apdu[1] === CHANGE_KEY ? '' : hexOf(data.subarray(at)) });
  return { name, parts };
}

export function explainedAnswer(answer: Uint8Array): Explained {
  // A sector card acknowledges with nothing, or answers sixteen bytes of a block.
  if (answer.length === 0) return { name: 'done', parts: [] };
  if (answer.length === 16 && answer[14] !== 0x91)
    return { name: 'done', parts: [{ what: 'data', hex: hexOf(answer) }] };
  const status = answer[answer.length - 1] ?? 0;
  const name =
    answer.length >= 2 && answer[answer.length - 2] === 0x91 ? (STATUS[status] ?? 'another fault') : 'unknown';
  const data = answer.subarray(0, Math.max(0, answer.length - 2));
  const told = { what: 'status', hex: hexOf(answer.subarray(-2)) };
  return { name, parts: data.length === 0 ? [told] : [{ what: 'data', hex: hexOf(data) }, told] };
}

const TAG = 'tag: ';

/** A line of an exchange, both ways, taken apart: what goes to a tag is kept as words and bits, all else in hex. */
export function explainedLine({ command, answer, gone }: ExchangeLine): { asked: Explained; told: Explained } {
  const told = gone ? { name: 'gone before it answered', parts: [] } : undefined;
  if (!command.startsWith(TAG))
    return {
      asked: explainedCommand(bytesOf(command, 'command')),
      told: told ?? explainedAnswer(bytesOf(answer, 'answer')),
    };
  const { name, frame } = keptTagFrame(command)!;
  return {
    asked: { name, parts: [{ what: 'frame, in bits', hex: frame ?? '' }] },
    told: told ?? { name: 'done', parts: [{ what: 'heard', hex: answer }] },
  };
}

/** A kept line to a tag: what it does, and its frame, which is not there where it held a password; undefined for another card's. */
export function keptTagFrame(command: string): { name: string; frame: string | undefined } | undefined {
  if (!command.startsWith(TAG)) return undefined;
  const [name = '', frame] = command.slice(TAG.length).split(', ');
  return { name, frame };
}

/** A command and its answer as they are kept, in hex or, of tags, in words and bits. */
export interface ExchangeLine {
  command: string;
  answer: string;
  /** The card was gone before it answered: whether it did what it was told is not known. */
  gone?: true | undefined;
}

/** Keeps what goes to and fro, without what carries keys: `C4` and its further frames are cut after the key's number. */
export class Exchange {
  readonly lines: ExchangeLine[] = [];
  private changesKey = false;

  /** Without an answer the card was gone before it gave one. */
  private keep(command: string, answer: string | undefined): void {
    this.lines.push(answer === undefined ? { command, answer: '', gone: true } : { command, answer });
  }

  /** A frame of a sector card: of authentications and trailers nothing is kept but which. */
  noteFrame(frame: Uint8Array, answer: Uint8Array | undefined): void {
    const [code, block] = frame;
    const carriesKey = code === KEY_A || code === KEY_B || (code === WRITE && isTrailer(block!));
    const shown = carriesKey ? frame.subarray(0, 2) : frame;
    // Where key B can be read, it stands in the answer.
    const answered = answer && code === 0x30 && isTrailer(block!) ? new Uint8Array(0) : answer;
    this.keep(hexOf(shown), answered && hexOf(answered));
  }

  /** A frame to a tag, and the first two words of what is heard: passwords go in the clear, and nothing of these is kept. */
  noteTagFrame({ name, block, isSecret }: TagFrame, frame: string, heard: string | undefined): void {
    const what = block === undefined ? name : `${name} ${block}`;
    this.keep(`${TAG}${what}${isSecret ? '' : `, ${frame}`}`, heard && (isSecret ? '' : wordsHeard(heard)));
  }

  note(apdu: Uint8Array, answer: Uint8Array | undefined): void {
    const code = apdu[1];
    this.changesKey = code === CHANGE_KEY || (code === MORE && this.changesKey);
    const shown = this.changesKey ? apdu.subarray(0, code === CHANGE_KEY ? 6 : 5) : apdu;
    this.keep(hexOf(shown), answer && hexOf(answer));
  }
}

/** The first two words of what is heard from a tag, one where they are the same. */
export function wordsHeard(heard: string): string {
  const words = heard.slice(0, 64).match(/[01]{32}/g) ?? [];
  return [...new Set(words.map((bits) => Number.parseInt(bits, 2).toString(16).toUpperCase().padStart(8, '0')))].join(
    ' ',
  );
}
