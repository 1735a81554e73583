/**
 * Talking to a file-system card: authentication, and a command with its answer in as many frames as they need, protected as
 * the session has it. What is random is passed in; keys are bytes, kept no longer than the call.
 */
import { Aes, cbcDecrypt, cbcEncrypt, joined, rotatedLeft, sameBytes } from '../cipher/index.ts';
import { fail } from '../failure/index.ts';
import {
  type Channel,
  FirstChannel,
  OPEN,
  type Outgoing,
  type Protection,
  SecondChannel,
  ThirdChannel,
} from './channel.ts';
import { CardRefusal } from './failure.ts';
import { cipherOf, type HostKey, newerKeys, sessionCipher } from './sessionKeys.ts';
import type { Transport } from './transport.ts';

/** `oldest` 0A, `iso` 1A, `aes` AA, `newer` 71, and 77 within a session of it. */
export type Authentication = 'oldest' | 'iso' | 'aes' | 'newer';

const FRAME = 54;
/** More than any answer has: the largest file is smaller. */
const MOST_ANSWER = 0x10000;
const NOTHING = new Uint8Array(0);

export class Conversation {
  channel: Channel = OPEN;

  constructor(
    private readonly transport: Pick<Transport, 'transmit'>,
    private readonly random: (count: number) => Uint8Array,
  ) {}

  /** Sends a command; gives its clear answer. Throws `CardRefusal` with the card's status. */
  protected async send(command: Outgoing): Promise<Uint8Array> {
    const { channel } = this;
    try {
      return channel.open(command, await this.exchange(command.name, command.code, channel.seal(command)));
    } catch (error) {
      // An error ends what was authenticated; after 0A the card goes on, and so it is authenticated anew all the same.
      if (!(channel instanceof FirstChannel)) this.channel = OPEN;
      throw error;
    }
  }

  /** The frames of a command and of its answer. */
  protected async exchange(name: string, code: number, body: Uint8Array, asks = 0): Promise<Uint8Array> {
    let sent = Math.min(FRAME, body.length);
    let answer = await this.frame(code, body.subarray(0, sent));
    while (sent < body.length) {
      if (answer.status !== 0xaf) throw new CardRefusal(answer.status, name);
      const next = body.subarray(sent, sent + FRAME);
      sent += next.length;
      answer = await this.frame(0xaf, next);
    }
    const parts = [answer.data];
    let length = answer.data.length;
    // In an authentication AF asks for the host's part, not for the rest of an answer.
    while (answer.status === 0xaf && asks === 0) {
      // A frame that others follow is never empty: the card waits for more of the command than there is.
      if (answer.data.length === 0 || length > MOST_ANSWER) throw new CardRefusal(answer.status, name);
      answer = await this.frame(0xaf, NOTHING);
      parts.push(answer.data);
      length += answer.data.length;
    }
    if (answer.status !== (asks === 0 ? 0x00 : asks)) throw new CardRefusal(answer.status, name);
    return joined(...parts);
  }

  private async frame(code: number, body: Uint8Array): Promise<{ status: number; data: Uint8Array }> {
    const lengths = body.length === 0 ? [] : [body.length, ...body];
    const answer = await this.transport.transmit(Uint8Array.from([0x90, code, 0, 0, ...lengths, 0]));
    if (answer.length < 2 || answer[answer.length - 2] !== 0x91)
      fail('card-answer', 'The card answers as no file-system card does.');
    return { status: answer[answer.length - 1]!, data: answer.subarray(0, answer.length - 2) };
  }

  /** Authenticates by a key of the selected level. Throws `CardRefusal` where the card does not take it, `not-the-card` where it does not know the key. */
  async authenticate(how: Authentication, number: number, key: HostKey): Promise<void> {
    const name = `Authenticate key ${number}`;
    const going = this.channel;
    this.channel = OPEN;
    if (how === 'newer') {
      this.channel = await this.newer(name, number, key, going);
      return;
    }
    const cipher = cipherOf(key);
    const code = { oldest: 0x0a, iso: 0x1a, aes: 0xaa }[how];
    const challenge = await this.exchange(name, code, Uint8Array.of(number), 0xaf);
    const own = this.random(challenge.length);
    const { size } = cipher;
    const isOldest = how === 'oldest';
    const zero = new Uint8Array(size);
    const theirs = cbcDecrypt(cipher, zero, challenge);
    const token = joined(own, rotatedLeft(theirs));
    const sent = isOldest
      ? new FirstChannel(number, cipher).backwards(token)
      : cbcEncrypt(cipher, challenge.subarray(challenge.length - size), token);
    const confirmed = await this.exchange(name, 0xaf, sent);
    const back = cbcDecrypt(cipher, isOldest ? zero : sent.subarray(sent.length - size), confirmed);
    if (!sameBytes(back, rotatedLeft(own))) fail('not-the-card', `${name}: the card does not know this key.`);
    const session = sessionCipher(key, own, theirs);
    this.channel = isOldest ? new FirstChannel(number, session) : new SecondChannel(number, session);
  }

  private async newer(name: string, number: number, key: HostKey, going: Channel): Promise<ThirdChannel> {
    const cipher = new Aes(key.bytes);
    const zero = new Uint8Array(16);
    const again = going instanceof ThirdChannel;
    const challenge = await this.exchange(
      name,
      again ? 0x77 : 0x71,
      Uint8Array.from(again ? [number] : [number, 0]),
      0xaf,
    );
    const theirs = cbcDecrypt(cipher, zero, challenge);
    const own = this.random(16);
    const told = cbcDecrypt(
      cipher,
      zero,
      await this.exchange(name, 0xaf, cbcEncrypt(cipher, zero, joined(own, rotatedLeft(theirs)))),
    );
    const confirmed = again ? told : told.subarray(4, 20);
    if (!sameBytes(confirmed, rotatedLeft(own))) fail('not-the-card', `${name}: the card does not know this key.`);
    const keys = newerKeys(key.bytes, own, theirs);
    return again
      ? new ThirdChannel(number, keys, going.transaction, going.counter)
      : new ThirdChannel(number, keys, told.slice(0, 4));
  }

  /** A command that is not about a file's data; MACed under the newer authentication. */
  protected manage(
    name: string,
    code: number,
    data: Uint8Array | readonly number[] = NOTHING,
    answer?: Protection,
  ): Promise<Uint8Array> {
    const usual: Protection = this.channel instanceof ThirdChannel ? 'maced' : 'plain';
    return this.send({
      name,
      code,
      header: NOTHING,
      data: Uint8Array.from(data),
      protection: usual,
      answer: answer ?? usual,
    });
  }
}
