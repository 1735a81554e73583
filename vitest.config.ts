import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    // Left to itself vitest takes one worker on two cores; most of these tests wait for a browser or a database.
    maxWorkers: 2,
    projects: [
      // Nothing in core keeps state between calls: its modules are loaded once a worker.
      { test: { name: 'core', include: ['core/src/**/*.test.ts'], testTimeout: 60_000, isolate: false } },
      { test: { name: 'api', include: ['api/src/**/*.test.ts'] } },
      { test: { name: 'rig', include: ['rig/src/**/*.test.ts'] } },
      { test: { name: 'demo', include: ['demo/src/**/*.test.ts'] } },
      { test: { name: 'cli', include: ['cli/src/**/*.test.ts'], testTimeout: 60_000 } },
      { test: { name: 'peers', include: ['peers/src/**/*.test.ts'], testTimeout: 60_000, hookTimeout: 60_000 } },
      { test: { name: 'web', include: ['web/src/**/*.test.{ts,tsx}'], testTimeout: 60_000 } },
      { test: { name: 'rules', include: ['bin/lib/**/*.test.ts'], testTimeout: 60_000, hookTimeout: 120_000 } },
      {
        test: {
          name: 'server',
          include: ['server/src/**/*.test.ts'],
          exclude: ['server/src/cluster/**'],
          globalSetup: ['server/src/testing/database.ts'],
          testTimeout: 60_000,
          hookTimeout: 120_000,
          // Each test opens a house of its own: the modules are loaded once a worker.
          isolate: false,
        },
      },
      {
        test: {
          name: 'cluster',
          include: ['server/src/cluster/*.test.ts'],
          testTimeout: 120_000,
          hookTimeout: 120_000,
          // Three databases and their timeouts: not beside the attempts, which measure how soon things come back.
          sequence: { groupOrder: 1 },
        },
      },
      {
        test: {
          name: 'withstand',
          include: ['withstand/src/**/*.test.ts'],
          testTimeout: 120_000,
          hookTimeout: 120_000,
        },
      },
      {
        test: {
          name: 'e2e',
          include: ['e2e/src/**/*.test.ts'],
          globalSetup: ['e2e/src/furnish.ts'],
          // The longest, with the cluster beside it.
          sequence: { groupOrder: 1 },
          testTimeout: 240_000,
          hookTimeout: 120_000,
        },
      },
    ],
  },
});
