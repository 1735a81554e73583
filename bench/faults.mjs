/**
 * Plants a fault in each of twenty modules, one after the other, and looks whether the default tests find it: quick tests
 * are worth nothing if they find less. In a copy of the work tree; nothing here is changed.
 *
 *     node bench/faults.mjs            all of them, about ten minutes on two cores
 *     node bench/faults.mjs hull jobs  those whose file's name contains a word
 *
 * A fault is found where a test of the default run that imports the module (or, where it is named, starts it) fails.
 */
import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** By file: what stands there, what is put in its place, and the projects whose tests look (that of the file otherwise). */
const FAULTS = [
  ['core/src/access/schedule/calendar.ts', '(day + 3) % 7', '(day + 4) % 7'],
  ['core/src/access/schedule/zone.ts', 'const QUARTER_MS = 900_000;', 'const QUARTER_MS = 7_200_000;'],
  ['core/src/access/rights/difference.ts', 'first < from + CYCLE', 'first < from + 5'],
  ['core/src/box/ranges.ts', 'sizeOf(g) >= size', 'sizeOf(g) > size'],
  ['core/src/check/index.ts', 'reflectOut ? reflect(register, width) : register', 'register'],
  ['core/src/chip/files/pending.ts', 'now.value - amount < file.lower', 'now.value - amount <= file.lower'],
  ['core/src/chip/keeping/torn.ts', 'if (byte === before[i]) return byte;', ''],
  [
    'core/src/codec/encode.ts',
    'covers.reduce((sum, p) => sum + bits[p]!, 0)',
    'covers.reduce((sum, p) => sum + bits[p]!, 1)',
  ],
  ['core/src/dryrun/dryRun.ts', 'if (outcome > gravest) gravest = outcome;', 'gravest = outcome;'],
  ['core/src/format/range.ts', 'if (by <= to - from)', 'if (by < to - from)'],
  ['core/src/identify/algebra/smallestSets.ts', 'size <= most', 'size < most'],
  [
    'core/src/identify/family/covers.ts',
    'if (kind === 2) return at % 3 === 0;',
    'if (kind === 2) return at % 3 === 1;',
  ],
  ['core/src/identify/withstands.ts', '...(swapped ? [] :', '...(swapped && alone < 0 ? [] :'],
  [
    'core/src/intake/within.ts',
    'return { body: text.slice(stamp.length), stamp: stamp.trim() };',
    'return { body: text, stamp: stamp.trim() };',
  ],
  ['core/src/plan/sectors/reach.ts', 'if (may(trailer.keyAWrite))', 'if (may(trailer.keyBRead))'],
  [
    'server/src/platform/jobs/jobs.ts',
    'if (taken.affectedRows > 0) this.begin',
    'if (taken.affectedRows > 9) this.begin',
  ],
  [
    'server/src/platform/vault/envelope.ts',
    "['rawbits envelope', ...bound]",
    "['rawbits envelope', ...bound.slice(1)]",
  ],
  ['rig/src/store/log.ts', "(entry === '' || here.id === entry)", 'here !== undefined', ['rig', 'server']],
  [
    'web/src/platform/drafts/store.ts',
    '.filter(([key]) => key.startsWith(beginning))',
    '',
    ['web', 'web-plain', 'web-mocked'],
  ],
  ['bin/lib/demoCache.ts', 'now.size === size && now.mtimeMs === mtimeMs', 'now.size === size', ['rules']],
];

const top = join(dirname(fileURLToPath(import.meta.url)), '..');
const words = process.argv.slice(2);
const faults = FAULTS.filter(([file]) => words.length === 0 || words.some((word) => file.includes(word)));
const copy = mkdtempSync(join(tmpdir(), 'rawbits-faults-'));

/** The work tree as it is now, without what git ignores. */
function copyTree() {
  const names = execFileSync('git', ['ls-files', '-z', '-co', '--exclude-standard'], { cwd: top });
  spawnSync('tar', ['--null', '-T', '-', '-cf', join(copy, 'tree.tar')], { cwd: top, input: names });
  execFileSync('tar', ['-xf', 'tree.tar'], { cwd: copy });
  rmSync(join(copy, 'tree.tar'));
  symlinkSync(join(top, 'node_modules'), join(copy, 'node_modules'));
}

function look([file, is, becomes, projects = [file.split('/')[0]]]) {
  const path = join(copy, file);
  const text = readFileSync(path, 'utf8');
  if (text.split(is).length !== 2) throw new Error(`${file}: "${is}" does not stand there once`);
  writeFileSync(
    path,
    text.replace(is, () => becomes),
  );
  const args = ['vitest', 'related', file, '--run', '--bail=1', ...projects.flatMap((name) => ['--project', name])];
  const env = { ...process.env, RAWBITS_DATABASE_FOR_TESTS: 'yes', RAWBITS_TESTS: '', NO_COLOR: '1' };
  const { status, stdout, stderr } = spawnSync('npx', args, { cwd: copy, encoding: 'utf8', env, timeout: 600_000 });
  writeFileSync(path, text);
  const by = /FAIL\s+(.*)/.exec(stdout + stderr)?.[1];
  return { found: status === 1 && by !== undefined, by };
}

try {
  copyTree();
  let missed = 0;
  for (const fault of faults) {
    const { found, by } = look(fault);
    if (!found) missed++;
    console.log(`${found ? 'found ' : 'MISSED'}  ${fault[0]}: ${fault[1]}${by ? `\n          by ${by}` : ''}`);
  }
  console.log(`${faults.length - missed} of ${faults.length} faults found`);
  process.exitCode = missed === 0 ? 0 : 1;
} finally {
  rmSync(copy, { recursive: true, force: true });
}
