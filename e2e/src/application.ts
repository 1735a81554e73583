/** The real application, as `bin/start` runs it, in a data folder of its own that is thrown away afterwards. */
import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freePort } from '../../bin/lib/ports.ts';

const launcher = join(process.cwd(), 'dist/launch.mjs');

export interface Application {
  url: string;
  folder: string;
  process: ChildProcess;
  /** What it has printed so far. */
  output(): string;
  /** Ends it as Ctrl-C would, keeping its data. */
  stop(): Promise<number | null>;
  /** Ends it and throws its data away. */
  close(): Promise<void>;
}

/** Starts the launcher and waits until it says its address: on the data of a folder, or in a new one, with the demo that is kept. */
export async function startApplication(
  at?: string,
  options: string[] = [],
  env: NodeJS.ProcessEnv = {},
): Promise<Application> {
  const folder = at ?? mkdtempSync(join(tmpdir(), 'rawbits-e2e-'));
  const port = await freePort();
  const child = spawn(process.execPath, [launcher, '--port', String(port), ...options], {
    env: { ...process.env, RAWBITS_DATA: folder, RAWBITS_DATABASE_URL: '', ...env },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let output = '';
  const url = `http://127.0.0.1:${port}`;
  await new Promise<void>((resolve, reject) => {
    const onData = (chunk: Buffer) => {
      output += chunk;
      if (output.includes(`Raw Bits: ${url}`)) resolve();
    };
    child.stdout!.on('data', onData);
    child.stderr!.on('data', onData);
    child.once('exit', (code) => reject(new Error(`the launcher ended with ${code}:\n${output}`)));
  });
  const stop = () =>
    new Promise<number | null>((resolve) => {
      if (child.exitCode !== null || child.signalCode !== null) return resolve(child.exitCode);
      child.once('exit', (code) => resolve(code));
      child.kill('SIGINT');
    });
  const close = async () => {
    await stop();
    rmSync(folder, { recursive: true, force: true });
  };
  return { url, folder, process: child, output: () => output, stop, close };
}
