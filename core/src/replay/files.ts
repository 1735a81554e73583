/** A file-system card that an exchange is played on. What it drew is known by the keys on it, from what it answered then. */
import {
  FilesCard,
  type FilesMemory,
  type NewerSession,
  OldestSession,
  type Session,
  StandardSession,
} from '../chip/index.ts';
import { bytesOf, cbcDecrypt, hexOf } from '../cipher/index.ts';
import {
  type Channel,
  cipherOf,
  type ExchangeLine,
  FilesHost,
  FirstChannel,
  type HostKey,
  SecondChannel,
  ThirdChannel,
} from '../host/index.ts';
import type { Choose, Simulated } from './replay.ts';

const KINDS = { des: 'tdes2', tdes3: 'tdes3', aes: 'aes128' } as const;
const AUTHENTICATIONS = [0x0a, 0x1a, 0xaa, 0x71, 0x77];
const CHANGE_KEY = 0xc4;
const MORE = 0xaf;
/** Class, code, two parameters, length, the key's number. */
const KEPT_OF_CHANGE = 6;
/** On the card's own level the kind of the new key stands in its number. */
const KIND_OF_NUMBER: Record<number, HostKey['kind']> = { 0: 'tdes2', 64: 'tdes3', 128: 'aes128' };

/** The keys that may have been put on a level, by its identifier (0 the card's own): the likeliest first. */
export type KeysOfLevel = (application: number) => readonly HostKey[];

export class ReplayedFiles implements Simulated {
  private readonly card: FilesCard;
  /** The key of an authentication under way. */
  private asked: HostKey | undefined;

  constructor(
    memory: FilesMemory,
    private readonly keys: KeysOfLevel,
  ) {
    this.card = new FilesCard(memory);
  }

  powerOff(): void {
    this.card.powerOff();
  }

  async play({ command, answer }: ExchangeLine, choose: Choose): Promise<string | undefined> {
    const apdu = bytesOf(command, 'command');
    if (apdu[1] === CHANGE_KEY) return this.changeKey(apdu, choose);
    if (AUTHENTICATIONS.includes(apdu[1]!)) this.asked = this.keyOf(apdu[5] ?? 0);
    const told = bytesOf(answer, 'answer');
    return hexOf(this.card.transmit(apdu, (count) => this.drawn(told, apdu[1] === MORE, count)));
  }

  private keyOf(slot: number): HostKey | undefined {
    const { keys, keyKind } = this.card.level;
    const key = keys[slot];
    return key && { kind: KINDS[keyKind], bytes: key.bytes, version: key.version };
  }

  /** What the card drew then: its part of an authentication, or the transaction identifier that it told in the second answer. */
  private drawn(told: Uint8Array, isSecond: boolean, count: number): Uint8Array {
    const drawn = new Uint8Array(count);
    if (!this.asked) return drawn;
    const cipher = cipherOf(this.asked);
    const enciphered = told.subarray(0, told.length - 2);
    if (enciphered.length % cipher.size !== 0 || enciphered.length < (isSecond ? 4 : count)) return drawn;
    return cbcDecrypt(cipher, new Uint8Array(cipher.size), enciphered).slice(0, count);
  }

  /** With one of the keys that may have been meant; of a card that knows no session any. */
  private async changeKey(apdu: Uint8Array, choose: Choose): Promise<string | undefined> {
    const { card } = this;
    const { session, level } = card;
    const isCard = level === card.memory.card;
    const [slot, kind] = isCard ? [0, KIND_OF_NUMBER[apdu[5]!]] : [apdu[5]!, KINDS[level.keyKind]];
    const possible = this.keys(level.id).filter((key) => key.kind === kind);
    const old = this.keyOf(slot);
    if (!session || !old || possible.length === 0) return '';
    let came = '';
    const host = new FilesHost(
      {
        transmit: async (sent) => {
          // As many bytes as were sent then, or it was another command.
          const isSame = sent.subarray(0, KEPT_OF_CHANGE).every((byte, i) => byte === apdu[i]);
          if (!isSame) throw new Error('another command');
          const answer = card.transmit(sent, (count) => new Uint8Array(count));
          came = hexOf(answer);
          return answer;
        },
      },
      (count) => new Uint8Array(count),
    );
    host.channel = asHost(session);
    await host.changeKey(slot, possible[choose(possible.length)]!, old, isCard).catch(() => {});
    return came;
  }
}

/** The host's side of a session as it stands. */
function asHost(session: Session): Channel {
  if (session instanceof OldestSession) return new FirstChannel(session.key, session.cipher);
  if (session instanceof StandardSession) return new SecondChannel(session.key, session.cipher, session.vector);
  const { key, keys, transaction, counter } = session as NewerSession;
  return new ThirdChannel(key, keys, transaction, counter);
}
