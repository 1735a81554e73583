// Builds what is named: cli, server, rig, demo, launch, bench, and web; all but bench and pictures when nothing is named.
// Each program becomes one file in dist/, written whole or not at all.
import { renameSync, rmSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';

const top = join(dirname(fileURLToPath(import.meta.url)), '../..');

const programs = {
  cli: { entry: 'cli/src/main.ts', bundlePackages: true },
  server: { entry: 'server/src/main.ts' },
  worker: { entry: 'server/src/platform/workers/main.ts' },
  rig: { entry: 'rig/src/main.ts' },
  desk: { entry: 'desk/src/main.ts' },
  demo: { entry: 'demo/src/main.ts' },
  admin: { entry: 'bin/lib/admin/main.ts' },
  launch: { entry: 'bin/lib/launch.ts' },
  'bench-cards-needed': { entry: 'bench/src/cardsNeeded.ts' },
  'bench-chip': { entry: 'bench/src/chip.ts' },
  'bench-cluster': { entry: 'bench/src/cluster.ts' },
  'bench-errors': { entry: 'bench/src/errors.ts' },
  'bench-intake': { entry: 'bench/src/intakeFuzz.ts' },
  'bench-decode': { entry: 'bench/src/decode.ts' },
  'bench-dry-run': { entry: 'bench/src/dryRun.ts' },
  'bench-dry-run-stored': { entry: 'bench/src/dryRunStored.ts' },
  'bench-encode': { entry: 'bench/src/encode.ts' },
  'bench-identify': { entry: 'bench/src/identify.ts' },
  'bench-nonsense': { entry: 'bench/src/nonsense.ts' },
  'bench-access': { entry: 'bench/src/access.ts' },
  'bench-stock': { entry: 'bench/src/stock.ts' },
  'bench-scale': { entry: 'bench/src/scale.ts' },
  'bench-trail': { entry: 'bench/src/trail.ts' },
  'bench-trials': { entry: 'bench/src/trials.ts' },
  pictures: { entry: 'e2e/src/pictures.ts' },
};

/** Our own packages are bundled, others stay in node_modules; the command line tool carries all it needs. */
const keepPackagesOutside = {
  name: 'packages-outside',
  setup(b) {
    b.onResolve({ filter: /^[^./]/ }, ({ path, kind }) =>
      kind === 'entry-point' || path.startsWith('@rawbits/') ? undefined : { path, external: true },
    );
  },
};

async function buildProgram(name) {
  const { entry, bundlePackages } = programs[name];
  const out = join(top, `dist/${name}.mjs`);
  const draft = `${out}.${process.pid}`;
  await build({
    entryPoints: [join(top, entry)],
    absWorkingDir: top,
    bundle: true,
    platform: 'node',
    target: 'node20',
    format: 'esm',
    // What an error names is file and line: the text of the sources would be read at every start.
    sourcemap: bundlePackages ? false : 'inline',
    sourcesContent: false,
    outfile: draft,
    logLevel: 'error',
    plugins: bundlePackages ? [] : [keepPackagesOutside],
  });
  renameSync(draft, out);
}

async function buildWeb() {
  const { build: viteBuild } = await import('vite');
  const draft = join(top, `dist/web.${process.pid}`);
  await viteBuild({
    root: join(top, 'web'),
    configFile: join(top, 'web/vite.config.ts'),
    logLevel: 'warn',
    build: { outDir: draft, emptyOutDir: true, chunkSizeWarningLimit: 1000 },
  });
  rmSync(join(top, 'dist/web'), { recursive: true, force: true });
  renameSync(draft, join(top, 'dist/web'));
}

const wanted = process.argv.slice(2);
const names =
  wanted.length > 0
    ? wanted
    : [...Object.keys(programs).filter((n) => n !== 'pictures' && !n.startsWith('bench')), 'web'];
for (const name of names) {
  if (name === 'web') await buildWeb();
  else if (programs[name]) await buildProgram(name);
  else throw new Error(`build: there is no program "${name}"`);
}
