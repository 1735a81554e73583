/** What writing and verifying the trail needs of the server. */
import type { Logger } from 'pino';
import type { Database } from '../database/index.ts';
import type { TrailKeeper } from './keeper.ts';

export interface TrailApp {
  db: Database;
  log: Logger;
  trail: TrailKeeper;
  /** Told that something was committed. */
  live: { nudge(): void };
}
