/** Debian's driver of Chromium as one process for a whole run: sessions are opened through it and ended with it. */
import { type ChildProcess, spawn } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { freePort } from '../../bin/lib/ports.ts';

/** The sessions that are open, each a file that holds its profile's folder: workers end without a word. */
const SESSIONS = join(process.cwd(), 'dist/browsers');

export interface Driver {
  url: string;
  stop(): void;
}

export async function startDriver(): Promise<Driver> {
  rmSync(SESSIONS, { recursive: true, force: true });
  mkdirSync(SESSIONS, { recursive: true });
  const port = await freePort();
  const child: ChildProcess = spawn('/usr/bin/chromedriver', [`--port=${port}`], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  let output = '';
  await new Promise<void>((resolve, reject) => {
    child.stdout!.on('data', (chunk: Buffer) => {
      output += chunk;
      if (output.includes('started successfully')) resolve();
    });
    child.once('exit', (code) => reject(new Error(`chromedriver ended with ${code}:\n${output}`)));
  });
  return { url: `http://127.0.0.1:${port}`, stop: () => void child.kill() };
}

export const noteSession = (id: string, profile: string): void => writeFileSync(join(SESSIONS, id), profile);

/** Ends every browser that was opened through the driver. */
export async function closeSessions(url: string): Promise<void> {
  for (const id of readdirSync(SESSIONS)) {
    await fetch(`${url}/session/${id}`, { method: 'DELETE' }).catch(() => {});
    rmSync(readFileSync(join(SESSIONS, id), 'utf8'), { recursive: true, force: true });
  }
  if (existsSync(SESSIONS)) rmSync(SESSIONS, { recursive: true });
}
