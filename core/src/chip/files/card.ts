/**
 * A file-system card: its memory, and what it does with a command. No clock and no chance but what is passed in. What a
 * field that goes takes along (the selected application, the session, a transaction) is apart from the memory.
 */
import { joined } from '../../cipher/index.ts';
import { type Random, type Started, start, startNewer } from './authenticate.ts';
import { commandOf } from './commands.ts';
import type { Application, FilesMemory } from './memory.ts';
import { Transaction } from './pending.ts';
import { type Mode, NewerSession, type Session } from './session.ts';
import { Refused, refuse, STATUS, type Status } from './status.ts';

/** A frame holds a code and so many bytes. */
const FRAME = 59;
/** Data of a wrapped command. */
const WRAPPED = 54;
const MORE = 0xaf;

/** What a command gives back before it is protected. */
export interface Result {
  data?: Uint8Array;
  mode?: Mode;
  /** Its length was not asked for. */
  open?: boolean;
  /** Where the answer is cut into frames, besides where it must be. */
  cuts?: number[];
  /** Sent as it is: not part of a session, or the end of one. */
  bare?: boolean;
}

interface Incoming {
  code: number;
  data: Uint8Array;
  length: number;
}

const NOTHING = new Uint8Array(0);

export class FilesCard {
  level: Application;
  session: Session | undefined;
  readonly transaction = new Transaction();
  private started: Started | undefined;
  private incoming: Incoming | undefined;
  private outgoing: Uint8Array[] = [];

  constructor(readonly memory: FilesMemory) {
    this.level = memory.card;
  }

  /** The field has gone: what is not in the memory is lost. */
  powerOff(): void {
    this.select(this.memory.card);
    this.forgetFrames();
  }

  /** Selects an application, or the card's own level: the session and what is pending end. */
  select(level: Application): void {
    this.level = level;
    this.session = undefined;
    this.transaction.drop();
  }

  /**
   * Answers one command, native or wrapped (`90 INS 00 00 Lc data 00`). `random` gives what the card draws: RndB, then a
   * transaction identifier.
   */
  transmit(apdu: Uint8Array, random: Random): Uint8Array {
    if (apdu[0] !== 0x90) {
      // A command of ISO/IEC 7816-4 begins with its class; of those this card has none.
      if (apdu.length === 0 || apdu[0] === 0x00) return Uint8Array.of(0x6e, 0x00);
      const { status, data } = this.answer(apdu[0]!, apdu.subarray(1), random, FRAME);
      return joined([status], data);
    }
    const data = wrappedData(apdu);
    if (!data) return Uint8Array.of(0x67, 0x00);
    const answer = this.answer(apdu[1]!, data, random, WRAPPED);
    return joined(answer.data, [0x91, answer.status]);
  }

  private answer(code: number, data: Uint8Array, random: Random, most: number): { status: number; data: Uint8Array } {
    try {
      if (data.length > most) refuse('length');
      return this.carryOut(code, data, random);
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      this.fail(error.status);
      return { status: STATUS[error.status], data: NOTHING };
    }
  }

  /** A failed command ends what it belonged to; a session of the oldest kind goes on. */
  private fail(status: Status): void {
    this.forgetFrames();
    if (status === 'noChange') return;
    this.transaction.drop();
    if (this.session?.kind !== 'oldest') this.session = undefined;
  }

  private forgetFrames(): void {
    this.started = undefined;
    this.incoming = undefined;
    this.outgoing = [];
  }

  private carryOut(code: number, data: Uint8Array, random: Random): { status: number; data: Uint8Array } {
    if (code === MORE) return this.goOn(data);
    if (this.incoming || this.outgoing.length > 0) refuse('aborted');
    this.started = undefined;
    const begun = this.begin(code, data, random);
    if (begun) return { status: STATUS.more, data: begun };
    return this.take({ code, data, length: commandOf(code).lengthOf(this, data) });
  }

  /** The first pass of an authentication, where the command is one. */
  private begin(code: number, data: Uint8Array, random: Random): Uint8Array | undefined {
    const newer = code === 0x71 || code === 0x77;
    if (!newer && code !== 0x0a && code !== 0x1a && code !== 0xaa) return undefined;
    if (newer && this.memory.generation === 1) refuse('illegalCommand');
    // 71 says how many bytes of the host's capabilities follow.
    const length = code === 0x71 ? 2 + (data[1] ?? 0) : 1;
    if (data.length !== length || (code === 0x71 && data[1]! > 6)) refuse('length');
    const number = data[0]!;
    const key = this.level.keys[number] ?? refuse('noSuchKey');
    const going = this.session;
    this.session = undefined;
    if (code === 0x77 && !(going instanceof NewerSession)) refuse('authentication');
    this.started = newer
      ? startNewer(number, this.level.keyKind, key, random, code === 0x77 ? (going as NewerSession) : undefined)
      : start(code, number, this.level.keyKind, key, random);
    return this.started.answer;
  }

  private goOn(data: Uint8Array): { status: number; data: Uint8Array } {
    if (this.started) {
      const { answer, session } = this.started.finish(data);
      this.started = undefined;
      this.session = session;
      return { status: STATUS.ok, data: answer };
    }
    if (this.incoming) {
      const { code, length, data: before } = this.incoming;
      this.incoming = undefined;
      return this.take({ code, length, data: joined(before, data) });
    }
    if (this.outgoing.length === 0) refuse('illegalCommand');
    if (data.length > 0) refuse('length');
    return this.nextFrame();
  }

  /** Waits for the rest of a command, or carries it out. */
  private take(incoming: Incoming): { status: number; data: Uint8Array } {
    const { code, data, length } = incoming;
    if (data.length > length) refuse('length');
    if (data.length < length) {
      this.incoming = incoming;
      return { status: STATUS.more, data: NOTHING };
    }
    const { session } = this;
    const result = commandOf(code).carryOut(this, code, data);
    const clear = result.data ?? NOTHING;
    if (!session || result.bare) return this.frames(clear, result.cuts);
    return this.frames(session.answer(clear, result.mode ?? this.managed(session), result.open), result.cuts);
  }

  /** How commands that are not about a file's data are protected. */
  managed(session: Session): Mode {
    return session.kind === 'newer' ? 'mac' : 'plain';
  }

  private frames(data: Uint8Array, cuts: readonly number[] = []): { status: number; data: Uint8Array } {
    const frames: Uint8Array[] = [];
    let from = 0;
    for (const cut of [...cuts.filter((at) => at < data.length), data.length]) {
      for (; cut - from > FRAME; from += FRAME) frames.push(data.subarray(from, from + FRAME));
      frames.push(data.subarray(from, cut));
      from = cut;
    }
    this.outgoing = frames;
    return this.nextFrame();
  }

  private nextFrame(): { status: number; data: Uint8Array } {
    const data = this.outgoing.shift() ?? NOTHING;
    return { status: this.outgoing.length > 0 ? STATUS.more : STATUS.ok, data };
  }
}

/** The data of a wrapped command, or undefined where its lengths do not hold. */
function wrappedData(apdu: Uint8Array): Uint8Array | undefined {
  if (apdu.length === 5) return apdu[4] === 0 ? NOTHING : undefined;
  if (apdu.length < 6 || apdu[4] !== apdu.length - 6) return undefined;
  return apdu.subarray(5, apdu.length - 1);
}
