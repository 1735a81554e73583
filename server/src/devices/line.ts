/** One connection of a device host: calls that may overlap, each answered when the host is done with it. */
import {
  aboutCall,
  type FromHost,
  type FromServer,
  fromHostSchema,
  type WireAnswer,
  type WireMethod,
  type WireParams,
  wireCalls,
} from '@rawbits/api';
import { sealedTo } from '@rawbits/api/sealed';
import type { WebSocket } from 'ws';
import { HostRefusal } from '../platform/problem/sentence.ts';
import { measuredJson } from '../platform/shape/shape.ts';

export { HostRefusal };

const PING_MS = 3000;
/** Calls that wait for an answer at once; a host that answers none gets no more. */
const MOST_OPEN = 200;
/** Entries of one list of a frame: a page of the log has 1,000, and a controller holds fewer items at one place. */
const MOST_ENTRIES = 10_000;
const LONGEST_HELLO = 1000;

type Hello = Extract<FromHost, { hello: unknown }>['hello'];

/** Seals what may hold a key to a host's key; throws where it gave none. */
export async function sealedCall(
  name: string,
  publicKey: string | null | undefined,
  method: WireMethod,
  params: unknown,
): Promise<string> {
  if (!publicKey)
    throw new HostRefusal(`${name} gives no key to seal secrets to: its program is older than this server. Update it.`);
  return sealedTo(publicKey, new TextEncoder().encode(JSON.stringify(params)), aboutCall(method));
}

interface Open {
  resolve(result: unknown): void;
  reject(error: Error): void;
  timer: NodeJS.Timeout;
}

export class Line {
  private readonly open = new Map<number, Open>();
  /** Calls whose answer did not come in time, and may come yet. */
  private readonly late = new Set<number>();
  private last = 0;
  private heard = true;
  private readonly heart: NodeJS.Timeout;
  /** Settles when the connection has ended. */
  readonly ended: Promise<void>;
  /** What the host said that it is. */
  readonly hello: Promise<Hello>;

  constructor(
    private readonly socket: WebSocket,
    readonly name: string,
  ) {
    let greeted = false;
    let greet: (hello: Hello) => void = () => {};
    this.ended = new Promise((resolve) => socket.once('close', () => resolve()));
    this.hello = new Promise((resolve, reject) => {
      greet = resolve;
      void this.ended.then(() => reject(this.silent()));
    });
    this.hello.catch(() => {});
    socket.on('message', (data, isBinary) => {
      if (isBinary) return socket.close(1003, 'text only');
      // Nothing is asked of it yet but who it is, and that is short.
      if (!greeted && (data as Buffer).length > LONGEST_HELLO) return socket.close(1009, 'too long for a hello');
      const message = parse(data as Buffer);
      if (!message || 'hello' in message === greeted) return socket.close(1007, 'not a message of this protocol');
      if ('hello' in message) {
        greeted = true;
        greet(message.hello);
      } else if (!this.settle(message)) socket.close(1008, 'an answer that nobody asked for');
    });
    socket.on('error', () => socket.terminate());
    socket.on('pong', () => (this.heard = true));
    this.heart = setInterval(() => this.beat(), PING_MS);
    this.heart.unref();
    void this.ended.then(() => this.end());
  }

  private silent(): HostRefusal {
    return new HostRefusal(`${this.name} does not answer.`);
  }

  private beat(): void {
    if (this.heard) {
      this.heard = false;
      this.socket.ping();
    } else this.socket.terminate();
  }

  private end(): void {
    clearInterval(this.heart);
    for (const { reject, timer } of this.open.values()) {
      clearTimeout(timer);
      reject(this.silent());
    }
    this.open.clear();
  }

  /** False where nobody asked, or was answered already. */
  private settle(message: Exclude<FromHost, { hello: unknown }>): boolean {
    const waiting = this.open.get(message.answer);
    // It comes too late, and nobody waits for it any more.
    if (!waiting) return this.late.delete(message.answer);
    this.open.delete(message.answer);
    clearTimeout(waiting.timer);
    if ('error' in message) waiting.reject(this.refusal(message.error));
    else waiting.resolve(message.result);
    return true;
  }

  /** What a host refuses with, in words for people; what it did not mean as a refusal has none of its own. */
  private refusal({ code, message }: { code: string; message: string }): HostRefusal {
    const isItsOwn = code !== 'invalid' && code !== 'unexpected';
    return new HostRefusal(isItsOwn ? message : `${this.name} could not do it; its own log says more.`, code);
  }

  private send(message: FromServer): void {
    this.socket.send(JSON.stringify(message));
  }

  /** Tells the host which site it serves. */
  serve(site: string | null): void {
    this.send({ serve: { site } });
  }

  /** Asks the host; throws HostRefusal with its refusal, when it is too late, and when it answers nonsense. */
  async call<M extends WireMethod>(method: M, params: WireParams<M>, withinMs: number): Promise<WireAnswer<M>> {
    if (this.socket.readyState !== this.socket.OPEN || this.open.size >= MOST_OPEN) throw this.silent();
    const result = await this.ask(
      wireCalls[method].isSecret ? { method, sealed: await this.sealedFor(method, params) } : { method, params },
      withinMs,
    );
    return this.answerIn(method, result);
  }

  private answerIn<M extends WireMethod>(method: M, result: unknown): WireAnswer<M> {
    const parsed = wireCalls[method].answers.safeParse(result);
    if (!parsed.success) throw new HostRefusal(`${this.name} answered something that is no answer to "${method}".`);
    return parsed.data as WireAnswer<M>;
  }

  /** What may hold a key, sealed to the key of this line. */
  private async sealedFor(method: WireMethod, params: unknown): Promise<string> {
    const { publicKey } = await this.hello;
    return sealedCall(this.name, publicKey, method, params);
  }

  /** Passes on what another server has sealed to the key of this line. */
  async pass(method: WireMethod, sealed: string, withinMs: number): Promise<unknown> {
    if (this.socket.readyState !== this.socket.OPEN || this.open.size >= MOST_OPEN) throw this.silent();
    return this.answerIn(method, await this.ask({ method, sealed }, withinMs));
  }

  private ask(
    asked: { method: WireMethod; params: unknown } | { method: WireMethod; sealed: string },
    withinMs: number,
  ) {
    const number = ++this.last;
    return new Promise<unknown>((resolve, reject) => {
      const timer = setTimeout(() => {
        this.open.delete(number);
        this.late.add(number);
        // One that answers nothing for days is not waited for in all that it was ever asked.
        const [oldest] = this.late;
        if (this.late.size > MOST_OPEN && oldest !== undefined) this.late.delete(oldest);
        reject(this.silent());
      }, withinMs);
      this.open.set(number, { resolve, reject, timer });
      this.send({ call: number, ...asked });
    });
  }

  close(code: number, reason: string): void {
    this.socket.close(code, reason);
    setTimeout(() => this.socket.terminate(), 1000).unref();
  }
}

/** Measured before anything is built of it: a host is another's program, and the server has others to serve. */
const parse = (data: Buffer): FromHost | undefined => fromHostSchema.safeParse(measuredJson(data, MOST_ENTRIES)).data;
