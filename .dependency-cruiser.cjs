// Which way imports may go. Between the packages: everything may use core, everything but it and the command line the
// API; nothing else uses another package.
// Within core: only from the later to the earlier of the list in the design.
const ORDER = [
  'failure',
  'secret',
  'bits',
  'check',
  'cipher',
  'format',
  'codec',
  'catalogue',
  'line',
  'intake',
  'translate',
  'box',
  'identify',
  'lf',
  'key',
  'chip',
  'host',
  'replay',
  'plan',
  'access',
  'lock',
  'dryrun',
  'trace',
];

const withinCore = ORDER.map((name, i) => ({
  name: `core-${name}-imports-nothing-later`,
  severity: 'error',
  // A test may take its examples from what comes later.
  from: { path: `^core/src/${name}/`, pathNot: '[.]test[.]tsx?$' },
  to: { path: `^core/src/(${ORDER.slice(i + 1).join('|') || 'nothing'})/` },
}));

module.exports = {
  forbidden: [
    ...withinCore,
    {
      name: 'no-cycles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    {
      name: 'core-knows-no-other-package',
      severity: 'error',
      from: { path: '^core/src/', pathNot: '[.]test[.]tsx?$' },
      to: { path: '^(api|server|rig|desk|web|cli|demo|e2e|withstand|peers|bench|bin)/' },
    },
    {
      name: 'core-is-pure',
      comment: 'No Node, no view; zod is its one dependency, for the schemas that every package shares.',
      severity: 'error',
      from: { path: '^core/src/', pathNot: '[.]test[.]tsx?$' },
      to: {
        dependencyTypes: ['core', 'npm', 'npm-dev', 'npm-no-pkg', 'npm-unknown'],
        pathNot: 'node_modules/(zod|@noble/ciphers)/',
      },
    },
    {
      name: 'host-and-chip-stay-apart',
      comment: 'Each is written from the specification: only so does it mean something that they agree.',
      severity: 'error',
      from: { path: '^core/src/host/', pathNot: '[.]test[.]ts$' },
      to: { path: '^core/src/chip/' },
    },
    {
      name: 'api-uses-only-core',
      comment: 'What crosses the wire: schemas and routes, over core and zod; what is sealed on it, by jose.',
      severity: 'error',
      from: { path: '^api/src/', pathNot: '[.]test[.]tsx?$' },
      to: { pathNot: '^(api|core)/|node_modules/(zod|jose)/' },
    },
    ...['server', 'rig', 'desk', 'web', 'cli', 'demo'].map((name) => ({
      name: `${name}-uses-only-api-and-core`,
      severity: 'error',
      from: { path: `^${name}/src/`, pathNot: '/testing/|[.]test[.]tsx?$' },
      to: { path: `^(server|rig|desk|web|cli|demo|e2e|withstand|bench)/`, pathNot: `^${name}/` },
    })),
    {
      name: 'platform-knows-no-feature',
      comment:
        'What every feature stands on: in the server under features, in the web under parts, features and shell.',
      severity: 'error',
      from: { path: '^server/src/(platform|devices)/', pathNot: '[.]test[.]tsx?$' },
      to: { path: '^server/src/', pathNot: '^server/src/(platform|devices)/' },
    },
    {
      name: 'features-meet-through-their-index',
      severity: 'error',
      from: { path: '^server/src/features/([^/]+)/', pathNot: '[.]test[.]tsx?$' },
      to: { path: '^server/src/features/', pathNot: '^server/src/features/$1/|/index[.]ts$' },
    },
    {
      name: 'the-server-takes-features-by-their-index',
      severity: 'error',
      from: { path: '^server/src/[^/]+$', pathNot: '[.]test[.]tsx?$' },
      to: { path: '^server/src/features/', pathNot: '/index[.]ts$' },
    },
    ...[
      ['platform', 'parts|features|shell'],
      ['parts', 'features|shell'],
      ['features', 'shell'],
    ].map(([lower, upper]) => ({
      name: `web-${lower}-imports-nothing-above`,
      severity: 'error',
      from: { path: `^web/src/${lower}/` },
      to: { path: `^web/src/(${upper})/` },
    })),
    {
      name: 'the-command-line-uses-only-core',
      severity: 'error',
      from: { path: '^cli/src/' },
      to: { path: '^api/' },
    },
    {
      name: 'tests-and-benchmarks-stay-outside',
      comment:
        'Browser tests and attempts on it drive the running application; benchmarks measure core, and the platform of the server.',
      severity: 'error',
      from: { path: '^(e2e|withstand|peers|bench)/src/' },
      to: { path: '^(server|rig|web|cli)/src/', pathNot: '^server/src/platform/' },
    },
    {
      name: 'what-drives-the-application-does-not-know-its-inside',
      severity: 'error',
      from: { path: '^(e2e|withstand)/src/' },
      to: { path: '^server/src/' },
    },
    {
      name: 'everything-resolves',
      severity: 'error',
      from: { path: '^(core|api|server|rig|desk|web|cli|demo|e2e|withstand|peers|bench|bin)/' },
      to: { couldNotResolve: true },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '^dist/' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'types', 'node', 'default'],
      extensions: ['.ts', '.tsx', '.mjs', '.js', '.d.ts'],
    },
  },
};
