/**
 * Taking a site in from a file, piece by piece, under an identifier that belongs to no site yet: nobody sees any of it
 * until it is finished, and what is given up, or not gone on with for an hour, is taken out again. A piece is taken whole
 * or not at all, by any server, and once, however often it is sent.
 */
import { type ImportedSite, SITE_LINES, type SiteImport, type SiteLine, siteLineSchema } from '@rawbits/api';
import { RawBitsError } from '@rawbits/core/failure';
import { and, eq } from 'drizzle-orm';
import {
  dbNow,
  derivedId,
  inTransaction,
  isDuplicate,
  newId,
  type Queryable,
  silentFor,
} from '../../platform/database/index.ts';
import type { App } from '../../platform/http/app.ts';
import { endJob, insertJob, type JobRow, jobTable } from '../../platform/jobs/index.ts';
import { conflict, notFound, validationProblem } from '../../platform/problem/problem.ts';
import { illFormedIn, measuredJson } from '../../platform/shape/shape.ts';
import { change, HOUSE, type Record, type Who } from '../../platform/trail/change.ts';
import { controllerFormatTable, mark, noteController, noteFormat, rightsTouched } from '../doors/index.ts';
import { siteFormatTable } from '../library/index.ts';
import { insertSite } from '../sites/index.ts';
import { CLEARING } from './clear.ts';
import { carriedOn } from './export.ts';
import { addFormat, type FormatPlan, planFormat } from './formats.ts';
import { takeLines } from './lines.ts';
import { type Numbered, wrongLine } from './taking.ts';

/** The kind of the job that stands for an import; it is carried on by requests, not by a server. */
export const IMPORT = 'import';
const QUIET_MS = 3_600_000;
/** Entries of one list in a line: a case has as many specimens at most. */
const MOST_IN_A_LIST = 10_000;

interface Memo {
  /** The place of the last line's kind in the order of kinds. */
  kind: number;
  digest: string;
  header: Extract<SiteLine, { kind: 'site' }> | null;
  formats: FormatPlan[];
  accepts: { controllerId: string; formats: string[] }[];
  counts: { [kind: string]: number };
  ended: boolean;
}

const stateOf = (job: JobRow): SiteImport => ({ id: job.id, pieces: job.done, lines: job.total });

export async function beginImport(app: App, who: Who): Promise<SiteImport> {
  const memo: Memo = { kind: -1, digest: '', header: null, formats: [], accepts: [], counts: {}, ended: false };
  return stateOf(
    await insertJob(app.db, { siteId: newId(), kind: IMPORT, subject: who.id, input: {}, memo, startedBy: who.name }),
  );
}

async function underWay(tx: Queryable, who: Who, id: string): Promise<JobRow> {
  const own = and(eq(jobTable.id, id), eq(jobTable.kind, IMPORT), eq(jobTable.subject, who.id));
  const [job] = await tx.select().from(jobTable).where(own).for('update');
  if (job?.state !== 'running') throw notFound('import');
  return job;
}

/** Takes the next piece in; a piece that was taken already changes nothing. */
export async function takePiece(
  app: App,
  who: Who,
  id: string,
  piece: number,
  lines: readonly string[],
): Promise<SiteImport> {
  try {
    return await inTransaction(app.db, async (tx) => {
      const job = await underWay(tx, who, id);
      if (piece <= job.done) return stateOf(job);
      if (piece > job.done + 1)
        throw conflict('out-of-turn', `Piece ${piece} comes after piece ${job.done + 1}.`, 'Send the pieces in turn.');
      const memo = job.memo as Memo;
      await take(tx, job.siteId, memo, lines, job.total);
      const next = { ...job, done: piece, total: job.total + lines.length };
      await tx
        .update(jobTable)
        .set({ done: next.done, total: next.total, memo, heardAt: dbNow })
        .where(eq(jobTable.id, id));
      return stateOf(next);
    });
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    throw conflict('twice', 'Something in these lines is in the file twice.', 'Export the site again.');
  }
}

