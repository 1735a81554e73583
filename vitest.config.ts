import { defineConfig } from 'vitest/config';
import { BaseSequencer, type TestSpecification } from 'vitest/node';

/**
 * How long things may take before a test gives up: never a measure of speed, only what a machine several times slower
 * than ours, with other work beside the tests, still comes to. What is waited for is looked at again and again.
 */
const patience = { testTimeout: 240_000, hookTimeout: 240_000, expect: { poll: { timeout: 60_000 } } };

/** The projects in the order in which they are begun: those that mostly wait, then the long ones, then what fills the gaps. */
const ORDER = [
  'cluster',
  'peers',
  'withstand',
  'e2e',
  'server',
  'core',
  'rules',
  'web',
  'web-mocked',
  'cli',
  'demo',
  'rig',
];

class LongestFirst extends BaseSequencer {
  /** A worker goes on only with files of its own project: those stay together. */
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const placeOf = ({ project }: TestSpecification) => {
      const place = ORDER.indexOf(project.name);
      return place < 0 ? ORDER.length : place;
    };
    return (await super.sort(files)).sort((a, b) => placeOf(a) - placeOf(b));
  }
}

const MOCKED = 'web/src/**/*.mocked.test.tsx';
const drawn = { environment: 'jsdom', setupFiles: ['web/src/testing/setup.ts'], ...patience };

export default defineConfig({
  test: {
    // Left to itself vitest takes one worker on two cores; many of these tests wait for a browser, a database or a clock.
    maxWorkers: 3,
    sequence: { sequencer: LongestFirst },
    experimental: { fsModuleCache: true },
    projects: [
      // Nothing in core keeps state between calls: its modules are loaded once a worker.
      { test: { name: 'core', include: ['core/src/**/*.test.ts'], ...patience, isolate: false } },
      { test: { name: 'api', include: ['api/src/**/*.test.ts'], ...patience } },
      { test: { name: 'rig', include: ['rig/src/**/*.test.ts'], ...patience, isolate: false } },
      { test: { name: 'demo', include: ['demo/src/**/*.test.ts'], ...patience } },
      { test: { name: 'cli', include: ['cli/src/**/*.test.ts'], ...patience, isolate: false } },
      { test: { name: 'peers', include: ['peers/src/**/*.test.ts'], ...patience, isolate: false } },
      // Nothing drawn, so no DOM.
      { test: { name: 'web-plain', include: ['web/src/**/*.test.ts'], ...patience, isolate: false } },
      // Components: one DOM and one load of the modules a worker, cleared by the setup file after each test.
      { test: { name: 'web', include: ['web/src/**/*.test.tsx'], exclude: [MOCKED], ...drawn, isolate: false } },
      // What stands in for a module would stay in for the next file.
      { test: { name: 'web-mocked', include: [MOCKED], ...drawn } },
      { test: { name: 'rules', include: ['bin/lib/**/*.test.ts'], ...patience, isolate: false } },
      {
        test: {
          name: 'server',
          include: ['server/src/**/*.test.ts'],
          exclude: ['server/src/cluster/**'],
          globalSetup: ['server/src/testing/database.ts'],
          ...patience,
          // Each test opens a house of its own: the modules are loaded once a worker.
          isolate: false,
        },
      },
      {
        test: {
          name: 'cluster',
          include: ['server/src/cluster/*.test.ts'],
          ...patience,
        },
      },
      {
        test: {
          name: 'withstand',
          include: ['withstand/src/**/*.test.ts'],
          ...patience,
        },
      },
      {
        test: {
          name: 'e2e',
          include: ['e2e/src/**/*.test.ts'],
          globalSetup: ['e2e/src/furnish.ts'],
          // One browser a worker.
          isolate: false,
          ...patience,
          // A story is long, and waits for its words as long as the browser's own patience.
          testTimeout: 900_000,
        },
      },
    ],
  },
});
