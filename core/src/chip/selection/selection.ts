/**
 * A credential in the field of a reader at 13.56 MHz: what it says of itself when it is selected (ISO/IEC 14443-3 §6.4 and
 * §6.5: ATQA, SAK, UID; 14443-4 §5.2: ATS). Proximity tags are not there at that frequency.
 */
import { randomUid, selectIn } from '../field/identity.ts';
import type { Random } from '../files/index.ts';
import type { ChipMemory } from '../keeping/index.ts';

export interface Selection {
  /** Four, seven or ten bytes; a random one begins with 08. */
  uid: Uint8Array;
  /** Two bytes, the first sent first. */
  atqa: Uint8Array;
  sak: number;
  /** Empty where the card does not speak ISO/IEC 14443-4. */
  ats: Uint8Array;
}

/** ATQA of a four-byte identifier; one of seven bytes sets bit 7 (§6.5.2). */
const atqaOf = (first: number, second: number, uid: Uint8Array): Uint8Array =>
  Uint8Array.of(first | (uid.length === 7 ? 0x40 : 0), second);

/** What a credential answers when it is selected; undefined where it is none for this frequency. */
export function selectionOf(memory: ChipMemory, random: Random): Selection | undefined {
  if (memory.kind === 'tag') return undefined;
  if (memory.kind === 'sectors') {
    const { uid, size } = memory;
    const [first, sak] = size === '1K' ? [0x04, 0x08] : [0x02, 0x18];
    return { uid, atqa: atqaOf(first!, 0x00, uid), sak: sak!, ats: new Uint8Array(0) };
  }
  const uid = memory.randomUid ? randomUid(random(3)) : memory.uid;
  return { uid, atqa: atqaOf(0x04, 0x03, uid), sak: 0x20, ats: memory.ats };
}

/** Selects the one credential in a field: more than one is told, not chosen from. */
export function selectOne<K>(
  field: readonly { key: K; memory: ChipMemory }[],
  random: Random,
): { key: K; selection: Selection } | 'no card' | 'two cards' {
  const answering = field.flatMap(({ key, memory }) => {
    const selection = selectionOf(memory, random);
    return selection ? [{ key, selection }] : [];
  });
  const selected = selectIn(answering.map(({ selection }) => selection.uid));
  if (typeof selected === 'string') return selected;
  // Two that answer alike in every bit are two all the same, and their answers to commands would collide.
  return answering.length === 1 ? answering[0]! : 'two cards';
}
