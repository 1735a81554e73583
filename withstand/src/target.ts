/** What the attempts are made on: a Raw Bits of their own as `bin/start` runs it, on loopback, and its processes. */
import { readdirSync, readFileSync } from 'node:fs';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import type { Application } from '../../e2e/src/application.ts';

export interface Answer {
  status: number;
  // biome-ignore lint/suspicious/noExplicitAny: what comes back is looked at, not typed
  body: any;
}

/** A client with its cookie. */
export class Client {
  cookie = '';
  constructor(readonly url: string) {}

  async call(method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<Answer> {
    const response = await fetch(`${this.url}/api${path}`, {
      method,
      headers: {
        ...(this.cookie && { cookie: this.cookie }),
        ...(body !== undefined && { 'content-type': 'application/json' }),
        ...headers,
      },
      body: body === undefined ? undefined : typeof body === 'string' ? body : JSON.stringify(body),
    });
    const set = response.headers.getSetCookie().find((c) => c.startsWith('rawbits_session='));
    if (set) this.cookie = set.split(';')[0]!;
    const text = await response.text();
    return { status: response.status, body: /^[[{]/.test(text) ? JSON.parse(text) : text };
  }

  /** As `call`, for what has to work. */
  async must(method: string, path: string, body?: unknown): Promise<Answer['body']> {
    const answer = await this.call(method, path, body);
    if (answer.status !== 200) throw new Error(`${method} ${path}: ${answer.status} ${JSON.stringify(answer.body)}`);
    return answer.body;
  }
}

export async function signedIn(application: Application, role: 'administrator' | 'technician'): Promise<Client> {
  const client = new Client(application.url);
  const { login, password } = OPERATORS.find(({ roles }) => (roles as readonly string[]).includes(role))!;
  await client.must('POST', '/session', { login, password });
  return client;
}

/** The processes of an application by what they are. */
export function processOf(application: Application, what: 'server' | 'rig' | 'database'): number | undefined {
  const wanted = what === 'database' ? `--datadir=${application.folder}/` : `/dist/${what}.mjs`;
  for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name))) {
    try {
      const command = readFileSync(`/proc/${pid}/cmdline`, 'utf8');
      const parent = Number(/^PPid:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1]);
      if (command.includes(wanted) && parent === application.process.pid) return Number(pid);
    } catch {
      // It ended meanwhile.
    }
  }
  return undefined;
}

/** Whether any process still works in a folder. */
export function leftIn(folder: string): string[] {
  return readdirSync('/proc')
    .filter((name) => /^\d+$/.test(name))
    .flatMap((pid) => {
      try {
        const command = readFileSync(`/proc/${pid}/cmdline`, 'utf8').replaceAll('\0', ' ');
        return command.includes(folder) ? [command] : [];
      } catch {
        return [];
      }
    });
}

export const sleep = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

/** Asks until it is so. */
export async function until(what: string, isSo: () => Promise<boolean> | boolean, withinMs = 90_000): Promise<number> {
  const began = Date.now();
  for (;;) {
    if (await Promise.resolve(isSo()).catch(() => false)) return Date.now() - began;
    if (Date.now() - began > withinMs) throw new Error(`${what}: not within ${withinMs / 1000} s`);
    await sleep(100);
  }
}

export const health = async (url: string): Promise<Answer> => new Client(url).call('GET', '/health');
