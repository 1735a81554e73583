/**
 * What `bin/start` runs once everything is installed and built: the database, the rig, the server, the demo. Each is
 * started again when it ends by itself; all are stopped in turn on Ctrl-C and SIGTERM.
 */
import { fork } from 'node:child_process';
import { randomBytes, randomInt } from 'node:crypto';
import {
  closeSync,
  existsSync,
  mkdirSync,
  openSync,
  readFileSync,
  rmSync,
  statfsSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { createInterface } from 'node:readline/promises';
import { fileURLToPath } from 'node:url';
import { DemoCache, keyOfCode } from './demoCache.ts';
import { DEMO, DemoLoad } from './demoLoad.ts';
import { Household, Stopped } from './household.ts';
import { startMariaDb } from './mariadb.ts';
import { freePort, portProblem } from './ports.ts';
import { printSignIns, signInsIn } from './signIns.ts';
import { refuseHalfRestored, Told, wordsFor } from './startProblems.ts';
import { type Running, Supervised } from './supervise.ts';

const dist = dirname(fileURLToPath(import.meta.url));
const LEAST_FREE_MB = 300;
const HELP = readFileSync(join(dist, '../bin/lib/help.txt'), 'utf8').trim();

interface Options {
  port: number;
  fresh: boolean;
  /** Whether `--fresh` may delete what is not the demo unasked. */
  sure: boolean;
  demo: boolean;
  data: string;
  databaseUrl?: string;
}

function readOptions(args: string[]): Options {
  const options: Options = {
    port: 4310,
    fresh: false,
    sure: false,
    demo: true,
    data: process.env.RAWBITS_DATA ?? join(dist, '../.data'),
    databaseUrl: process.env.RAWBITS_DATABASE_URL || undefined,
  };
  for (let i = 0; i < args.length; i++) {
    const [name, inline] = args[i]!.split('=', 2) as [string, string | undefined];
    if (name === '--fresh') options.fresh = true;
    else if (name === '--yes') options.sure = true;
    else if (name === '--no-demo') options.demo = false;
    else if (name === '--port') {
      options.port = Number(inline ?? args[++i]);
      if (!Number.isInteger(options.port) || options.port < 1 || options.port > 65_535)
        throw new Told('--port takes a number from 1 to 65535.');
    } else throw new Told(`"${args[i]}" is not an option.\n${HELP}`);
  }
  if (options.fresh && options.databaseUrl)
    throw new Told('--fresh does not empty a database elsewhere. Empty it yourself, or unset RAWBITS_DATABASE_URL.');
  return options;
}

/** Takes the folder for this process; throws when another start has it. */
function takeFolder(data: string, port: number): () => void {
  mkdirSync(data, { recursive: true, mode: 0o700 });
  const file = join(data, 'running.json');
  for (let attempt = 0; attempt < 2; attempt++) {
    try {
      const handle = openSync(file, 'wx', 0o600);
      writeSync(handle, JSON.stringify({ pid: process.pid, port }));
      closeSync(handle);
      return () => rmSync(file, { force: true });
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
      const { pid, port: theirs } = readRunning(file);
      if (pid !== undefined && isLauncher(pid))
        throw new Told(`Raw Bits is running already (process ${pid}): http://127.0.0.1:${theirs}`);
      rmSync(file, { force: true });
    }
  }
  throw new Told('Another start of Raw Bits is under way.');
}

function readRunning(file: string): { pid?: number; port?: number } {
  try {
    return JSON.parse(readFileSync(file, 'utf8')) as { pid: number; port: number };
  } catch {
    return {};
  }
}

function isLauncher(pid: number): boolean {
  try {
    return pid !== process.pid && readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('launch.mjs');
  } catch {
    return false;
  }
}

function checkDisk(data: string): void {
  const { bavail, bsize } = statfsSync(data);
  const freeMb = Math.floor((bavail * bsize) / 1e6);
  if (freeMb < LEAST_FREE_MB)
    throw new Told(
      `The disk of ${data} is full: ${freeMb} MB are free, at least ${LEAST_FREE_MB} MB are needed. Free some space.`,
    );
}

/** How long a program may take to stop when it is told to. */
const LONGEST_STOP_MS = 20_000;

/** Starts one of our programs and waits until it says that it is ready. */
async function startProgram(name: string, env: Record<string, string | undefined>): Promise<Running> {
  const child = fork(join(dist, `${name}.mjs`), [], {
    env: { ...process.env, ...env },
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
  });
  const ended = new Promise<string>((resolve) =>
    child.once('exit', (code, signal) => resolve(signal ?? `code ${code}`)),
  );
  await new Promise<void>((resolve, reject) => {
    child.once('message', (message: { ready: boolean; message?: string; code?: string }) =>
      message.ready ? resolve() : reject(Object.assign(new Error(message.message), { code: message.code })),
    );
    void ended.then((how) => reject(new Error(`it ended with ${how} before it was ready`)));
  });
  return {
    ended,
    stop: async () => {
      const late = setTimeout(() => child.kill('SIGKILL'), LONGEST_STOP_MS);
      if (child.exitCode === null && child.signalCode === null) child.kill('SIGTERM');
      await ended;
      clearTimeout(late);
    },
  };
}

function secretIn(file: string): string {
  if (!existsSync(file)) writeFileSync(file, randomBytes(24).toString('hex'), { mode: 0o600 });
  return readFileSync(file, 'utf8').trim();
}

const DATABASE_AWAY = /ECONNREFUSED|ETIMEDOUT|ENOTFOUND|EHOSTUNREACH|PROTOCOL_CONNECTION_LOST/;

/** The server for the first time, again while its database does not answer, but not for ever. */
async function beginServer(server: Supervised, databaseUrl: string): Promise<void> {
  for (let attempt = 1; ; attempt++) {
    try {
      return await server.begin();
    } catch (error) {
      const { code, message } = error as { code?: string; message: string };
      if (!DATABASE_AWAY.test(`${code} ${message}`)) throw new Told(`The server did not start: ${message}`);
      // Of a cluster all of its nodes.
      const host = databaseUrl.replace(/^[^@]*@|\/.*$/g, '');
      if (attempt >= 5)
        throw new Told(`The database at ${host} does not answer. Is it running, and is RAWBITS_DATABASE_URL right?`);
      await new Promise((resolve) => setTimeout(resolve, 2000));
    }
  }
}

async function run(): Promise<void> {
  const args = process.argv.slice(2);
  if (args.includes('--help') || args.includes('-h')) {
    console.log(HELP);
    return;
  }
  const options = readOptions(args);
  const household = new Household();
  try {
    household.add(takeFolder(options.data, options.port));
    for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, () => void endAll(household, 0));
    await start(options, household);
  } catch (error) {
    if (error instanceof Stopped || household.stopping) return;
    console.error(wordsFor(error, options.data));
    await endAll(household, 1);
  }
}

