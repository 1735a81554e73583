/** The list of what was tried and what held, printed at the end of a run. */
import { afterAll, it } from 'vitest';

const tried: string[] = [];

/** One attempt as a test; `run` gives what was seen, in words, and throws where it did not hold. */
export function attempt(what: string, run: () => Promise<string>, timeoutMs = 240_000): void {
  it(
    what,
    async () => {
      try {
        tried.push(`held    ${what}: ${await run()}`);
      } catch (error) {
        tried.push(`BROKEN  ${what}`);
        throw error;
      }
    },
    timeoutMs,
  );
}

/** Prints the list when the file is through; call it once, within its `describe`. */
export function printAttempts(title: string): void {
  afterAll(() => {
    process.stdout.write(`\n${title}\n${tried.map((line) => `  ${line}`).join('\n')}\n`);
  });
}
