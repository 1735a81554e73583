/** Commands about keys: their versions, and changing them. */
import { joined, sameBytes, xored } from '../../cipher/index.ts';
import { crc32, crcA } from '../field/crc.ts';
import { changingKey } from './access.ts';
import type { FilesCard, Result } from './card.ts';
import type { Commands } from './commands.ts';
import { managed } from './managed.ts';
import { CARD_KEY_BYTES, type CardKey, type CardKeyKind, KIND_BITS, keyVersion } from './memory.ts';
import { OldestSession, StandardSession } from './session.ts';
import { refuse } from './status.ts';

function version(card: FilesCard, [number]: Uint8Array) {
  const { keys, keyKind } = card.level;
  const key = keys[number!] ?? refuse('noSuchKey');
  return { data: Uint8Array.of(keyVersion(keyKind, key)) };
}

/** The key that is meant, and of which kind it will be: on the card's own level the number tells that, too. */
function target({ level, memory }: FilesCard, byte: number): { number: number; kind: CardKeyKind } {
  if (level !== memory.card)
    return { number: byte < level.keys.length ? byte : refuse('noSuchKey'), kind: level.keyKind };
  const kind = (Object.keys(KIND_BITS) as CardKeyKind[]).find((name) => KIND_BITS[name] === (byte & 0xc0));
  if (byte & 0x3f || !kind) refuse('noSuchKey');
  return { number: 0, kind: kind! };
}

function changeKey(card: FilesCard, code: number, data: Uint8Array): Result {
  const session = card.session ?? refuse('authentication');
  const { number, kind } = target(card, data[0]!);
  const { level, memory } = card;
  if (session.key !== changingKey(level, number, level === memory.card)) refuse('authentication');
  const old = level.keys[number]!;
  const isOwn = session.key === number;
  const length = CARD_KEY_BYTES[kind];
  const told = sentKey(card, code, data, length + (kind === 'aes' ? 1 : 0), isOwn);
  const sent = told.data.subarray(0, length);
  const bytes = isOwn ? new Uint8Array(sent) : xored(sent, old.bytes.subarray(0, length));
  if (!isOwn && !told.holds(bytes)) refuse('integrity');
  const key: CardKey = { bytes, version: kind === 'aes' ? told.data[length]! : 0 };
  level.keys[number] = key;
  if (level === memory.card) level.keyKind = kind;
  if (!isOwn) return {};
  card.session = undefined;
  return { bare: true };
}

interface Told {
  /** The key, combined with the old one where it is another than the session's, and the version of an AES key. */
  data: Uint8Array;
  /** Whether the checksum of the new key itself agrees. */
  holds(key: Uint8Array): boolean;
}

/** What a ChangeKey carries, under each kind of session. Refuses `length` and `integrity`. */
function sentKey(card: FilesCard, code: number, data: Uint8Array, length: number, isOwn: boolean): Told {
  const session = card.session!;
  const [head, body] = [data.subarray(0, 1), data.subarray(1)];
  if (session instanceof OldestSession) {
    const all = checkedLength(session.decipher(body), length + (isOwn ? 2 : 4), session.size);
    const told = all.subarray(0, length);
    if (!sameBytes(crcA(told), all.subarray(length, length + 2))) refuse('integrity');
    return { data: told, holds: (key) => sameBytes(crcA(key), all.subarray(length + 2, length + 4)) };
  }
  if (session instanceof StandardSession) {
    const all = checkedLength(session.deciphered(body), length + (isOwn ? 4 : 8), session.size);
    const told = all.subarray(0, length);
    if (!sameBytes(crc32(joined([code], head, told)), all.subarray(length, length + 4))) refuse('integrity');
    return { data: told, holds: (key) => sameBytes(crc32(key), all.subarray(length + 4, length + 8)) };
  }
  const all = session.command(code, head, body, 'full');
  if (all.length !== length + (isOwn ? 0 : 4)) refuse('length');
  return { data: all.subarray(0, length), holds: (key) => sameBytes(crc32(key), all.subarray(length)) };
}

/** Whole blocks with so many bytes in them and zeros after. */
function checkedLength(all: Uint8Array, used: number, size: number): Uint8Array {
  if (all.length !== Math.ceil(used / size) * size) refuse('length');
  if (all.subarray(used).some((byte) => byte !== 0)) refuse('integrity');
  return all;
}

export const keyCommands = {
  GetKeyVersion: managed([1], version),
  ChangeKey: {
    lengthOf: (_card, first) => (first.length < 2 ? refuse('length') : first.length),
    carryOut: changeKey,
  },
} satisfies Commands;