async function endAll(household: Household, code: number): Promise<never> {
  await household.stop();
  process.exit(code);
}

/** Asks at the terminal; without one it is not to be deleted. */
async function mayDelete(data: string): Promise<boolean> {
  const what = `${data} holds more than the demo: --fresh deletes its database, its rig and the key of its record.`;
  if (!process.stdin.isTTY) throw new Told(`${what} Add --yes where that is meant.`);
  const terminal = createInterface({ input: process.stdin, output: process.stdout });
  const answer = await terminal.question(`${what}\nType "delete" to go on: `);
  terminal.close();
  return answer.trim() === 'delete';
}

async function start(options: Options, household: Household): Promise<void> {
  const { data, port } = options;
  refuseHalfRestored(data, options.fresh);
  checkDisk(data);
  const problem = await portProblem(port);
  if (problem) throw new Told(`Port ${port} ${problem}. Choose another: bin/start --port 4320`);
  const load = new DemoLoad(data);
  if (options.fresh) {
    if (!load.isDemo && !options.sure && !(await mayDelete(data))) throw new Told('Nothing was deleted.');
    load.clearAway();
  } else if (!options.databaseUrl) load.lookAfterBroken(options.demo);

  const isOwn = options.databaseUrl === undefined;
  if (options.demo && isOwn && load.isEmpty) await placeDemo(data, load, household);
  const { url, setupToken, databaseUrl } = await startPrograms(data, port, household, options.databaseUrl);
  if (options.demo) await loadDemo(url, setupToken, isOwn ? load : undefined);
  await sayWhoSignsIn(databaseUrl, isOwn && existsSync(join(data, DEMO)));
  if (!options.demo && (await isEmpty(url)))
    console.log(`Nobody works here yet. Open ${url} and set it up with the code ${setupToken}`);
  console.log(`\nRaw Bits: ${url}   (Ctrl-C stops it)`);
}

/**
 * Puts the demo into an empty data folder: a copy of the one that was loaded before by this very code, or else it is loaded
 * now and kept. Where nothing can be kept nothing is placed, and it is loaded where it is used.
 */
