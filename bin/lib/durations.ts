/**
 * What a run of the tests took: by project, and the twenty slowest files. Where `RAWBITS_COUNTS` names a file, the closing
 * line ("N passed, N failed, N skipped") is written there for `bin/test`.
 */
import { writeFileSync } from 'node:fs';
import { relative } from 'node:path';
import type { Reporter, TestModule } from 'vitest/node';

/** A file's time in its worker, in milliseconds: what it imports, its hooks and its tests. */
const durationMs = (module: TestModule): number => {
  const { prepareDuration, environmentSetupDuration, setupDuration, collectDuration, duration } = module.diagnostic();
  return prepareDuration + environmentSetupDuration + setupDuration + collectDuration + duration;
};
const seconds = (ms: number): string => (ms / 1000).toFixed(1).padStart(7);

export default class Durations implements Reporter {
  onTestRunEnd(modules: readonly TestModule[]): void {
    const tests = modules.flatMap((module) => [...module.children.allTests()]);
    const count = (state: 'passed' | 'failed' | 'skipped') =>
      tests.filter((test) => test.result().state === state).length;
    // A file that could not be loaded, or whose hook failed, counts as one failure.
    const broken = modules.filter(
      (module) => module.state() === 'failed' && ![...module.children.allTests('failed')].length,
    ).length;
    const projects = new Map<string, { files: number; ms: number }>();
    for (const module of modules) {
      const { files, ms } = projects.get(module.project.name) ?? { files: 0, ms: 0 };
      projects.set(module.project.name, { files: files + 1, ms: ms + durationMs(module) });
    }
    const slowest = modules.toSorted((a, b) => durationMs(b) - durationMs(a)).slice(0, 20);
    const lines = [
      'Seconds in the workers, by project:',
      ...[...projects].map(([name, { files, ms }]) => `${seconds(ms)}  ${name} (${files} files)`),
      'The slowest files:',
      ...slowest.map((module) => `${seconds(durationMs(module))}  ${relative(process.cwd(), module.moduleId)}`),
    ];
    console.log(`\n${lines.join('\n')}`);
    const file = process.env.RAWBITS_COUNTS;
    if (file)
      writeFileSync(
        file,
        `${count('passed')} passed, ${count('failed') + broken} failed, ${count('skipped')} skipped\n`,
      );
  }
}
