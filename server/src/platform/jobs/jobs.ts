/**
 * Jobs: work that goes on after its request was answered. A job is a row that its carrier keeps alive; where that falls
 * silent any server takes it over and goes on from what the row remembers. Whoever carries one asks for it with every
 * step: a server that was only slow, and has lost it, stops.
 */
import { and, eq, inArray, sql } from 'drizzle-orm';
import { type Database, dbNow, isDuplicate, isWithin, newId, type Queryable, silentFor } from '../database/index.ts';
import { conflict } from '../problem/problem.ts';
import { type JobRow, jobTable } from './tables.ts';

/** A running job not heard of for so long may be taken over: whether its server is lost or only busy nobody can tell. */
export const SILENT_AFTER_MS = 15_000;
const HEARTBEAT_MS = 4000;

/** Another server carries this job on, or it was cancelled. */
export class LostJob extends Error {}

export interface NewJob {
  siteId: string;
  kind: string;
  subject?: string;
  slot?: string;
  total?: number;
  input: unknown;
  memo?: unknown;
  startedBy: string;
}

/** Puts a job on file, carried by whoever begins it next. Throws `slot-taken` where another one has its slot. */
export async function insertJob(tx: Queryable, job: NewJob): Promise<JobRow> {
  const now = new Date();
  const row: JobRow = {
    subject: '',
    total: 0,
    memo: {},
    ...job,
    slot: job.slot ?? null,
    id: newId(),
    state: 'running',
    done: 0,
    message: '',
    result: null,
    startedAt: now,
    heardAt: now,
    carrier: newId(),
    guard: 0,
  };
  try {
    await tx.insert(jobTable).values({ ...row, heardAt: dbNow });
  } catch (error) {
    throw isDuplicate(error) ? conflict('slot-taken', 'This is under way already.', 'Wait until it is done.') : error;
  }
  return row;
}

/** Whether nothing was heard of a running job for a while. It is lost to its server only when another has taken it over. */
export const isSilent = ({ state, heardAt }: JobRow): boolean =>
  state === 'running' && !isWithin(heardAt, SILENT_AFTER_MS);

const mineOf = ({ id, carrier }: JobRow) =>
  and(eq(jobTable.id, id), eq(jobTable.state, 'running'), eq(jobTable.carrier, carrier));

type Told = Partial<Pick<JobRow, 'done' | 'total' | 'message' | 'memo'>>;

/** Says that the job is carried on, and how far it is; throws LostJob when it is not this carrier's any more. */
export async function tell(db: Queryable, job: JobRow, fields: Told = {}): Promise<void> {
  Object.assign(job, fields);
  const [result] = await db
    .update(jobTable)
    .set({ ...fields, heardAt: dbNow })
    .where(mineOf(job));
  if (result.affectedRows === 0) throw new LostJob();
}

/**
 * Comes before or after what a running job of this kind does at a site, never beside it: for changes of what it works
 * through, where each of its steps calls `tell` first.
 */
export async function besideJobs(tx: Queryable, siteId: string, kind: string): Promise<void> {
  // Found first and written by their keys: an index of running jobs would lock those of other kinds with them, and a job
  // that changes cards in one long transaction would then wait for itself when it says how far it is.
  const running = await tx
    .select({ id: jobTable.id })
    .from(jobTable)
    .where(and(eq(jobTable.siteId, siteId), eq(jobTable.kind, kind), eq(jobTable.state, 'running')));
  if (running.length === 0) return;
  await tx
    .update(jobTable)
    .set({ guard: sql`${jobTable.guard} + 1` })
    .where(
      inArray(
        jobTable.id,
        running.map(({ id }) => id),
      ),
    );
}

/** Notes a job's end for this call alone; false where it had ended before. */
export async function endJob(
  tx: Queryable,
  { id }: Pick<JobRow, 'id'>,
  state: 'done' | 'failed' | 'cancelled',
  fields: { message?: string; result?: unknown; done?: number; total?: number } = {},
): Promise<boolean> {
  const [result] = await tx
    .update(jobTable)
    .set({ ...fields, message: (fields.message ?? '').slice(0, 400), state, slot: null, heardAt: dbNow })
    .where(and(eq(jobTable.id, id), eq(jobTable.state, 'running')));
  return result.affectedRows > 0;
}

/** Carries one job to its end; what it throws but LostJob is logged. */
export type Carry = (job: JobRow) => Promise<void>;

export interface JobsApp {
  db: Database;
  log: { error(about: object, message: string): void };
}

export class Jobs {
  private readonly kinds = new Map<string, { carry: Carry; ready: (job: JobRow) => Promise<boolean> }>();
  private readonly carried = new Map<string, { job: JobRow; ended: Promise<void> }>();
  private stopping = false;

  constructor(private readonly app: () => JobsApp) {}

  /** What carries the jobs of a kind; `ready` says whether a lost one can be gone on with now. */
  register(kind: string, carry: Carry, ready: (job: JobRow) => Promise<boolean> = async () => true): void {
    this.kinds.set(kind, { carry, ready });
  }

  /** Carries a job on from here, and returns at once. */
  begin(job: JobRow): void {
    const kind = this.kinds.get(job.kind);
    if (!kind || this.stopping) return;
    const { db, log } = this.app();
    const heart = setInterval(() => void tell(db, job).catch(() => {}), HEARTBEAT_MS);
    const ended = kind
      .carry(job)
      .catch((error) => {
        if (!(error instanceof LostJob) && !this.stopping) log.error({ err: error, kind: job.kind }, 'a job broke off');
      })
      .finally(() => {
        clearInterval(heart);
        this.carried.delete(job.id);
      });
    this.carried.set(job.id, { job, ended });
  }

  /** Takes up jobs whose server has not been heard of: on every server, again and again; each job by one of them. */
  async takeUpLost(): Promise<void> {
    const { db } = this.app();
    const silent = silentFor(jobTable.heardAt, SILENT_AFTER_MS);
    const kinds = [...this.kinds.keys()];
    if (kinds.length === 0) return;
    const lost = await db
      .select()
      .from(jobTable)
      .where(and(eq(jobTable.state, 'running'), silent, inArray(jobTable.kind, kinds)));
    for (const job of lost) {
      if (this.carried.has(job.id) || !(await this.kinds.get(job.kind)!.ready(job))) continue;
      const carrier = newId();
      const [taken] = await db
        .update(jobTable)
        .set({ carrier, heardAt: dbNow })
        .where(and(mineOf(job), silent));
      if (taken.affectedRows > 0) this.begin({ ...job, carrier });
    }
  }

  /** Lets go of one job, so that a server that can carry it on takes it up: this one, too, as soon as it can. */
  async handOn(job: JobRow): Promise<void> {
    await this.app()
      .db.update(jobTable)
      .set({ carrier: newId(), heardAt: new Date(0) })
      .where(mineOf(job));
  }

  /** Lets go of what this server carries, so that another takes it up at once. */
  async close(): Promise<void> {
    this.stopping = true;
    for (const { job } of [...this.carried.values()])
      await this.app()
        .db.update(jobTable)
        .set({ carrier: newId(), heardAt: new Date(0) })
        .where(mineOf(job))
        .catch(() => {});
    await Promise.all([...this.carried.values()].map(({ ended }) => ended));
  }
}
