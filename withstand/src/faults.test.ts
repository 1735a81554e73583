/** Faults: Ctrl-C at the wrong moment, killed and frozen processes, full disks. Nothing is lost, nothing is made up. */
import { spawn } from 'node:child_process';
import { cpSync, existsSync, mkdtempSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { afterAll, beforeAll, describe, expect } from 'vitest';
import { freePort } from '../../bin/lib/ports.ts';
import { type Application, startApplication } from '../../e2e/src/application.ts';
import { attempt, printAttempts } from './attempts.ts';
import { HostLine } from './hostLine.ts';
import { type Client, health, leftIn, processOf, signedIn, sleep, until } from './target.ts';

const dist = join(process.cwd(), 'dist');

describe('a pulled plug', () => {
  let application: Application;
  let technician: Client;
  let site: string;
  printAttempts('What faults did');
  beforeAll(async () => {
    application = await startApplication();
    technician = await signedIn(application, 'technician');
    [{ id: site }] = await technician.must('GET', '/sites');
  });
  afterAll(() => application?.close());
  const isWell = async () => (await health(application.url)).status === 200;

  for (const what of ['rig', 'server', 'database'] as const)
    attempt(`the ${what} is killed`, async () => {
      process.kill(processOf(application, what)!, 'SIGKILL');
      await sleep(600);
      const backMs = await until(`the ${what} runs again`, isWell);
      expect((await technician.must('GET', `/sites/${site}/cards`)).total).toBeGreaterThan(0);
      expect(application.output()).toContain(`The ${what} ended (SIGKILL); it is started again`);
      return `it was started again, all well after ${((backMs + 600) / 1000).toFixed(1)} s`;
    });

  attempt('the database is frozen', async () => {
    const database = processOf(application, 'database')!;
    // Readiness takes the database's word for a rig that a killed server had; what goes over its line does not.
    const [{ id: reader }] = await technician.must('GET', `/sites/${site}/readers`);
    const overItsLine = () => technician.call('POST', `/sites/${site}/rig/presentations`, { card: 'bard', reader });
    await until('the rig has dialled in', async () => (await overItsLine()).status === 200);
    process.kill(database, 'SIGSTOP');
    try {
      await sleep(600);
      const began = Date.now();
      const answer = await health(application.url);
      const tookMs = Date.now() - began;
      expect([answer.status, answer.body]).toMatchObject([503, { ok: false, database: false, rig: true }]);
      return `readiness says so in ${tookMs} ms`;
    } finally {
      process.kill(database, 'SIGCONT');
      await until('the database answers again', isWell);
    }
  });

  attempt('the disk of the anchors is gone while something is saved', async () => {
    const folder = join(application.folder, 'state/trail');
    renameSync(folder, `${folder}.away`);
    writeFileSync(folder, '');
    const key = { 'idempotency-key': 'withstand-0001' };
    const send = () => technician.call('POST', `/sites/${site}/cardholders`, { name: 'Saved All The Same' }, key);
    const statuses = [(await send()).status, (await send()).status];
    rmSync(folder);
    renameSync(`${folder}.away`, folder);
    expect(statuses).toEqual([200, 200]);
    const { cardholders: people } = await technician.must('GET', `/sites/${site}/cardholders`);
    expect(people.filter((p: { name: string }) => p.name === 'Saved All The Same').length).toBe(1);
    await technician.must('POST', `/sites/${site}/cardholders`, { name: 'And Another' });
    const { message } = await technician.must('GET', `/sites/${site}/trail/verification`);
    expect(message).toMatch(/^All /);
    return `answered as saved, once; afterwards: ${message}`;
  });

  attempt('an older memory of the rig under a newer database', async () => {
    const folder = join(application.folder, 'rig');
    const readers = await technician.must('GET', `/sites/${site}/readers`);
    const reader = readers.find((r: { device: string }) => r.device === 'boat-shed-outside').id;
    const present = async (card: string) =>
      technician.must('POST', `/sites/${site}/rig/presentations`, { card, reader });
    await present('bard');
    cpSync(join(folder, 'log.jsonl'), join(folder, 'older.jsonl'));
    // What the newer database knows, and the older memory will not.
    for (let i = 0; i < 3; i++) await present('ragna');
    const before = (await technician.must('GET', `/sites/${site}/reads?limit=500`)).length;
    process.kill(processOf(application, 'rig')!, 'SIGKILL');
    renameSync(join(folder, 'older.jsonl'), join(folder, 'log.jsonl'));
    await sleep(600);
    await until('the rig runs again', isWell);
    const outcomes: string[] = [];
    for (let i = 0; i < 4; i++) outcomes.push((await present('unlabelled-1')).outcome);
    const reads = await technician.must('GET', `/sites/${site}/reads?limit=500`);
    expect(outcomes).toEqual(Array(4).fill('refused'));
    expect(reads.length).toBe(before + 4);
    return 'four presentations, four reads of that very card; nobody else’s event';
  });

  attempt('the rig’s disk is full', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'rawbits-full-'));
    const line = await HostLine.open();
    // A limit on the size of a file, in kB, cuts a write short just as a full disk does.
    const start = async (limitKb: number | 'unlimited') => {
      const script = `ulimit -f ${limitKb}; exec ${process.execPath} ${join(dist, 'rig.mjs')}`;
      const rig = spawn('bash', ['-c', script], {
        env: {
          ...process.env,
          RAWBITS_RIG_FOLDER: folder,
          RAWBITS_RIG_TOKEN: 't',
          RAWBITS_SERVERS: line.url,
        },
        stdio: 'ignore',
      });
      await until('the rig dials in', () => line.connected);
      return async () => {
        const ended = new Promise((resolve) => rig.once('exit', resolve));
        rig.kill('SIGKILL');
        await ended;
        await until('the line is gone', () => !line.connected);
      };
    };
    let stop = await start(8);
    const setup = {
      cards: [{ id: 'a', shape: 'card', printed: '', look: '', bits: '10110011100011110000' }],
      readers: [{ id: 'pad', controller: null }],
      controllers: [],
    };
    await line.call('setUp', { site: 's', setup });
    const present = () => line.call('present', { card: 'a', reader: 'pad' });
    const acknowledged: string[] = [];
    let refusals = 0;
    for (let i = 0; i < 120; i++) {
      const { result, error } = await present();
      if (result) acknowledged.push(result.id);
      else {
        expect(error!.message).toContain('disk is full');
        refusals++;
      }
    }
    await stop();
    expect([acknowledged.length > 10, refusals > 10]).toEqual([true, true]);
    stop = await start('unlimited');
    const log = async (epoch: string) => (await line.call('log', { epoch, seq: 0, entry: '', waitMs: 0 })).result;
    const { epoch } = await log('');
    const next = (await present()).result.id;
    const { entries } = await log(epoch);
    await stop();
    line.close();
    rmSync(folder, { recursive: true, force: true });
    expect(entries.map((e: { id: string }) => e.id)).toEqual([...acknowledged, next]);
    expect(new Set(entries.map((e: { seq: number }) => e.seq)).size).toBe(entries.length);
    return `${acknowledged.length} acknowledged, ${refusals} refused with a reason; all acknowledged are there, whole`;
  });

  attempt('the server is killed while it starts', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'rawbits-killed-'));
    const port = await freePort();
    const child = spawn(process.execPath, [join(dist, 'launch.mjs'), '--port', String(port), '--no-demo'], {
      env: { ...process.env, RAWBITS_DATA: folder, RAWBITS_DATABASE_URL: '' },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    const ended = new Promise<number | null>((resolve) => child.once('exit', resolve));
    const early = { process: child, folder } as unknown as Application;
    await until('the server is being started', () => processOf(early, 'server') !== undefined);
    process.kill(processOf(early, 'server')!, 'SIGKILL');
    const code = await ended;
    expect([code, leftIn(folder)]).toEqual([1, []]);
    rmSync(folder, { recursive: true, force: true });
    return 'everything ended with code 1, nothing was left behind';
  });

  attempt('SIGTERM while a request is under way', async () => {
    const answers = Array.from({ length: 10 }, () => technician.call('GET', `/sites/${site}/trail/verification`));
    await sleep(40);
    application.process.kill('SIGTERM');
    // One whose connection the server had not taken yet is turned away by the system; every other is answered.
    const settled = await Promise.allSettled(answers);
    const statuses = settled.flatMap((s) => (s.status === 'fulfilled' ? [s.value.status] : []));
    const code = await new Promise((resolve) => application.process.once('exit', resolve));
    expect([new Set(statuses), code, leftIn(application.folder)]).toEqual([new Set([200]), 0, []]);
    return `${statuses.length} of ten requests had come in and were answered, then everything ended`;
  });

  attempt('Ctrl-C in the first moments of a later start, six times', async () => {
    const inode = () => readFileSync(join(application.folder, 'mariadb/password'), 'utf8');
    const before = inode();
    for (const afterMs of [0, 60, 150, 250, 600, 1500]) {
      const port = await freePort();
      const child = spawn(process.execPath, [join(dist, 'launch.mjs'), '--port', String(port)], {
        env: { ...process.env, RAWBITS_DATA: application.folder, RAWBITS_DATABASE_URL: '' },
        stdio: ['ignore', 'pipe', 'pipe'],
      });
      const ended = new Promise((resolve) => child.once('exit', resolve));
      const lines = createInterface(child.stdout!);
      const listed = new Promise<void>((resolve) => lines.once('line', () => resolve()));
      if (afterMs === 1500) await Promise.race([listed, ended]);
      else {
        await until('the start has begun', () => existsSync(join(application.folder, 'running.json')));
        await sleep(afterMs);
      }
      child.kill('SIGINT');
      await ended;
      expect(existsSync(join(application.folder, 'demo-unfinished'))).toBe(false);
    }
    application = await startApplication(application.folder);
    technician.cookie ||= '';
    const again = await signedIn(application, 'technician');
    const { cardholders: people } = await again.must('GET', `/sites/${site}/cardholders`);
    expect(people.some((p: { name: string }) => p.name === 'Saved All The Same')).toBe(true);
    expect(inode()).toBe(before);
    return 'everything is there';
  });
});
