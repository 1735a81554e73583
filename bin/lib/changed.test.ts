/** Which checks `bin/test --changed` runs: what a change reaches, in every package, and what vitest cannot tell by imports. */
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { checksOf } from './changed.mjs';

const whole = (...names: string[]): string[] => checksOf(names).whole.toSorted();

describe('what a change reaches', () => {
  it.each([
    ['core/src/bits/bits.ts', ['cli', 'e2e', 'peers', 'rig', 'rules', 'withstand']],
    ['core/src/bits/bits.test.ts', ['rules']],
    ['api/src/cards.ts', ['e2e', 'peers', 'rules', 'withstand']],
    ['server/src/features/cards/store.ts', ['e2e', 'rules', 'withstand']],
    ['server/src/testing/harness.ts', ['rules']],
    ['server/migrations/0049_x.sql', ['cluster', 'e2e', 'server', 'withstand']],
    ['rig/src/world/rig.ts', ['e2e', 'rig', 'rules', 'withstand']],
    ['desk/src/main.ts', ['e2e', 'peers', 'rules', 'withstand']],
    ['web/src/shell/styles.css', ['e2e', 'withstand']],
    ['web/src/parts/tape/tape.test.ts', ['rules']],
    ['cli/src/main.ts', ['cli', 'e2e', 'rules', 'withstand']],
    ['demo/src/main.ts', ['e2e', 'rules', 'withstand']],
    ['e2e/src/boxes.test.ts', ['e2e', 'rules']],
    ['e2e/src/application.ts', ['e2e', 'rules', 'withstand']],
    ['withstand/src/target.ts', ['rules', 'withstand']],
    ['peers/src/pyscard.py', ['peers']],
    ['bench/src/scale.ts', ['rules']],
    ['bin/lib/launch.ts', ['e2e', 'rules', 'withstand']],
    ['docs/tables.md', ['rules']],
    ['docs/guide.md', ['e2e', 'withstand']],
    ['docs/screenshots/rig.png', []],
  ])('%s', (name, projects) => {
    expect([checksOf([name]).everything, whole(name)]).toEqual([false, projects]);
  });

  it.each([
    'package-lock.json',
    'web/package.json',
    'tsconfig.base.json',
    'core/tsconfig.json',
    'vitest.config.ts',
    'bin/test',
  ])('%s reaches everything', (name) => {
    expect(checksOf(['core/src/bits/bits.ts', name]).everything).toBe(true);
  });

  it('what is not run whole is run by what imports it, and nothing is both', () => {
    const { whole, related } = checksOf(['server/src/features/cards/store.ts']);
    expect(related).toContain('server');
    expect(related.filter((project) => whole.includes(project))).toEqual([]);
  });

  it('is printed as the shell takes it', () => {
    const program = join(import.meta.dirname, 'changed.mjs');
    const { stdout } = spawnSync(process.execPath, [program], { input: 'peers/src/pyscard.py\n', encoding: 'utf8' });
    expect(stdout.split('\n')).toContain('whole=(peers)');
    expect(stdout).toContain('everything=false');
  });
});
