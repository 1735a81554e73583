/** The command rawbits-admin: backing up, restoring, and rehearsing a restore. */
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { createInterface } from 'node:readline/promises';
import { Writable } from 'node:stream';
import { fileURLToPath } from 'node:url';
import { removeDatabase, runningMariaDb, startMariaDb } from '../mariadb.ts';
import { beginRestore, endRestore, unfinishedRestore } from '../restoreMark.ts';
import { Told } from './archive.ts';
import { backUp } from './backup.ts';
import { clearFiles, restore } from './restore.ts';
import { rehearse } from './verify.ts';

const top = join(dirname(fileURLToPath(import.meta.url)), '..');
const migrationsFolder = join(top, 'server/migrations');
const LEAST_PASSPHRASE = 12;

const HELP = `rawbits-admin backup FILE     write everything into an encrypted file, while Raw Bits runs or not
rawbits-admin restore FILE    put a backup into an empty place (RAWBITS_DATA, or RAWBITS_DATABASE_URL and RAWBITS_DATA)
rawbits-admin verify FILE     rehearse: restore it on the side, verify its record there, and throw it away

The passphrase is asked for; without a terminal it is taken from RAWBITS_BACKUP_PASSPHRASE or --passphrase-file FILE. Without it
nobody can read the backup.`;

/** Ctrl-C and its like break off what is under way; it is cleared away then, and the database that was started for it ends. */
const breaking = new AbortController();
const { signal } = breaking;
for (const name of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const)
  process.on(name, () => breaking.abort(new Told('It was broken off; nothing of it is left.')));

interface Asked {
  command: string;
  file: string;
  passphraseFile?: string;
}

function readAsked(args: readonly string[]): Asked | undefined {
  const rest: string[] = [];
  let passphraseFile: string | undefined;
  for (let i = 0; i < args.length; i++) {
    const word = args[i]!;
    if (word === '--help' || word === '-h') return undefined;
    if (word === '--passphrase-file') passphraseFile = args[++i];
    else if (word.startsWith('-')) throw new Told(`"${word}" is not an option.\n${HELP}`);
    else rest.push(word);
  }
  const [command, file, ...more] = rest;
  if (!command || !['backup', 'restore', 'verify'].includes(command) || !file || more.length > 0)
    throw new Told(`Say what to do, and with which file.\n${HELP}`);
  return { command, file: resolve(file), passphraseFile };
}

async function passphraseFor({ command, passphraseFile }: Asked): Promise<string> {
  const given =
    passphraseFile === undefined
      ? process.env.RAWBITS_BACKUP_PASSPHRASE
      : readFileSync(passphraseFile, 'utf8').replace(/\r?\n$/, '');
  const passphrase = given ?? (await ask('Passphrase: '));
  if (command !== 'backup') return passphrase;
  if (passphrase.length < LEAST_PASSPHRASE) throw new Told(`A passphrase has at least ${LEAST_PASSPHRASE} characters.`);
  if (given === undefined && (await ask('Once more: ')) !== passphrase)
    throw new Told('The two are not the same; nothing was written.');
  return passphrase;
}

/** Asks at the terminal, and shows nothing of what is typed. */
async function ask(question: string): Promise<string> {
  if (!process.stdin.isTTY)
    throw new Told('There is no terminal to ask for the passphrase: set RAWBITS_BACKUP_PASSPHRASE.');
  process.stderr.write(question);
  const silent = new Writable({ write: (_chunk, _encoding, done) => done() });
  const terminal = createInterface({ input: process.stdin, output: silent, terminal: true });
  // Ctrl-C comes to the terminal here, and not to the process.
  terminal.on('SIGINT', () => process.kill(process.pid, 'SIGINT'));
  const answer = await terminal.question('', { signal }).finally(() => terminal.close());
  process.stderr.write('\n');
  return answer;
}

