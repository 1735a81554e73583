/**
 * Which checks a change reaches, by the names of its files. Where what was changed is not imported by its tests (a program
 * that they start, a migration, a script of another language), vitest cannot tell: then the whole project is run.
 *
 * As a program it reads names, one a line, and prints shell assignments for `bin/test`.
 */
import { readFileSync } from 'node:fs';
import { pathToFileURL } from 'node:url';

/** What decides how everything is installed, built, checked or run: whatever it reaches, it is everything. */
const EVERYTHING =
  /^(package(-lock)?[.]json|[.]npmrc|vitest[.]config[.]ts|biome[.]json|tsconfig[^/]*[.]json|bin\/test|bin\/lib\/(install[.]sh|build[.]mjs|changed[.]mjs|durations[.]ts)|[.]ci\/.*)$|^[a-z0-9]+\/(package|tsconfig)[.]json$/;

/** Tests that import what they check. */
const RELATED = [
  'core',
  'api',
  'rig',
  'demo',
  'cli',
  'peers',
  'web',
  'web-plain',
  'web-mocked',
  'rules',
  'server',
  'cluster',
];

const isTest = (name) => /[.]test[.]tsx?$|\/testing\//.test(name);

/** By project: which names of files reach all of it. */
const WHOLE = {
  server: (name) => /^server\/(migrations|drizzle)/.test(name),
  cluster: (name) => /^server\/migrations/.test(name) || name === 'bin/lib/galera.ts',
  // Started as a program.
  cli: (name) => /^(cli|core)\/(?!.*[.]test[.])/.test(name) || name === 'bin/rawbits',
  peers: (name) => /^peers\//.test(name) || (/^(desk|core|api)\//.test(name) && !isTest(name)) || name === 'bin/desk',
  rig: (name) => /^(rig|core)\//.test(name) && !isTest(name),
  rules: (name) => /[.](ts|tsx|cjs|mjs)$/.test(name) || name === 'docs/tables.md' || name === 'README.md',
  e2e: (name) => isApplication(name) || /^e2e\//.test(name),
  withstand: (name) => isApplication(name) || /^withstand\//.test(name) || name === 'e2e/src/application.ts',
};

/** Whether it becomes part of what `bin/start` runs; the guide is shown on screen. */
const isApplication = (name) =>
  !isTest(name) &&
  /^((core|api|server|rig|desk|web|cli|demo|packaging)\/|bin\/(start|lib\/)|docs\/(guide|identify)[.]md$)/.test(name);

/** `everything`: run all of it. Otherwise `related` projects with what vitest finds, `whole` ones entirely. */
export function checksOf(names) {
  const everything = names.some((name) => EVERYTHING.test(name));
  const whole = Object.keys(WHOLE).filter((project) => names.some((name) => WHOLE[project](name)));
  return {
    everything,
    whole,
    related: RELATED.filter((project) => !whole.includes(project)),
    types: names.some((name) => /[.](ts|tsx|json)$/.test(name)),
    build: whole.some((project) => ['e2e', 'withstand', 'peers', 'cli'].includes(project)),
  };
}

if (import.meta.url === pathToFileURL(process.argv[1] ?? '').href) {
  const names = readFileSync(0, 'utf8').split('\n').filter(Boolean);
  for (const [key, value] of Object.entries(checksOf(names)))
    console.log(`${key}=${Array.isArray(value) ? `(${value.join(' ')})` : value}`);
}
