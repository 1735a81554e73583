/** Work that goes on after the request that began it was answered. */
export {
  besideJobs,
  type Carry,
  endJob,
  insertJob,
  isSilent,
  Jobs,
  LostJob,
  type NewJob,
  tell,
} from './jobs.ts';
export { type JobRow, jobTable } from './tables.ts';
