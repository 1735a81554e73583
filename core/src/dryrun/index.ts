/** Dry run: what a change would do to the cards and reads on file, before it is saved. */
export {
  type Counts,
  DryRun,
  type DryRunOptions,
  type DryRunResult,
  type Example,
  OUTCOMES,
  type Outcome,
  type Place,
  type Side,
  sideOf,
  type Verdict,
} from './dryRun.ts';
