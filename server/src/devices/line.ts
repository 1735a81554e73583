/** One connection of a device host: calls that may overlap, each answered when the host is done with it. */
import {
  type FromHost,
  type FromServer,
  fromHostSchema,
  type WireAnswer,
  type WireMethod,
  type WireParams,
  wireCalls,
} from '@rawbits/api';
import type { WebSocket } from 'ws';
import { HostRefusal } from '../platform/problem/sentence.ts';

export { HostRefusal };

const PING_MS = 3000;
/** Calls that wait for an answer at once; a host that answers none gets no more. */
const MOST_OPEN = 200;

type Hello = Extract<FromHost, { hello: unknown }>['hello'];

interface Open {
  resolve(result: unknown): void;
  reject(error: Error): void;
  timer: NodeJS.Timeout;
}

export class Line {
  private readonly open = new Map<number, Open>();
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
    let greet: (hello: Hello) => void = () => {};
    this.ended = new Promise((resolve) => socket.once('close', () => resolve()));
    this.hello = new Promise((resolve, reject) => {
      greet = resolve;
      void this.ended.then(() => reject(this.silent()));
    });
    this.hello.catch(() => {});
    socket.on('message', (data, isBinary) => {
      if (isBinary) return socket.close(1003, 'text only');
      const message = parse(String(data));
      if (!message) return socket.close(1007, 'not a message of this protocol');
      if ('hello' in message) greet(message.hello);
      else this.settle(message);
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

  private settle(message: Exclude<FromHost, { hello: unknown }>): void {
    const waiting = this.open.get(message.answer);
    if (!waiting) return;
    this.open.delete(message.answer);
    clearTimeout(waiting.timer);
    if ('error' in message) waiting.reject(this.refusal(message.error));
    else waiting.resolve(message.result);
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
    const number = ++this.last;
    const result = await new Promise<unknown>((resolve, reject) => {
      const timer = setTimeout(() => {
        this.open.delete(number);
        reject(this.silent());
      }, withinMs);
      this.open.set(number, { resolve, reject, timer });
      this.send({ call: number, method, params });
    });
    const parsed = wireCalls[method].answers.safeParse(result);
    if (!parsed.success) throw new HostRefusal(`${this.name} answered something that is no answer to "${method}".`);
    return parsed.data as WireAnswer<M>;
  }

  close(code: number, reason: string): void {
    this.socket.close(code, reason);
    setTimeout(() => this.socket.terminate(), 1000).unref();
  }
}

function parse(text: string): FromHost | undefined {
  try {
    return fromHostSchema.parse(JSON.parse(text));
  } catch {
    return undefined;
  }
}
