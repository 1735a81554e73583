/** The server's end of the line to a device host, so that a rig can be asked without a server. */
import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { type WebSocket, WebSocketServer } from 'ws';

export interface Said {
  // biome-ignore lint/suspicious/noExplicitAny: what comes back is looked at, not typed
  result?: any;
  error?: { code: string; message: string };
}

export class HostLine {
  private socket: WebSocket | undefined;
  private last = 0;
  private readonly waiting = new Map<number, (said: Said) => void>();

  private constructor(private readonly listening: WebSocketServer) {
    listening.on('connection', (socket) => {
      socket.on('message', (data) => {
        const { answer, ...said } = JSON.parse(String(data)) as { answer?: number } & Said;
        if (answer === undefined) {
          socket.send(JSON.stringify({ serve: { site: 's' } }));
          // What is asked before it knows whom it serves is refused.
          this.socket = socket;
        } else this.waiting.get(answer)?.(said);
      });
      socket.on('close', () => {
        if (this.socket === socket) this.socket = undefined;
      });
    });
  }

  /** Listens for one on loopback. */
  static async open(): Promise<HostLine> {
    const listening = new WebSocketServer({ host: '127.0.0.1', port: 0 });
    await once(listening, 'listening');
    return new HostLine(listening);
  }

  get url(): string {
    return `http://127.0.0.1:${(this.listening.address() as AddressInfo).port}`;
  }

  get connected(): boolean {
    return this.socket !== undefined;
  }

  call(method: string, params: object): Promise<Said> {
    const call = ++this.last;
    return new Promise((resolve) => {
      this.waiting.set(call, resolve);
      this.socket!.send(JSON.stringify({ call, method, params }));
    });
  }

  close(): void {
    for (const socket of this.listening.clients) socket.terminate();
    this.listening.close();
  }
}
