/** The dependency rules themselves: they hold on the tree as it is, and a wrong import of each kind is found. */
import {
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

describe('what a person is shown of an error', () => {
  it('is said by one function of the server: no other takes the words of whatever was thrown', () => {
    const own = ['platform/problem/sentence.ts', 'platform/settings/log.ts'];
    const files = readdirSync(join(top, 'server/src'), { recursive: true, encoding: 'utf8' }).filter(
      (file) => file.endsWith('.ts') && !/\.test\.ts$|\/testing\//.test(file),
    );
    expect(files.length).toBeGreaterThan(150);
    const taking = files
      .filter((file) => !own.some((one) => file.endsWith(one)))
      .filter((file) =>
        /\b(?:as|:) Error\)?\)\.message|failureOf\(|\(\w+: Error\) => [^\n]*\.message/.test(
          readFileSync(join(top, 'server/src', file), 'utf8'),
        ),
      );
    // A body that is no JSON is told by the words of the parser, which hold nothing but that body; a debug line is no answer;
    // and what a worker throws comes to the function on its own side.
    expect(taking.sort()).toEqual(['features/rig/ingest.ts', 'platform/http/body.ts', 'platform/workers/main.ts']);
  });
});

describe('the door of the key store', () => {
  it('is one: no other file opens an envelope, and each caller of the door says which way a key goes', () => {
    const files = readdirSync(join(top, 'server/src'), { recursive: true, encoding: 'utf8' }).filter(
      (file) => file.endsWith('.ts') && !/\.test\.ts$|\/testing\//.test(file),
    );
    const having = (pattern: RegExp) =>
      files.filter((file) => pattern.test(readFileSync(join(top, 'server/src', file), 'utf8'))).sort();
    expect(having(/\bopen\.open\(/)).toEqual(['features/keys/door.ts']);
    expect(having(/\btaken\(\w+(\(\))?, /)).toEqual(['platform/vault/vault.ts', 'platform/vault/wrapping.ts']);
    expect(having(/\b(keyOut|partOut)\(/)).toEqual(
      ['backup', 'components', 'door', 'material', 'requests', 'seal'].map((name) => `features/keys/${name}.ts`),
    );
    // Keys for cards and readers: by the use that custodians agreed to.
    expect(having(/\bmaterialOf\(/)).toEqual([
      'features/keys/asking.ts',
      'features/keys/material.ts',
      'features/runs/carry.ts',
      'features/runs/exchange.ts',
      'features/runs/look.ts',
    ]);
  });
});

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

/** By rule: a file that breaks it, and what stands in it. */
const WRONG: [rule: string, file: string, text: string][] = [
  ['core-bits-imports-nothing-later', 'core/src/bits/later.ts', "export { encode } from '../codec/index.ts';"],
  ['core-is-pure', 'core/src/bits/node.ts', "export { readFileSync } from 'node:fs';"],
  ['core-is-pure', 'core/src/bits/view.ts', "export { useState } from 'react';"],
  ['core-knows-no-other-package', 'core/src/bits/rig.ts', "export { rig } from '../../../rig/src/rig.ts';"],
  ['host-and-chip-stay-apart', 'core/src/host/chip.ts', "export { card } from '../chip/index.ts';"],
  ['api-uses-only-core', 'api/src/node.ts', "export { readFileSync } from 'node:fs';"],
  ['rig-uses-only-api-and-core', 'rig/src/web.ts', "export { rail } from '../../web/src/shell/rail.ts';"],
  [
    'platform-knows-no-feature',
    'server/src/platform/feed/feature.ts',
    "export { cards } from '../../features/cards/index.ts';",
  ],
  [
    'features-meet-through-their-index',
    'server/src/features/doors/inside.ts',
    "export { cards } from '../cards/tables.ts';",
  ],
  [
    'the-server-takes-features-by-their-index',
    'server/src/inside.ts',
    "export { cards } from './features/cards/tables.ts';",
  ],
  ['web-parts-imports-nothing-above', 'web/src/parts/tape/above.ts', "export { rail } from '../../shell/rail.ts';"],
  ['the-command-line-uses-only-core', 'cli/src/api.ts', "export { routes } from '../../api/src/index.ts';"],
  ['tests-and-benchmarks-stay-outside', 'bench/src/web.ts', "export { rail } from '../../web/src/shell/rail.ts';"],
  [
    'what-drives-the-application-does-not-know-its-inside',
    'e2e/src/inside.ts',
    "export { cards } from '../../server/src/features/cards/index.ts';",
  ],
  ['everything-resolves', 'desk/src/nothing.ts', "export { nothing } from './there.ts';"],
  ['no-cycles', 'core/src/bits/one.ts', "export { b } from './two.ts';"],
];

/** Files that break no rule, for those to import. */
const RIGHT: [file: string, text: string][] = [
  ['core/src/bits/two.ts', "import { b as a } from './one.ts';\nexport const b = a;"],
  ['core/src/codec/index.ts', 'export const encode = 1;'],
  ['core/src/chip/index.ts', 'export const card = 1;'],
  ['api/src/index.ts', "export { encode as routes } from '../../core/src/codec/index.ts';"],
  ['rig/src/rig.ts', 'export const rig = 1;'],
  ['web/src/shell/rail.ts', "export { routes as rail } from '../../../api/src/index.ts';"],
  ['server/src/features/cards/tables.ts', 'export const cards = 1;'],
  ['server/src/features/cards/index.ts', "export { cards } from './tables.ts';"],
];

const PACKAGES = [
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
];

describe('imports', () => {
  it('of the tree as it is break no rule, each of its 1,400 files parsed', async () => {
    const { summary, modules } = await cruised(top, PACKAGES);
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

  describe('that break a rule', () => {
    let copy: string;
    let found: string[];
    beforeAll(async () => {
      copy = mkdtempSync(join(tmpdir(), 'rawbits-rules-'));
      for (const [file, text] of [...RIGHT, ...WRONG.map(([, file, text]) => [file, text] as const)]) {
        mkdirSync(join(copy, dirname(file)), { recursive: true });
        writeFileSync(join(copy, file), text);
      }
      symlinkSync(join(top, 'node_modules'), join(copy, 'node_modules'));
      const folders = PACKAGES.filter((name) => existsSync(join(copy, name)));
      const { summary } = await cruised(copy, folders);
      found = summary.violations.map(({ rule, from }) => `${rule.name}: ${from}`);
    });
    afterAll(() => rmSync(copy, { recursive: true, force: true }));

    it.each(WRONG)('%s is found: %s', (rule, file) => {
      expect(found).toContain(`${rule}: ${file}`);
    });

    it('are all that is found', () => {
      const files = WRONG.map(([, file]) => file);
      expect(found.filter((one) => !files.some((file) => one.endsWith(`: ${file}`)))).toEqual([]);
    });
  });
});
