/** Before the browser's tests: an application loads its demo once and is stopped; each test goes on with a copy of its data. */
import { renameSync, rmSync } from 'node:fs';
import { FURNISHED, startApplication } from './application.ts';

export async function setup(): Promise<() => void> {
  rmSync(FURNISHED, { recursive: true, force: true });
  const draft = `${FURNISHED}.${process.pid}`;
  await (await startApplication(draft)).stop();
  renameSync(draft, FURNISHED);
  return () => rmSync(FURNISHED, { recursive: true, force: true });
}
