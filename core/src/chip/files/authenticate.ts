/** Authentication of a file-system card, the card's side: three passes under one of its keys (DOMAIN §4, CHIPS). */
import {
  Aes,
  type BlockCipher,
  cbcDecrypt,
  cbcEncrypt,
  joined,
  rotatedLeft,
  sameBytes,
  TripleDes,
} from '../../cipher/index.ts';
import type { CardKey, CardKeyKind } from './memory.ts';
import { NewerSession, OldestSession, oldestDecipher, type Session, StandardSession } from './session.ts';
import { refuse } from './status.ts';

export type Random = (count: number) => Uint8Array;

/** An authentication whose first pass was answered. */
export interface Started {
  answer: Uint8Array;
  /** Takes the host's token; gives the card's answer and the session. Refuses `authentication` where it is not right. */
  finish(token: Uint8Array): { answer: Uint8Array; session: Session };
}

export const COMMANDS = { oldest: 0x0a, des: 0x1a, aes: 0xaa, newer: 0x71, again: 0x77 } as const;

/** Parity and version bits are ignored; a key whose halves are equal counts as DES alone. */
function cipherOf(kind: CardKeyKind, bytes: Uint8Array): BlockCipher {
  if (kind === 'aes') return new Aes(bytes);
  return new TripleDes(kind === 'des' && isSingle(bytes) ? bytes.subarray(0, 8) : bytes);
}

const isSingle = (bytes: Uint8Array): boolean =>
  bytes.subarray(0, 8).every((byte, i) => ((byte ^ bytes[i + 8]!) & 0xfe) === 0);

function sessionKey(kind: CardKeyKind, bytes: Uint8Array, a: Uint8Array, b: Uint8Array): Uint8Array {
  const part = (at: number): Uint8Array => joined(a.subarray(at, at + 4), b.subarray(at, at + 4));
  if (kind === 'aes') return joined(part(0), part(12));
  if (kind === 'tdes3') return joined(part(0), part(6), part(12));
  return isSingle(bytes) ? part(0) : joined(part(0), part(4));
}

/** Begins an authentication by command 0A, 1A or AA. Refuses `authentication` where the key is of another kind. */
export function start(command: number, number: number, kind: CardKeyKind, key: CardKey, random: Random): Started {
  const fits = command === COMMANDS.aes ? kind === 'aes' : command === COMMANDS.des ? kind !== 'aes' : kind === 'des';
  if (!fits) refuse('authentication');
  const cipher = cipherOf(kind, key.bytes);
  const size = kind === 'des' ? 8 : 16;
  const b = random(size);
  return command === COMMANDS.oldest
    ? startOldest(number, key, cipher, b)
    : startStandard(number, kind, key, cipher, b);
}

function startOldest(number: number, key: CardKey, cipher: BlockCipher, b: Uint8Array): Started {
  const answer = new Uint8Array(b);
  cipher.encrypt(answer);
  return {
    answer,
    finish: (token) => {
      if (token.length !== 16) refuse('length');
      const clear = oldestDecipher(cipher, token);
      const [a, theirs] = [clear.slice(0, 8), clear.subarray(8)];
      if (!sameBytes(theirs, rotatedLeft(b))) refuse('authentication');
      const confirmation = rotatedLeft(a);
      cipher.encrypt(confirmation);
      const session = new OldestSession(number, sessionKey('des', key.bytes, a, b));
      return { answer: confirmation, session };
    },
  };
}

/** One vector is carried from pass to pass. */
function startStandard(number: number, kind: CardKeyKind, key: CardKey, cipher: BlockCipher, b: Uint8Array): Started {
  const { size } = cipher;
  const answer = cbcEncrypt(cipher, new Uint8Array(size), b);
  return {
    answer,
    finish: (token) => {
      if (token.length !== 2 * b.length) refuse('length');
      const clear = cbcDecrypt(cipher, answer.subarray(answer.length - size), token);
      const [a, theirs] = [clear.slice(0, b.length), clear.subarray(b.length)];
      if (!sameBytes(theirs, rotatedLeft(b))) refuse('authentication');
      const confirmation = cbcEncrypt(cipher, token.subarray(token.length - size), rotatedLeft(a));
      const bytes = sessionKey(kind, key.bytes, a, b);
      const under = kind === 'aes' ? new Aes(bytes) : new TripleDes(bytes);
      return { answer: confirmation, session: new StandardSession(number, under) };
    },
  };
}

/** What this card says of itself in the newer authentication: nothing (6 bytes). */
const CAPABILITIES = new Uint8Array(6);

/**
 * Begins the newer authentication: by 71, or by 77 within the session `going`, whose transaction identifier and counter go
 * on. Draws RndB, then for 71 the transaction identifier.
 */
export function startNewer(
  number: number,
  kind: CardKeyKind,
  key: CardKey,
  random: Random,
  going?: NewerSession,
): Started {
  if (kind !== 'aes') refuse('authentication');
  const cipher = new Aes(key.bytes);
  const zero = new Uint8Array(16);
  const b = random(16);
  return {
    answer: cbcEncrypt(cipher, zero, b),
    finish: (token) => {
      if (token.length !== 32) refuse('length');
      const clear = cbcDecrypt(cipher, zero, token);
      const [a, theirs] = [clear.slice(0, 16), clear.subarray(16)];
      if (!sameBytes(theirs, rotatedLeft(b))) refuse('authentication');
      if (going) {
        const session = new NewerSession(number, key.bytes, a, b, going.transaction, going.counter);
        return { answer: cbcEncrypt(cipher, zero, rotatedLeft(a)), session };
      }
      const transaction = new Uint8Array(random(4));
      const told = joined(transaction, rotatedLeft(a), CAPABILITIES, new Uint8Array(6));
      return {
        answer: cbcEncrypt(cipher, zero, told),
        session: new NewerSession(number, key.bytes, a, b, transaction, 0),
      };
    },
  };
}
