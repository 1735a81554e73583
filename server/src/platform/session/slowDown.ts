/**
 * Slow-down of guessing. Each try is counted before its password is looked at, in one statement of the database, so
 * that sixty at once are sixty tries and another server gains nothing; a right password takes its tries back. The
 * clock is the database's, one for all servers; a wait never lasts longer than its own length, even when that clock
 * is set back.
 *
 * Three counts: of a name from one client (people mistype, 3 are free, then the wait doubles up to 10 minutes); of a
 * name from anywhere (20 free, waits up to a minute); and of a client whatever the name (60 free, then one try a
 * second, which waits its turn and is not turned away). So the failures of others at the same address do not keep a
 * right password out.
 */

import { eq, sql } from 'drizzle-orm';
import type { Request } from 'express';
import type { Database } from '../database/index.ts';
import { HttpProblem } from '../problem/problem.ts';
import { signInFailureTable } from './tables.ts';

const FORGET_SECONDS = 15 * 60;
/** How far ahead of the clock a count may lie before the clock is taken to have been set back. */
const CLOCK_SLACK_SECONDS = 5;
const RULES = {
  pair: { free: 3, longestSeconds: 600 },
  name: { free: 20, longestSeconds: 60 },
  client: { free: 60, longestSeconds: 1 },
} as const;
type Kind = keyof typeof RULES;
const CLIENT_TURN_MS = 8000;
/** So long a try waits for others of its name that are being looked at. */
const LOOKING_MS = 5000;

/** The client of a request: its address, or of an IPv6 address the network (/64), as one customer has all of it. */
export function clientOf(request: Request): string {
  const address = (request.ip ?? 'unknown').replace(/^::ffff:(?=\d+\.)/, '');
  if (!address.includes(':')) return address;
  const [head = '', tail = ''] = address.split('::');
  const groups = head.split(':');
  const left = tail === '' ? [] : tail.split(':');
  while (groups.length + left.length < 8) groups.push('0');
  return `${[...groups, ...left].slice(0, 4).join(':')}::/64`;
}

export interface Tried {
  name: string;
  client: string;
}

const sourceOf = (kind: Kind, { name, client }: Tried): string =>
  ({ pair: `pair ${name} ${client}`, name: `name ${name}`, client: `client ${client}` })[kind].slice(0, 120);

/** Counts a try; gives 0, or how many milliseconds it has to wait, uncounted. */
async function count(db: Database, kind: Kind, tried: Tried): Promise<number> {
  const source = sourceOf(kind, tried);
  const { free, longestSeconds } = RULES[kind];
  await db.execute(
    sql`INSERT IGNORE INTO sign_in_failures (source, count, last_at, blocked_until) VALUES (${source}, 0, NOW(3), NOW(3))`,
  );
  // MariaDB assigns from left to right: the wait is that of the new count.
  const [result] = await db.execute(
    sql`UPDATE sign_in_failures SET
      count = IF(last_at < NOW(3) - INTERVAL ${FORGET_SECONDS} SECOND, 1, LEAST(count + 1, 1000)),
      blocked_until = NOW(3) + INTERVAL IF(count < ${free}, 0, LEAST(${longestSeconds}, POW(2, LEAST(count - ${free}, 20)))) SECOND,
      last_at = NOW(3)
    WHERE source = ${source}
      AND (blocked_until <= NOW(3) OR last_at > NOW(3) + INTERVAL ${CLOCK_SLACK_SECONDS} SECOND)`,
  );
  if (result.affectedRows > 0) return 0;
  const [row] = await db
    .select({ waitMs: sql<number>`TIMESTAMPDIFF(MICROSECOND, NOW(3), blocked_until) / 1000`.mapWith(Number) })
    .from(signInFailureTable)
    .where(eq(signInFailureTable.source, source));
  return Math.max(1, row?.waitMs ?? 1);
}

function slowDown(waitMs: number, what: string): HttpProblem {
  const seconds = Math.ceil(waitMs / 1000);
  return new HttpProblem(
    429,
    {
      code: 'slow-down',
      message: `Too many failed ${what}. Wait ${seconds} ${seconds === 1 ? 'second' : 'seconds'}.`,
    },
    seconds,
  );
}

