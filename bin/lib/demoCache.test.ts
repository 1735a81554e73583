/** The kept demo: copied whole or not at all, whoever deleted or broke what of it. */
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { DemoCache, keyOfCode } from './demoCache.ts';

describe('a kept demo', () => {
  let folder: string;
  let now: number;
  beforeEach(() => {
    folder = mkdtempSync(join(tmpdir(), 'rawbits-kept-'));
    now = Date.parse('2026-12-01T12:00:00Z');
  });
  afterEach(() => rmSync(folder, { recursive: true, force: true }));
  const cacheOf = (key = 'code') => new DemoCache(join(folder, 'demo'), key, () => now);
  const keepOne = (cache = cacheOf(), cards = 'all of them') => {
    const draft = cache.draft();
    mkdirSync(join(draft, 'mariadb/data'), { recursive: true });
    writeFileSync(join(draft, 'mariadb/data/cards.ibd'), cards);
    writeFileSync(join(draft, 'rig.token'), 'abc', { mode: 0o600 });
    cache.keep();
    return cache;
  };
  const home = (...names: string[]) => join(folder, 'demo/code/data', ...names);
  const copied = () => {
    const data = join(folder, `data-${Math.random()}`);
    mkdirSync(data);
    cacheOf().copyTo(data);
    return data;
  };

  it('is copied with all that is in it, and nothing is left beside it', () => {
    expect(cacheOf().isThere).toBe(false);
    expect(keepOne().isThere).toBe(true);
    const data = copied();
    expect(readdirSync(data).sort()).toEqual(['mariadb', 'rig.token']);
    expect(readFileSync(join(data, 'mariadb/data/cards.ibd'), 'utf8')).toBe('all of them');
    expect(readdirSync(join(folder, 'demo'))).toEqual(['code']);
  });

  it.each([
    ['a file of it was deleted', () => rmSync(home('mariadb/data/cards.ibd'))],
    ['half of it was deleted', () => rmSync(home('mariadb'), { recursive: true })],
    ['a file of it was cut', () => truncateSync(home('mariadb/data/cards.ibd'), 3)],
    ['a file of it was written to', () => writeFileSync(home('rig.token'), 'abd')],
    ['a file of it was touched', () => utimesSync(home('rig.token'), 1, 1)],
    ['its list was deleted', () => rmSync(home('../files.json'))],
    ['its list was cut', () => truncateSync(home('../files.json'), 40)],
    ['it is a day old', () => (now += 24 * 3_600_000)],
    ['it was loaded tomorrow', () => (now -= 60_000)],
  ])('is not there where %s, and is kept anew', (_, spoil) => {
    keepOne();
    spoil();
    expect(cacheOf().isThere).toBe(false);
    expect(keepOne(cacheOf(), 'loaded again').isThere).toBe(true);
    expect(readFileSync(join(copied(), 'mariadb/data/cards.ibd'), 'utf8')).toBe('loaded again');
  });

  it('of other code is not used, and gives way to the newer one', () => {
    keepOne();
    expect(cacheOf('other').isThere).toBe(false);
    expect(keepOne(cacheOf('other')).isThere).toBe(true);
    expect(cacheOf().isThere).toBe(false);
  });

  it('that another start has kept meanwhile stays: it may be copied at that moment', () => {
    const mine = cacheOf();
    const draft = mine.draft();
    writeFileSync(join(draft, 'rig.token'), 'mine');
    // Another process's draft, put in its place before mine.
    mkdirSync(home(), { recursive: true });
    writeFileSync(home('rig.token'), 'theirs');
    const { size, mtimeMs } = statSync(home('rig.token'));
    writeFileSync(home('../files.json'), JSON.stringify({ loadedAt: now, files: { 'rig.token': { size, mtimeMs } } }));
    mine.keep();
    expect([readFileSync(home('rig.token'), 'utf8'), readdirSync(join(folder, 'demo'))]).toEqual(['theirs', ['code']]);
  });

  it('that was broken off while it was loaded is no demo, and is cleared away by the next', () => {
    // No process has this number: they end at 4,194,304 (Linux, PID_MAX_LIMIT).
    const left = join(folder, 'demo/draft.99999999');
    mkdirSync(join(left, 'data'), { recursive: true });
    expect(cacheOf().isThere).toBe(false);
    keepOne();
    expect(existsSync(left)).toBe(false);
  });

  it('a copy that was broken off is begun anew', () => {
    keepOne();
    const data = join(folder, 'data');
    mkdirSync(join(data, 'demo-copy/mariadb/data'), { recursive: true });
    writeFileSync(join(data, 'demo-copy/mariadb/data/half'), 'x');
    cacheOf().copyTo(data);
    expect(readdirSync(data).sort()).toEqual(['mariadb', 'rig.token']);
    expect(readdirSync(join(data, 'mariadb/data'))).toEqual(['cards.ibd']);
  });
});

it('the code of a demo is its programs and its migrations', () => {
  const folder = mkdtempSync(join(tmpdir(), 'rawbits-code-'));
  const [dist, migrations] = ['dist', 'migrations'].map((name) => join(folder, name)) as [string, string];
  for (const name of [dist, migrations]) mkdirSync(name);
  for (const name of ['demo', 'launch', 'rig', 'server', 'worker']) writeFileSync(join(dist, `${name}.mjs`), name);
  writeFileSync(join(migrations, '0001.sql'), 'CREATE TABLE a (b int)');
  const key = () => keyOfCode(dist, migrations);
  const keys = [key(), key()];
  writeFileSync(join(dist, 'rig.mjs'), 'another rig');
  keys.push(key());
  writeFileSync(join(migrations, '0002.sql'), 'DROP TABLE a');
  keys.push(key());
  expect([keys[0] === keys[1], new Set(keys).size]).toEqual([true, 3]);
  rmSync(folder, { recursive: true });
});
