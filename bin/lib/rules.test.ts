/** The dependency rules themselves: they hold on the tree as it is, and a wrong import of each kind is found. */
import { cpSync, mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { cruise, type ICruiseResult } from 'dependency-cruiser';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const top = join(import.meta.dirname, '../..');
const config = createRequire(import.meta.url)(join(top, '.dependency-cruiser.cjs'));

async function violations(baseDir: string, folders: string[]): Promise<string[]> {
  const { tsConfig: _unused, ...options } = config.options;
  const result = await cruise(
    folders,
    { ...options, baseDir, validate: true, ruleSet: { forbidden: config.forbidden } },
    config.options.enhancedResolveOptions,
  );
  return (result.output as ICruiseResult).summary.violations.map((v) => `${v.rule.name}: ${v.from}`);
}

describe('imports', () => {
  let copy: string;
  beforeAll(() => {
    copy = mkdtempSync(join(tmpdir(), 'rawbits-rules-'));
    cpSync(join(top, 'core'), join(copy, 'core'), {
      recursive: true,
      filter: (path) => !path.includes('node_modules'),
    });
    for (const name of ['rig/src', 'api/src']) mkdirSync(join(copy, name), { recursive: true });
    symlinkSync(join(top, 'node_modules'), join(copy, 'node_modules'));
  });
  afterAll(() => rmSync(copy, { recursive: true, force: true }));

  it('of the tree as it is break no rule', async () => {
    expect(
      await violations(top, ['core', 'api', 'server', 'rig', 'web', 'cli', 'demo', 'e2e', 'withstand', 'bench', 'bin']),
    ).toEqual([]);
  });

  it.each([
    ['core-bits-imports-nothing-later', 'core/src/bits/wrong.ts', "export { encode } from '../codec/index.ts';"],
    ['core-is-pure', 'core/src/bits/wrong.ts', "export { readFileSync } from 'node:fs';"],
    ['core-is-pure', 'core/src/bits/wrong.ts', "export { useState } from 'react';"],
    ['core-knows-no-other-package', 'core/src/bits/wrong.ts', "export { rig } from '../../../rig/src/rig.ts';"],
    ['api-uses-only-core', 'api/src/wrong.ts', "export { readFileSync } from 'node:fs';"],
    ['no-cycles', 'core/src/bits/wrong.ts', "export { b } from './wrong2.ts';"],
  ])('%s is found', async (rule, file, text) => {
    writeFileSync(join(copy, file), text);
    writeFileSync(join(copy, 'core/src/bits/wrong2.ts'), "import { b as a } from './wrong.ts';\nexport const b = a;");
    writeFileSync(join(copy, 'rig/src/rig.ts'), 'export const rig = 1;');
    expect(await violations(copy, ['core', 'api', 'rig'])).toContain(`${rule}: ${file}`);
    rmSync(join(copy, file));
    rmSync(join(copy, 'core/src/bits/wrong2.ts'));
  });
});