/** Does something with the database: that of RAWBITS_DATABASE_URL, or our own, started for it where it does not run. */
async function withDatabase<T>(data: string, work: (url: string) => Promise<T>): Promise<T> {
  const url = process.env.RAWBITS_DATABASE_URL || runningMariaDb(join(data, 'mariadb'));
  if (url) return work(url);
  const database = await startMariaDb(join(data, 'mariadb'), { endsWithUs: true });
  try {
    return await work(database.url);
  } finally {
    await database.stop();
  }
}

const sum = (rows: Record<string, number>): number => Object.values(rows).reduce((all, n) => all + n, 0);

async function run(asked: Asked): Promise<void> {
  const data = resolve(process.env.RAWBITS_DATA ?? join(top, '.data'));
  const version = (JSON.parse(readFileSync(join(top, 'server/package.json'), 'utf8')) as { version: string }).version;
  const { command, file } = asked;
  const isOwn = !process.env.RAWBITS_DATABASE_URL;
  if (command === 'backup') {
    if (isOwn && !existsSync(join(data, 'mariadb'))) throw new Told(`There is no Raw Bits in ${data}.`);
    const passphrase = await passphraseFor(asked);
    const { rows, files } = await withDatabase(data, (url) => backUp(file, { url, data, version, passphrase, signal }));
    console.log(`Backed up ${sum(rows)} rows and ${Object.keys(files).length} files into ${file}.`);
    console.log(`Rehearse it: rawbits-admin verify ${file}`);
    return;
  }
  if (command === 'verify') {
    const found = await rehearse(
      file,
      await passphraseFor(asked),
      migrationsFolder,
      process.env.RAWBITS_TRAIL_KEY,
      signal,
    );
    console.log(
      `A backup of ${found.at}, version ${found.version}: ${sum(found.rows)} rows and ${found.files} files, all as they were.`,
    );
    for (const { chain, intact, message } of found.chains)
      console.log(`${intact ? 'intact' : 'BROKEN'}  ${chain}: ${message}`);
    if (found.chains.some(({ intact }) => !intact)) process.exitCode = 2;
    return;
  }
  await restoreInto(data, isOwn, asked);
}

/** Restores into an empty data folder, or one in which a restore was broken off: what that left is taken away first. */
async function restoreInto(data: string, isOwn: boolean, asked: Asked): Promise<void> {
  const { file } = asked;
  const before = unfinishedRestore(data);
  if (before?.isUnderWay) throw new Told(`Process ${before.pid} is restoring into ${data} at the moment.`);
  if (!before && isOwn && existsSync(join(data, 'mariadb')))
    throw new Told(
      `There is a Raw Bits in ${data} already. Restore into an empty folder: RAWBITS_DATA=/… rawbits-admin restore ${file}`,
    );
  mkdirSync(data, { recursive: true, mode: 0o700 });
  const passphrase = await passphraseFor(asked);
  const database = isOwn ? null : process.env.RAWBITS_DATABASE_URL!.replace(/^[^@]*@/, '');
  const hasLeftOver = before !== undefined && before.database === database;
  if (before) {
    console.log(`A restore was broken off here; what it left is taken away.`);
    clearFiles(data);
    if (isOwn) removeDatabase(join(data, 'mariadb'));
    endRestore(data);
  }
  if (!beginRestore(data, { file, database })) throw new Told(`Another restore into ${data} has just begun.`);
  try {
    const place = { data, migrationsFolder, passphrase, hasLeftOver, signal };
    const found = await withDatabase(data, (url) => restore(file, { url, ...place }));
    endRestore(data);
    console.log(`Restored the backup of ${found.at}: ${sum(found.rows)} rows and ${found.files} files.`);
  } catch (error) {
    clearFiles(data);
    if (isOwn) removeDatabase(join(data, 'mariadb'));
    endRestore(data);
    throw error;
  }
}

try {
  const asked = readAsked(process.argv.slice(2));
  if (asked) await run(asked);
  else console.log(HELP);
} catch (error) {
  const told = signal.aborted ? signal.reason : error;
  console.error(told instanceof Told ? told.message : `It did not work: ${(told as Error).message}`);
  process.exitCode = 1;
}
