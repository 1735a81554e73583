/** What writing and verifying the trail needs of the server. */
import type { Logger } from 'pino';
import type { Database } from '../database/index.ts';
import type { TrailKeeper } from './keeper.ts';

/** What keeping it needs. */
export interface KeepingApp {
  db: Database;
  log: Logger;
  trail: TrailKeeper;
}

export interface TrailApp extends KeepingApp {
  /** Told that something was committed on a chain. */
  sealer: { soon(chain: string): void; now(chain: string): Promise<void> };
  /** Told before somebody's change is committed; nobody is where it does not matter. */
  aboutToChange?(): void;
}