/** A try that is under way at this server; `waits` while others of its pair have to be settled before it is looked at. */
interface UnderWay {
  settled: Promise<unknown>;
  waits: boolean;
}
/** By the source of their pair. */
const triesUnderWay = new Map<string, Set<UnderWay>>();

interface Look {
  what?: 'sign-ins' | 'passphrases' | 'PINs';
  /** Whether a right one forgets those that failed before it; otherwise it is only no failure itself. */
  forgets?: boolean;
}

/**
 * Looks at a try that is counted as failed first, and is one unless `look` comes to its end. Throws 429 while the name or the
 * client has to wait. Of several right ones at once all come through: those over what is free wait for those before them.
 */
export async function tryOnce<T>(
  db: Database,
  tried: Tried,
  look: () => Promise<T>,
  { what = 'sign-ins', forgets = true }: Look = {},
): Promise<T> {
  const source = sourceOf('pair', tried);
  const all = triesUnderWay.get(source) ?? new Set();
  let settle: () => void = () => {};
  const own: UnderWay = { settled: new Promise<void>((resolve) => (settle = resolve)), waits: false };
  triesUnderWay.set(source, all.add(own));
  try {
    await countTry(db, tried, what, own, all);
    const found = await look();
    await (forgets ? forgetTry(db, tried) : takeBackTry(db, tried));
    return found;
  } finally {
    settle();
    all.delete(own);
    if (all.size === 0 && triesUnderWay.get(source) === all) triesUnderWay.delete(source);
  }
}

/** Counts a try as failed, in its turn. */
async function countTry(
  db: Database,
  tried: Tried,
  what: string,
  own: UnderWay,
  all: ReadonlySet<UnderWay>,
): Promise<void> {
  const until = performance.now() + LOOKING_MS;
  for (const kind of ['pair', 'name'] as const)
    for (;;) {
      const waitMs = await count(db, kind, tried);
      own.waits = waitMs > 0;
      if (waitMs === 0) break;
      const before = [...all].filter(({ waits }) => !waits);
      if (before.length === 0 || performance.now() > until) throw slowDown(waitMs, what);
      await anyOf(
        before.map(({ settled }) => settled),
        until - performance.now(),
      );
    }
  for (const turn = performance.now() + CLIENT_TURN_MS; ; ) {
    const waitMs = await count(db, 'client', tried);
    if (waitMs === 0) return;
    if (performance.now() + waitMs > turn) throw slowDown(waitMs + 1000, what);
    await new Promise((resolve) => setTimeout(resolve, waitMs * (1 + Math.random())));
  }
}

/** Waits until one of them is settled, or for a time. */
async function anyOf(all: readonly Promise<unknown>[], withinMs: number): Promise<void> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<void>((resolve) => (timer = setTimeout(resolve, withinMs)));
  await Promise.race([late, ...all]);
  clearTimeout(timer);
}

/** After a right password: the name's failures are forgotten, and this try is none of the client's. */
async function forgetTry(db: Database, tried: Tried): Promise<void> {
  await db.execute(
    sql`DELETE FROM sign_in_failures WHERE source IN (${sourceOf('pair', tried)}, ${sourceOf('name', tried)})`,
  );
  await db.execute(
    sql`UPDATE sign_in_failures SET count = GREATEST(count - 1, 0), blocked_until = NOW(3) WHERE source = ${sourceOf('client', tried)}`,
  );
}

/** This try was right, and tells nothing of the next: it is none, and those that failed before it stay counted. */
async function takeBackTry(db: Database, tried: Tried): Promise<void> {
  const sources = (['pair', 'name', 'client'] as const).map((kind) => sourceOf(kind, tried));
  await db.execute(
    sql`UPDATE sign_in_failures SET count = GREATEST(count - 1, 0), blocked_until = NOW(3) WHERE source IN (${sql.join(
      sources.map((source) => sql`${source}`),
      sql`, `,
    )})`,
  );
}

/** Rows that count no more, taken away by the housekeeping. */
export const forgetOld = (db: Database) =>
  db.execute(sql`DELETE FROM sign_in_failures WHERE last_at < NOW(3) - INTERVAL ${FORGET_SECONDS} SECOND`);
