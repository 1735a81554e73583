/** Restores and backups that are broken off, by Ctrl-C and by kill: what is left is no station, and the next one makes it whole. */
import { type ChildProcess, spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect } from 'vitest';
import { type Application, startApplication } from '../../e2e/src/application.ts';
import { attempt, printAttempts } from './attempts.ts';
import { leftIn, signedIn, sleep, until } from './target.ts';

const admin = join(process.cwd(), 'dist/admin.mjs');
const launcher = join(process.cwd(), 'dist/launch.mjs');
const PASSPHRASE = 'a passphrase for the safe';

/** What a killed one began to write may still be written for a moment. */
const GONE = { recursive: true, force: true, maxRetries: 50, retryDelay: 100 } as const;

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
    await station?.close();
    rmSync(folder, GONE);
  });

  const start = (data: string) =>
    run(launcher, ['--port', '4399'], data, (child) => setTimeout(() => child.kill('SIGINT'), 60_000).unref());

  attempt('a restore, by Ctrl-C at its beginning, in its middle and near its end', async () => {
    const data = join(folder, 'interrupted');
    for (const afterMs of [100, 1500, 2800]) {
      const { code, output } = await run(
        admin,
        ['restore', backup],
        data,
        (child) =>
          void (async () => {
            await until('the restore has begun', () => existsSync(join(data, 'restore-unfinished')), 60_000);
            await sleep(afterMs);
            child.kill('SIGINT');
          })(),
      );
      // It may have come to its end before.
      if (code === 0) break;
      expect(output).toContain('nothing of it is left');
      expect(readdirSync(data)).toEqual([]);
      await until('its database has ended', () => leftIn(data).length === 0, 60_000);
    }
    rmSync(data, GONE);
    return 'nothing was left of it, its database included';
  });

  attempt('a restore, by kill: it is not started, and restored when it is done again', async () => {
    const data = join(folder, 'killed');
    for (const afterMs of [500, 1500, 2600]) {
      await run(
        admin,
        ['restore', backup],
        data,
        (child) =>
          void (async () => {
            await until('the restore has begun', () => existsSync(join(data, 'restore-unfinished')), 60_000);
            await sleep(afterMs);
            child.kill('SIGKILL');
          })(),
      );
      if (!existsSync(join(data, 'restore-unfinished'))) continue;
      const refused = await start(data);
      expect([refused.code, refused.output]).toEqual([1, expect.stringContaining('was broken off. Do it again')]);
      await until('its database has ended', () => leftIn(data).length === 0, 60_000);
    }
    rmSync(join(data, 'mariadb'), GONE);
    writeFileSync(join(data, 'restore-unfinished'), '{');
    const again = await run(admin, ['restore', backup], data);
    expect([again.code, again.output]).toEqual([0, expect.stringContaining('Restored the backup')]);
    const restored = await startApplication(data, ['--no-demo']);
    const person = await signedIn(restored, 'administrator');
    const { id } = (await person.must('GET', '/sites')).find(({ hasRig }: { hasRig: boolean }) => hasRig);
    const { message } = await person.must('GET', `/sites/${id}/trail/verification`);
    await restored.close();
    expect(message).toMatch(/^All /);
    return message;
  });

  attempt('--fresh after somebody’s own change, in a folder with a blank in its path', async () => {
    const data = join(folder, 'a blank between');
    const demo = await startApplication(data);
    expect(demo.output()).toContain('Demo sign-ins');
    await signedIn(demo, 'administrator');
    await demo.stop();
    // Signing in is nobody's work.
    const again = await startApplication(data, ['--fresh']);
    const technician = await signedIn(again, 'technician');
    const { id } = (await technician.must('GET', '/sites')).find(({ hasRig }: { hasRig: boolean }) => hasRig);
    await technician.must('POST', `/sites/${id}/cardholders`, { name: 'My own' });
    await again.stop();
    const asked = await run(launcher, ['--fresh', '--port', '4399'], data);
    expect([asked.code, asked.output]).toEqual([1, expect.stringContaining('holds more than the demo')]);
    const third = await startApplication(data);
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
    const well = await startApplication(data, ['--no-demo']);
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
