/** How a contactless card is known in the field (ISO/IEC 14443-3 §6): identifier, check byte, cascade levels. */
import { joined } from '../../cipher/index.ts';

/** The cascade tag: more of the identifier follows at the next level (§6.5.4). */
const CASCADE = 0x88;

/** The XOR of the four bytes of a level (§6.5.4, BCC). */
export const checkByte = (four: Uint8Array): number => four.reduce((all, byte) => all ^ byte, 0);

/**
 * What a card answers at each cascade level of anticollision: four bytes and their check byte. A UID has 4, 7 or 10 bytes:
 * one, two or three levels.
 */
export function cascadeLevels(uid: Uint8Array): Uint8Array[] {
  const levels: Uint8Array[] = [];
  let rest = uid;
  while (rest.length > 4) {
    levels.push(joined([CASCADE], rest.subarray(0, 3)));
    rest = rest.subarray(3);
  }
  levels.push(rest);
  return levels.map((four) => joined(four, [checkByte(four)]));
}

/** A random identifier, drawn anew on every selection: its first byte is 08 (§6.5.4). `three` are random. */
export const randomUid = (three: Uint8Array): Uint8Array => joined([0x08], three);

export type Selected = { uid: Uint8Array } | 'no card' | 'two cards';

/**
 * Selects what is in the field by anticollision, bit by bit (§6.5.3): where cards differ there is a collision. One reader
 * asks for one card, so more than one is told, not chosen from.
 */
export function selectIn(uids: readonly Uint8Array[]): Selected {
  if (uids.length === 0) return 'no card';
  const [first, ...others] = uids.map((uid) => joined(...cascadeLevels(uid)));
  const collides = others.some(
    (other) => other.some((byte, i) => byte !== first![i]) || other.length !== first!.length,
  );
  // Two that answer alike in every bit cannot be told apart, and look like one.
  return collides ? 'two cards' : { uid: uids[0]! };
}