async function take(
  tx: Queryable,
  siteId: string,
  memo: Memo,
  texts: readonly string[],
  before: number,
): Promise<void> {
  let group: Numbered[] = [];
  const flush = async () => {
    if (group.length === 0) return;
    const formats = new Map(memo.formats.map(({ from, to }) => [from, to]));
    await takeLines(tx, { siteId, formats }, group);
    group = [];
  };
  for (const [i, text] of texts.entries()) {
    const row = before + i + 1;
    const line = parsed(text, row);
    checkOrder(memo, line, row);
    if (line.kind === 'end') checkEnd(memo, line, row);
    else memo.digest = carriedOn(memo.digest, text);
    memo.counts[line.kind] = (memo.counts[line.kind] ?? 0) + 1;
    if (group[0] && group[0].line.kind !== line.kind) await flush();
    await remember(tx, siteId, memo, line, row);
    group.push({ line, row });
  }
  await flush();
}

function parsed(text: string, row: number): SiteLine {
  const value = measuredJson(text, MOST_IN_A_LIST);
  if (value === undefined)
    throw wrongLine(
      row,
      'this is no JSON, or has more in it than a line may have.',
      'Choose a file that Raw Bits exported.',
    );
  const at = illFormedIn(value, 'line');
  if (at !== undefined) throw wrongLine(row, `${at} holds half a character (a lone surrogate).`);
  const result = siteLineSchema.safeParse(value);
  if (!result.success) throw wrongLine(row, validationProblem(result.error, 'line').message);
  return result.data;
}

function checkOrder(memo: Memo, line: SiteLine, row: number): void {
  const place = SITE_LINES.indexOf(line.kind);
  if (row === 1 && line.kind !== 'site')
    throw wrongLine(1, 'a site’s file begins with the site.', 'Choose a file that Raw Bits exported.');
  if (memo.ended) throw wrongLine(row, 'the file has ended before it.');
  if (place < memo.kind || (line.kind === 'site' && row > 1))
    throw wrongLine(row, `a line of the kind "${line.kind}" belongs further up.`);
  memo.kind = place;
}

function checkEnd(memo: Memo, { lines, digest }: Extract<SiteLine, { kind: 'end' }>, row: number): void {
  if (lines !== row - 1 || digest !== memo.digest)
    throw wrongLine(row, 'the file is not as it was exported: lines were changed or left out.', 'Export it again.');
  memo.ended = true;
}

/** What is needed again at the end, or by later lines. */
async function remember(tx: Queryable, siteId: string, memo: Memo, line: SiteLine, row: number): Promise<void> {
  if (line.kind === 'site') memo.header = line;
  if (line.kind === 'format') {
    const ids = new Set(line.versions.map(({ format }) => format.id));
    const [id] = ids;
    if (ids.size > 1 || memo.formats.some(({ from }) => from === id))
      throw wrongLine(row, 'one format stands in one line.');
    try {
      memo.formats.push(await planFormat(tx, line, new Set(memo.formats.map(({ to }) => to))));
    } catch (error) {
      if (error instanceof RawBitsError) throw wrongLine(row, error.message);
      throw error;
    }
  }
  if (line.kind === 'controller') {
    const formats = line.accepts.map((theirs) => {
      const plan = memo.formats.find(({ from }) => from === theirs);
      if (!plan || plan.uses === null)
        throw wrongLine(row, `it accepts the format "${theirs}", which the site does not use.`);
      return plan.to;
    });
    memo.accepts.push({ controllerId: derivedId(siteId, line.id), formats });
  }
}

