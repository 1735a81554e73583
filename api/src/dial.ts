/**
 * Dialling in to a server: a host offers its devices to whichever server of the installation answers, and dials again
 * when the line ends, for as long as it runs. What it is asked it does, several things at once if need be.
 */
import { fail, failureOf } from '@rawbits/core/failure';
import { z } from 'zod';
import { newPair, type OwnPair, openedWith } from './sealed.ts';
import {
  aboutCall,
  type FromHost,
  type FromServer,
  fromServerSchema,
  WIRE_MOST_BYTES,
  WIRE_PATH,
  WIRE_PROTOCOL,
  type WireMethod,
  wireCalls,
} from './wire.ts';

/** What of a WebSocket (RFC 6455) is used; whoever dials brings it along, as the `ws` package has it. */
export interface WireSocket {
  readonly readyState: number;
  readonly CLOSED: number;
  on(event: 'open' | 'ping', heard: () => void): unknown;
  on(event: 'message', heard: (data: unknown) => void): unknown;
  on(event: 'error', heard: (error: Error) => void): unknown;
  on(event: 'close', heard: (code: number) => void): unknown;
  once(event: 'close', heard: () => void): unknown;
  send(text: string): void;
  close(code: number, reason?: string): void;
  terminate(): void;
}
export interface WireSocketOptions {
  headers: Record<string, string>;
  handshakeTimeout: number;
  maxPayload: number;
}

/** Does what a server asks; what it throws is the refusal. */
export type Answering = (method: WireMethod, params: unknown) => Promise<unknown>;

export interface DialOptions {
  /** Opens a line. */
  open(address: URL, protocol: string, options: WireSocketOptions): WireSocket;
  /** The servers' addresses (`http://HOST:PORT`), asked in turn. */
  servers: () => readonly string[];
  token: string;
  kind: 'rig' | 'desk';
  version: string;
  answer: Answering;
  /** Told which site it is to serve, whenever that is known anew. */
  serve(site: string | null): void;
}

type Asked = Extract<FromServer, { call: number }>;

const PAUSE_MS = { first: 100, longest: 1000, revoked: 30_000, replaced: 5000 };
/** A server says every few seconds that it is there. */
const SILENT_MS = 12_000;
const REVOKED = 4401;
const REPLACED = 4409;

export class Dial {
  private socket: WireSocket | undefined;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private pause = PAUSE_MS.first;
  private turn = 0;
  private closed = false;

  constructor(private readonly options: DialOptions) {
    this.dial();
  }

  private dial(): void {
    const servers = this.options.servers();
    const server = servers[this.turn++ % Math.max(servers.length, 1)];
    if (server === undefined) this.again(PAUSE_MS.first);
    else this.connect(server);
  }

  private connect(server: string): void {
    const socket = this.options.open(new URL(WIRE_PATH, server.replace(/^http/, 'ws')), WIRE_PROTOCOL, {
      headers: { authorization: `Bearer ${this.options.token}` },
      handshakeTimeout: 5000,
      maxPayload: WIRE_MOST_BYTES,
    });
    this.socket = socket;
    let silence: ReturnType<typeof setTimeout> | undefined;
    const heard = () => {
      clearTimeout(silence);
      silence = setTimeout(() => socket.terminate(), SILENT_MS);
    };
    const send = (message: FromHost) => socket.send(JSON.stringify(message));
    // A pair for this line alone.
    const pair = newPair();
    socket.on('open', () => {
      heard();
      const { kind, version } = this.options;
      void pair.then(({ publicKey }) => send({ hello: { kind, version, publicKey } }));
    });
    socket.on('ping', heard);
    socket.on('message', (data) => {
      heard();
      void this.take(String(data), send, pair);
    });
    // Its close follows.
    socket.on('error', () => {});
    socket.on('close', (code) => {
      clearTimeout(silence);
      const waits = { [REVOKED]: PAUSE_MS.revoked, [REPLACED]: PAUSE_MS.replaced }[code];
      this.again(waits ?? this.pause);
      this.pause = Math.min(this.pause * 2, PAUSE_MS.longest);
    });
  }

  private again(afterMs: number): void {
    if (!this.closed) this.timer = setTimeout(() => this.dial(), afterMs);
  }

  private async take(text: string, send: (message: FromHost) => void, pair: Promise<OwnPair>): Promise<void> {
    let message: FromServer;
    try {
      message = fromServerSchema.parse(JSON.parse(text));
    } catch {
      return this.socket?.close(1007, 'not a message of this protocol');
    }
    if ('serve' in message) {
      this.pause = PAUSE_MS.first;
      return this.options.serve(message.serve.site);
    }
    send(await this.do(message, pair));
  }

  /** What is asked for; what may hold a key has to come sealed to the pair of this line. */
  private async paramsOf(message: Asked, pair: Promise<OwnPair>): Promise<unknown> {
    const { method } = message;
    if (!wireCalls[method].isSecret)
      return 'params' in message ? message.params : fail('sealed', 'This is not sealed.');
    const opened = 'sealed' in message && (await openedWith(await pair, message.sealed, aboutCall(method)));
    if (!opened) return fail('not-sealed', 'What may hold a key has to come sealed to the key of this line.');
    return JSON.parse(new TextDecoder().decode(opened));
  }

  private async do(message: Asked, pair: Promise<OwnPair>): Promise<FromHost> {
    const { call: answer, method } = message;
    try {
      const params = await this.paramsOf(message, pair);
      return { answer, result: await this.options.answer(method, wireCalls[method].params.parse(params)) };
    } catch (error) {
      if (error instanceof z.ZodError) return { answer, error: { code: 'invalid', message: z.prettifyError(error) } };
      const { code, message } = failureOf(error);
      return { answer, error: { code, message } };
    }
  }

  /** Dials in anew: what is offered here is something else by now. */
  renew(): void {
    this.socket?.close(1000, 'offers something else');
  }

  /** Ends the line, and dials no more. */
  close(): Promise<void> {
    this.closed = true;
    clearTimeout(this.timer);
    const { socket } = this;
    if (!socket || socket.readyState === socket.CLOSED) return Promise.resolve();
    const ended = new Promise<void>((resolve) => socket.once('close', () => resolve()));
    socket.close(1001);
    const late = setTimeout(() => socket.terminate(), 1000);
    void ended.then(() => clearTimeout(late));
    return ended;
  }
}