async function placeDemo(data: string, load: DemoLoad, household: Household): Promise<void> {
  const cache = new DemoCache(join(dist, 'demo'), keyOfCode(dist, join(dist, '../server/migrations')));
  try {
    if (!cache.isThere) {
      console.log('Loading the demo of Skerry Point Marine Station ...');
      const draft = cache.draft();
      const inner = new Household();
      household.add(() => inner.stop());
      try {
        const { url, setupToken } = await startPrograms(draft, await freePort(), inner, undefined);
        await (await demoPrograms()).loadDemo({ url, setupToken });
        new DemoLoad(draft).done();
      } finally {
        await inner.stop();
      }
      cache.keep();
    }
    load.begin();
    cache.copyTo(data);
    load.done();
    console.log('The demo of Skerry Point Marine Station was loaded.');
  } catch (error) {
    if (error instanceof Stopped || household.stopping) throw new Stopped();
    if (!CANNOT_KEEP.has((error as NodeJS.ErrnoException).code ?? '')) throw error;
    load.clearAway();
  }
}

/** A folder of the programs that may not be written, a disk with no room for two, or a kept demo that was deleted while it was copied. */
const CANNOT_KEEP = new Set(['EACCES', 'EPERM', 'EROFS', 'ENOSPC', 'EDQUOT', 'ENOENT']);

/** Starts database (unless one is elsewhere), server and rig on a data folder. */
async function startPrograms(
  data: string,
  port: number,
  household: Household,
  elsewhere: string | undefined,
): Promise<{ url: string; setupToken: string; databaseUrl: string }> {
  const tell = (sentence: string) => console.error(sentence);
  const giveUp = (sentence: string) => {
    console.error(sentence);
    void endAll(household, 1);
  };
  const supervised = (name: string, begin: () => Promise<Running>) => new Supervised(name, begin, tell, giveUp);
  const databaseUrl = elsewhere ?? (await startDatabase(data, household, supervised));
  const rigToken = secretIn(join(data, 'rig.token'));
  const setupToken = oneTimeCode();
  const env = {
    RAWBITS_DATABASE_URL: databaseUrl,
    RAWBITS_STATE: join(data, 'state'),
    RAWBITS_PORT: String(port),
    RAWBITS_RIG_TOKEN: rigToken,
    RAWBITS_SETUP_TOKEN: setupToken,
    RAWBITS_DEMO_MARK: join(data, DEMO),
  };
  const server = supervised('server', () => startProgram('server', env));
  await household.start(server, () => beginServer(server, databaseUrl));
  const url = `http://127.0.0.1:${port}`;
  const rigEnv = { RAWBITS_RIG_FOLDER: join(data, 'rig'), RAWBITS_RIG_TOKEN: rigToken, RAWBITS_SERVERS: url };
  await household.start(supervised('rig', () => startProgram('rig', rigEnv)));
  return { url, setupToken, databaseUrl };
}

/** Our own database; started again it has the same port, so that whoever uses it finds it. Gives its address. */
async function startDatabase(
  data: string,
  household: Household,
  supervised: (name: string, begin: () => Promise<Running>) => Supervised,
): Promise<string> {
  let url = '';
  const port = await freePort();
  await household.start(
    supervised('database', async () => {
      const database = await startMariaDb(join(data, 'mariadb'), { port });
      url = database.url;
      return { ended: database.ended, stop: () => database.stop() };
    }),
  );
  return url;
}

/** A hundred random bits that can be typed off a screen: no letter that looks like a digit. */
const oneTimeCode = (): string =>
  Array.from({ length: 5 }, () =>
    Array.from({ length: 4 }, () => '23456789abcdefghjkmnpqrstuvwxyz'[randomInt(31)]).join(''),
  ).join('-');

/** Whether nobody works there yet. */
const isEmpty = async (url: string): Promise<boolean> =>
  ((await (await fetch(`${url}/api/setup`)).json()) as { open: boolean }).open;

const demoPrograms = async () => (await import(join(dist, 'demo.mjs'))) as typeof import('../../demo/src/main.ts');

/** Loads the demo into an empty database; one that has operators is left as it is. */
async function loadDemo(url: string, setupToken: string, mark: DemoLoad | undefined): Promise<void> {
  const { loadDemo: load } = await demoPrograms();
  if (!(await isEmpty(url))) return;
  mark?.begin();
  await load({ url, setupToken });
  mark?.done();
  console.log('The demo of Skerry Point Marine Station was loaded.');
}

/** Who of the demo can sign in: all of it while nobody has changed anything; a database that cannot be asked stops no start. */
async function sayWhoSignsIn(databaseUrl: string, isUntouched: boolean): Promise<void> {
  const { demoSignIns, demoPassphrase } = await demoPrograms();
  if (isUntouched) return printSignIns(demoSignIns, demoPassphrase);
  const there = await signInsIn(databaseUrl, demoSignIns).catch(() => undefined);
  if (there) printSignIns(there.signIns, there.hasFirstPassphrase ? demoPassphrase : undefined);
}

run().catch((error) => {
  console.error(error instanceof Told ? error.message : error);
  process.exitCode = 1;
});