/** Makes the site of what was taken in. */
export async function finishImport(
  app: App,
  who: Who,
  id: string,
  names: { name: string; shortName: string },
): Promise<ImportedSite> {
  const { result, jobs } = await change(app, who, HOUSE, async (tx, record) => {
    const job = await underWay(tx, who, id);
    const memo = job.memo as Memo;
    if (!memo.ended || !memo.header)
      throw conflict('not-all', 'The end of the file has not come yet.', 'Send the rest of it.');
    await insertSite(tx, { id: job.siteId, ...names, timeZone: memo.header.timeZone }, who.id);
    await takeFormats(tx, record, who, job.siteId, memo);
    const jobs = await wireControllers(tx, who, job.siteId, memo);
    await rightsTouched(tx, job.siteId);
    const renamed = memo.formats.filter(({ from, to }) => from !== to).map(({ from, to }) => ({ from, to }));
    const { name, exportedAt, exportedBy } = memo.header;
    const noted = {
      action: 'site imported',
      subject: `site ${names.name}`,
      after: {
        id: job.siteId,
        ...names,
        from: { name, exportedAt, exportedBy, digest: memo.digest },
        counts: memo.counts,
        renamed,
      },
    };
    record.trail(noted);
    record.trailAt(job.siteId, noted);
    await endJob(tx, job, 'done');
    return { result: { site: job.siteId, counts: memo.counts, renamed }, jobs };
  });
  for (const job of jobs) app.jobs.begin(job);
  return result;
}

async function takeFormats(tx: Queryable, record: Record, who: Who, siteId: string, memo: Memo): Promise<void> {
  for (const plan of memo.formats) {
    if (!(await addFormat(tx, plan, who.name)))
      throw conflict(
        'format-taken',
        `Somebody added a format "${plan.to}" to the library meanwhile.`,
        'Give this import up and begin it again: it then takes another name.',
      );
    if (plan.adds.length > 0)
      record.trail({ action: 'format added', subject: `format ${plan.to}`, after: plan.adds.at(-1)!.format });
    if (plan.uses !== null) await tx.insert(siteFormatTable).values({ siteId, formatId: plan.to, version: plan.uses });
  }
}

/** What the controllers should have; they hold nothing yet. */
async function wireControllers(tx: Queryable, who: Who, siteId: string, memo: Memo): Promise<JobRow[]> {
  const jobs: JobRow[] = [];
  for (const { controllerId, formats } of memo.accepts) {
    await noteController(tx, controllerId);
    if (formats.length === 0) continue;
    await tx.insert(controllerFormatTable).values(formats.map((formatId) => ({ controllerId, formatId })));
    for (const formatId of formats) {
      await noteFormat(tx, siteId, formatId);
      jobs.push(...(await mark(tx, who.name, { siteId, controllerId, formatId })));
    }
  }
  return jobs;
}

/** Gives an import up; what it took in is taken out after this, whichever server does it. */
export async function giveUpImport(app: App, who: Who, id: string): Promise<void> {
  const clearing = await inTransaction(app.db, async (tx) => giveUp(tx, await underWay(tx, who, id)));
  if (clearing) app.jobs.begin(clearing);
}

async function giveUp(tx: Queryable, job: JobRow): Promise<JobRow | undefined> {
  if (!(await endJob(tx, job, 'cancelled'))) return undefined;
  return insertJob(tx, { siteId: job.siteId, kind: CLEARING, subject: job.id, input: {}, startedBy: job.startedBy });
}

/** Gives up imports that nobody has gone on with for an hour. */
export async function giveUpQuietImports(app: App, quietMs = QUIET_MS): Promise<void> {
  const quiet = and(eq(jobTable.kind, IMPORT), eq(jobTable.state, 'running'), silentFor(jobTable.heardAt, quietMs));
  for (const { id } of await app.db.select({ id: jobTable.id }).from(jobTable).where(quiet)) {
    const clearing = await inTransaction(app.db, async (tx) => {
      const [job] = await tx
        .select()
        .from(jobTable)
        .where(and(eq(jobTable.id, id), quiet))
        .for('update');
      return job && giveUp(tx, job);
    });
    if (clearing) app.jobs.begin(clearing);
  }
}
