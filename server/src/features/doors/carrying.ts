/** A load under way: what it remembers, and all that carrying it on needs at hand. */
import type { App } from '../../platform/http/app.ts';
import type { JobRow } from '../../platform/jobs/index.ts';
import type { Who } from '../../platform/trail/change.ts';
import type { ControllerRow } from './tables.ts';

/** The kind of its job. */
export const LOAD = 'load';

/** What a load remembers for whoever goes on with it. */
export interface LoadMemo {
  /** What the controller holds once it has taken force; empty until all was sent. */
  digest: string;
}
export const memoOf = (job: JobRow): LoadMemo => job.memo as LoadMemo;

export interface Carrying {
  app: App;
  /** Whoever began it. */
  who: Who;
  controller: ControllerRow;
  load: JobRow;
}
