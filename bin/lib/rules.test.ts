/** The dependency rules themselves: they hold on the tree as it is, and a wrong import of each kind is found. */
import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { cruise, type ICruiseResult, type IModule } from 'dependency-cruiser';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const top = join(import.meta.dirname, '../..');
const config = createRequire(import.meta.url)(join(top, '.dependency-cruiser.cjs'));

async function cruised(baseDir: string, folders: string[]): Promise<ICruiseResult> {
  const { tsConfig: _unused, ...options } = config.options;
  const result = await cruise(
    folders,
    { ...options, baseDir, validate: true, ruleSet: { forbidden: config.forbidden } },
    config.options.enhancedResolveOptions,
  );
  return result.output as ICruiseResult;
}

const violations = async (baseDir: string, folders: string[]): Promise<string[]> =>
  (await cruised(baseDir, folders)).summary.violations.map((v) => `${v.rule.name}: ${v.from}`);

/** Which folder imports from which, tests and what serves only them left out. */
function foldersOf(modules: readonly IModule[]): Map<string, Set<string>> {
  const graph = new Map<string, Set<string>>();
  const counts = (file: string) => /[.]tsx?$/.test(file) && !/node_modules|[.]test[.]|\/testing\//.test(file);
  for (const { source, dependencies } of modules.filter((module) => counts(module.source))) {
    const from = dirname(source);
    const to = graph.get(from) ?? new Set();
    graph.set(from, to);
    for (const { resolved } of dependencies)
      if (counts(resolved) && dirname(resolved) !== from) to.add(dirname(resolved));
  }
  return graph;
}

/** The folders from which a way of imports leads back to them. */
function inCycles(graph: ReadonlyMap<string, ReadonlySet<string>>): string[] {
  const reached = (start: string): Set<string> => {
    const seen = new Set<string>();
    const open = [...(graph.get(start) ?? [])];
    for (let at = open.pop(); at !== undefined; at = open.pop()) {
      if (seen.has(at)) continue;
      seen.add(at);
      open.push(...(graph.get(at) ?? []));
    }
    return seen;
  };
  return [...graph.keys()].filter((folder) => reached(folder).has(folder));
}

describe('the drawing of the tables', () => {
  it('has every table, and every column of it', () => {
    const drawing = readFileSync(join(top, 'docs/tables.md'), 'utf8');
    const files = ['platform', 'features', '.']
      .flatMap((part) =>
        readdirSync(join(top, 'server/src', part)).map((name) => `server/src/${part}/${name}/tables.ts`),
      )
      .filter((file) => existsSync(join(top, file)));
    const missing = files.flatMap((file) =>
      readFileSync(join(top, file), 'utf8')
        .split(/(?=mysqlTable\()/)
        .slice(1)
        .flatMap((text) => {
          const [, table] = /mysqlTable\(\s*'(\w+)'/.exec(text)!;
          const row = drawing.split('\n').find((line) => line.startsWith(`| \`${table}\` |`)) ?? '';
          const columns = [...text.matchAll(/^\s+\w+: \w+\('(\w+)'/gm)].map(([, column]) => column!);
          return [table!, ...columns]
            .filter((name) => !new RegExp(`\\b${name}\\b`).test(row))
            .map((name) => `${table}.${name}`);
        }),
    );
    expect([files.length > 10, missing]).toEqual([true, []]);
  });
});

describe('imports', () => {
  let copy: string;
  beforeAll(() => {
    copy = mkdtempSync(join(tmpdir(), 'rawbits-rules-'));
    cpSync(join(top, 'core'), join(copy, 'core'), {
      recursive: true,
      filter: (path) => !path.includes('node_modules'),
    });
    for (const name of ['rig/src', 'api/src', 'web/src/parts/tape', 'web/src/shell', 'server/src/platform/feed'])
      mkdirSync(join(copy, name), { recursive: true });
    for (const name of ['cards', 'doors']) mkdirSync(join(copy, 'server/src/features', name), { recursive: true });
    writeFileSync(join(copy, 'web/src/shell/rail.ts'), 'export const rail = 1;');
    writeFileSync(join(copy, 'server/src/features/cards/tables.ts'), 'export const cards = 1;');
    writeFileSync(join(copy, 'server/src/features/cards/index.ts'), "export { cards } from './tables.ts';");
    symlinkSync(join(top, 'node_modules'), join(copy, 'node_modules'));
  });
  afterAll(() => rmSync(copy, { recursive: true, force: true }));

  it('of the tree as it is break no rule', async () => {
    const { summary, modules } = await cruised(top, [
      'core',
      'api',
      'server',
      'rig',
      'desk',
      'web',
      'cli',
      'demo',
      'e2e',
      'withstand',
      'peers',
      'bench',
      'bin',
    ]);
    expect(summary.violations.map((v) => `${v.rule.name}: ${v.from}`)).toEqual([]);
    const folders = foldersOf(modules);
    expect([folders.size > 50, inCycles(folders)]).toEqual([true, []]);
  });

  it('folders that import one another are found, over a third too', () => {
    const graph = new Map([
      ['a', new Set(['b'])],
      ['b', new Set(['c'])],
      ['c', new Set(['a', 'd'])],
      ['d', new Set<string>()],
    ]);
    expect(inCycles(graph)).toEqual(['a', 'b', 'c']);
  });

  it.each([
    ['core-bits-imports-nothing-later', 'core/src/bits/wrong.ts', "export { encode } from '../codec/index.ts';"],
    ['core-is-pure', 'core/src/bits/wrong.ts', "export { readFileSync } from 'node:fs';"],
    ['core-is-pure', 'core/src/bits/wrong.ts', "export { useState } from 'react';"],
    ['core-knows-no-other-package', 'core/src/bits/wrong.ts', "export { rig } from '../../../rig/src/rig.ts';"],
    ['api-uses-only-core', 'api/src/wrong.ts', "export { readFileSync } from 'node:fs';"],
    [
      'platform-knows-no-feature',
      'server/src/platform/feed/wrong.ts',
      "export { cards } from '../../features/cards/index.ts';",
    ],
    [
      'features-meet-through-their-index',
      'server/src/features/doors/wrong.ts',
      "export { cards } from '../cards/tables.ts';",
    ],
    [
      'the-server-takes-features-by-their-index',
      'server/src/wrong.ts',
      "export { cards } from './features/cards/tables.ts';",
    ],
    ['web-parts-imports-nothing-above', 'web/src/parts/tape/wrong.ts', "export { rail } from '../../shell/rail.ts';"],
    ['no-cycles', 'core/src/bits/wrong.ts', "export { b } from './wrong2.ts';"],
  ])('%s is found', async (rule, file, text) => {
    writeFileSync(join(copy, file), text);
    writeFileSync(join(copy, 'core/src/bits/wrong2.ts'), "import { b as a } from './wrong.ts';\nexport const b = a;");
    writeFileSync(join(copy, 'rig/src/rig.ts'), 'export const rig = 1;');
    expect(await violations(copy, ['core', 'api', 'rig', 'server', 'web'])).toContain(`${rule}: ${file}`);
    rmSync(join(copy, file));
    rmSync(join(copy, 'core/src/bits/wrong2.ts'));
  });
});
