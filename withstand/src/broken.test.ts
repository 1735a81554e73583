/** Restores and backups that are broken off, by Ctrl-C and by kill: what is left is no station, and the next one makes it whole. */
import { type ChildProcess, spawn } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect } from 'vitest';
import { type Application, startApplication } from '../../e2e/src/application.ts';
import { attempt, printAttempts } from './attempts.ts';
import { leftIn, signedIn, sleep, until } from './target.ts';

const admin = join(process.cwd(), 'dist/admin.mjs');
const launcher = join(process.cwd(), 'dist/launch.mjs');
const PASSPHRASE = 'a passphrase for the safe';

/** Removes a folder; what a killed program began to write may still be written for a while, and is removed, too. */
async function remove(path: string): Promise<void> {
  await until(
    `${path} is removed`,
    () => {
      try {
        rmSync(path, { recursive: true, force: true });
      } catch (error) {
        if ((error as NodeJS.ErrnoException).code !== 'ENOTEMPTY') throw error;
      }
      return !existsSync(path);
    },
    60_000,
  );
}

interface Ran {
  code: number | null;
  output: string;
}

/** Runs a program on a data folder; `meanwhile` is given its process. */
async function run(
  program: string,
  args: string[],
  data: string,
  meanwhile: (child: ChildProcess) => void = () => {},
): Promise<Ran> {
  const child = spawn(process.execPath, [program, ...args], {
    env: { ...process.env, RAWBITS_DATA: data, RAWBITS_DATABASE_URL: '', RAWBITS_BACKUP_PASSPHRASE: PASSPHRASE },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  let output = '';
  child.stdout!.on('data', (chunk) => (output += chunk));
  child.stderr!.on('data', (chunk) => (output += chunk));
  meanwhile(child);
  const code = await new Promise<number | null>((resolve) => child.once('close', (ended) => resolve(ended)));
  return { code, output };
}

describe('what is broken off', () => {
  /** What was started, so that nothing of a failed attempt runs on. */
  const started: Application[] = [];
  const begin = async (data: string, options: string[] = []): Promise<Application> => {
    const application = await startApplication(data, options);
    started.push(application);
    return application;
  };
  let folder: string;
  let backup: string;
  let station: Application;
  printAttempts('What was broken off, and what came of it');
  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), 'rawbits-broken-'));
    backup = join(folder, 'station.rawbits');
    station = await startApplication();
    const { code, output } = await run(admin, ['backup', backup], station.folder);
    expect([code, output]).toEqual([0, expect.stringContaining('Backed up')]);
  });
  afterAll(async () => {
    for (const application of started) await application.stop();
    await station?.close();
    await remove(folder);
  });

  const start = (data: string) =>
    run(launcher, ['--port', '4399'], data, (child) => setTimeout(() => child.kill('SIGINT'), 60_000).unref());

  /** A restore that is ended by a signal so long after it has begun. */
  const endedRestore = (data: string, signal: 'SIGINT' | 'SIGKILL', afterMs: number): Promise<Ran> =>
    run(
      admin,
      ['restore', backup],
      data,
      (child) =>
        void (async () => {
          const isOver = () => child.exitCode !== null || child.signalCode !== null;
          const mark = join(data, 'restore-unfinished');
          await until('the restore has begun', () => existsSync(mark) || isOver(), 60_000);
          await sleep(afterMs);
          child.kill(signal);
        })().catch(() => child.kill('SIGKILL')),
    );
  const databaseEnded = (data: string) => until('its database has ended', () => leftIn(data).length === 0, 60_000);

  attempt('a restore, by Ctrl-C at its beginning, in its middle and near its end', async () => {
    const data = join(folder, 'interrupted');
    let ended = 0;
    for (const afterMs of [100, 1200, 2200]) {
      const { code, output } = await endedRestore(data, 'SIGINT', afterMs);
      // It may have come to its end before.
      if (code === 0) break;
      ended++;
      expect(output).toContain('nothing of it is left');
      expect(readdirSync(data)).toEqual([]);
      await databaseEnded(data);
    }
    await remove(data);
    expect(ended).toBeGreaterThan(0);
    return `${ended} times: nothing was left of it, its database included`;
  });

  attempt('a restore, by kill: it is not started, and restored when it is done again', async () => {
    const data = join(folder, 'killed');
    let ended = 0;
    for (const afterMs of [100, 1200, 2200]) {
      await endedRestore(data, 'SIGKILL', afterMs);
      // It came to its end before: what is there is whole.
      if (!existsSync(join(data, 'restore-unfinished'))) break;
      ended++;
      const refused = await start(data);
      expect([refused.code, refused.output]).toEqual([1, expect.stringContaining('was broken off. Do it again')]);
      await databaseEnded(data);
    }
    expect(ended).toBeGreaterThan(0);
    // A mark of which the half was written.
    await remove(data);
    mkdirSync(data);
    writeFileSync(join(data, 'restore-unfinished'), '{');
    const again = await run(admin, ['restore', backup], data);
    expect([again.code, again.output]).toEqual([0, expect.stringContaining('Restored the backup')]);
    const restored = await begin(data, ['--no-demo']);
    const person = await signedIn(restored, 'administrator');
    const { id } = (await person.must('GET', '/sites')).find(({ hasRig }: { hasRig: boolean }) => hasRig);
    const { message } = await person.must('GET', `/sites/${id}/trail/verification`);
    await restored.close();
    expect(message).toMatch(/^All /);
    return `${ended} times, then: ${message}`;
  });

  attempt('--fresh after somebody’s own change, in a folder with a blank in its path', async () => {
    const data = join(folder, 'a blank between');
    const demo = await begin(data);
    expect(demo.output()).toContain('Demo sign-ins');
    await signedIn(demo, 'administrator');
    await demo.stop();
    // Signing in is nobody's work.
    const again = await begin(data, ['--fresh']);
    const technician = await signedIn(again, 'technician');
    const { id } = (await technician.must('GET', '/sites')).find(({ hasRig }: { hasRig: boolean }) => hasRig);
    await technician.must('POST', `/sites/${id}/cardholders`, { name: 'My own' });
    await again.stop();
    const asked = await run(launcher, ['--fresh', '--port', '4399'], data);
    expect([asked.code, asked.output]).toEqual([1, expect.stringContaining('holds more than the demo')]);
    const third = await begin(data);
    // They are there still, and so they are said.
    expect(third.output()).toContain('Demo sign-ins');
    await third.close();
    return 'it asks, and nothing was deleted';
  });

  attempt('a start where nothing can be kept', async () => {
    const file = join(folder, 'a-file');
    writeFileSync(file, '');
    const refused = await run(launcher, ['--port', '4399'], join(file, 'data'));
    expect([refused.code, refused.output.trim().split('\n')]).toEqual([
      1,
      [expect.stringMatching(/is no folder\. Choose another/)],
    ]);
    return refused.output.trim();
  });

  attempt('a start that is killed in its first seconds, and the next', async () => {
    const data = join(folder, 'first-seconds');
    const { RAWBITS_DATABASE_URL: _, ...env } = process.env;
    for (const afterMs of [150, 600, 1300, 2400]) {
      const child = spawn(process.execPath, [launcher, '--no-demo', '--port', '4398'], {
        env: { ...env, RAWBITS_DATA: data },
        stdio: 'ignore',
      });
      await sleep(afterMs);
      child.kill('SIGKILL');
      await new Promise((resolve) => child.once('close', resolve));
    }
    const well = await begin(data, ['--no-demo']);
    expect(well.output()).toContain('Nobody works here yet');
    await well.close();
    await until('nothing is left of the others', () => leftIn(data).length === 0, 60_000);
    return 'four times, and the fifth ran';
  });

  attempt('a backup, by kill: the next of its name is written', async () => {
    const file = join(folder, 'again.rawbits');
    await run(
      admin,
      ['backup', file],
      station.folder,
      (child) =>
        void (async () => {
          await until('it has begun', () => readdirSync(folder).some((name) => name.includes('.draft')), 60_000);
          child.kill('SIGKILL');
        })(),
    );
    // As an earlier version left it.
    writeFileSync(`${file}.draft`, 'half');
    const { code, output } = await run(admin, ['backup', file], station.folder);
    expect([code, output]).toEqual([0, expect.stringContaining('Backed up')]);
    expect(readdirSync(folder).filter((name) => name.includes('.draft'))).toEqual([]);
    return 'no draft is in its way, and none is left';
  });
});
