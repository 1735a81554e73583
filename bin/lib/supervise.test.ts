/** Supervision: what ends by itself is started again, with growing pauses, until it cannot be kept running. */
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { DemoLoad, MARK } from './demoLoad.ts';
import { type Running, Supervised } from './supervise.ts';

const RULES = { firstPauseMs: 4, longestPauseMs: 20, recoveredMs: 10_000, mostFailures: 3 };

/** Programs that end when told, by whoever tells. */
function programs() {
  const alive: { end(how: string): void }[] = [];
  let started = 0;
  const start = async (): Promise<Running> => {
    started++;
    let end!: (how: string) => void;
    const ended = new Promise<string>((resolve) => (end = resolve));
    alive.push({ end });
    return { ended, stop: async () => end('stopped') };
  };
  const waitFor = async (n: number) => {
    while (started < n) await new Promise((resolve) => setTimeout(resolve, 1));
  };
  return { start, alive, waitFor, started: () => started };
}

describe('a supervised program', () => {
  it('is started again each time it ends, and told of, until it failed too often in a row', async () => {
    const { start, alive, waitFor } = programs();
    const told: string[] = [];
    let given = '';
    const done = new Promise<void>((resolve) => {
      const program = new Supervised(
        'rig',
        start,
        (t) => told.push(t),
        (t) => {
          given = t;
          resolve();
        },
        RULES,
      );
      void program.begin();
    });
    for (let i = 0; i < 4; i++) {
      await waitFor(i + 1);
      await new Promise((resolve) => setTimeout(resolve, 2));
      alive[i]!.end('SIGKILL');
    }
    await done;
    expect(told.filter((t) => t.includes('started again')).map((t) => /in ([\d.]+) s/.exec(t)![1])).toEqual([
      '0.004',
      '0.008',
      '0.016',
    ]);
    expect(given).toBe('The rig ended 4 times in a row, the last time with SIGKILL. Raw Bits stops.');
  });

  it('a start that fails counts as an end', async () => {
    const { start, alive, waitFor } = programs();
    let starts = 0;
    const sometimes = () => (starts++ === 1 ? Promise.reject(new Error('no port')) : start());
    const told: string[] = [];
    const program = new Supervised(
      'server',
      sometimes,
      (t) => told.push(t),
      () => {},
      RULES,
    );
    await program.begin();
    alive[0]!.end('code 1');
    await waitFor(2);
    expect(told[1]).toBe('The server ended (no port); it is started again in 0.008 s.');
    await program.stop();
  });

  it('stopped while it is being started again, it does not go on', async () => {
    const { start, alive, started } = programs();
    let release!: () => void;
    const held = new Promise<void>((resolve) => (release = resolve));
    let starts = 0;
    const slow = async () => {
      if (starts++ > 0) await held;
      return start();
    };
    const program = new Supervised(
      'server',
      slow,
      () => {},
      () => {},
      RULES,
    );
    await program.begin();
    alive[0]!.end('SIGKILL');
    while (starts < 2) await new Promise((resolve) => setTimeout(resolve, 1));
    const stopped = program.stop();
    release();
    await stopped;
    expect(started()).toBe(2);
  });
});

describe('the mark of a demo that is being loaded', () => {
  const folder = () => {
    const data = mkdtempSync(join(tmpdir(), 'rawbits-load-'));
    mkdirSync(join(data, 'mariadb'));
    writeFileSync(join(data, 'mariadb/cards'), 'all of them');
    return data;
  };
  const said: string[] = [];

  it('a broken load is put aside whole, and nothing is deleted', () => {
    const data = folder();
    new DemoLoad(data).begin();
    new DemoLoad(data, (s) => said.push(s)).lookAfterBroken(true);
    expect([existsSync(join(data, 'mariadb')), existsSync(join(data, MARK))]).toEqual([false, false]);
    const [aside] = readdirSync(data);
    expect(readFileSync(join(data, aside!, 'mariadb/cards'), 'utf8')).toBe('all of them');
    expect(said.at(-1)).toContain(aside);
    rmSync(data, { recursive: true });
  });

  it('what was loaded whole is known as the demo; what was not may be more than that', () => {
    const data = folder();
    const load = new DemoLoad(data, () => {});
    expect([load.isDemo, new DemoLoad(join(data, 'none')).isDemo]).toEqual([false, true]);
    load.begin();
    expect(load.isDemo).toBe(false);
    load.done();
    expect([load.isDemo, existsSync(join(data, MARK))]).toEqual([true, false]);
    writeFileSync(join(data, 'mine'), 'kept');
    load.clearAway();
    expect(readdirSync(data)).toEqual(['mine']);
    rmSync(data, { recursive: true });
  });

  it('without the mark, and where no demo is wanted, all stays', () => {
    const data = folder();
    const load = new DemoLoad(data, () => {});
    load.lookAfterBroken(true);
    load.begin();
    load.lookAfterBroken(false);
    expect(readdirSync(data)).toEqual(['mariadb']);
    rmSync(data, { recursive: true });
  });
});
