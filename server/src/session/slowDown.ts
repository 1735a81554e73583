/**
 * Slow-down: each failed sign-in of a name, or from an address, makes the next wait longer. Kept in the database, so
 * that trying another server gains nothing. What is counted goes by the clock of the server that asks.
 */
import { eq } from 'drizzle-orm';
import { type Database, tables } from '../database/index.ts';
import { HttpProblem } from '../http/problem.ts';

const FORGET_MS = 15 * 60_000;
const LONGEST_MS = 10 * 60_000;
/** How many failures are free: people mistype, and several people may share an address. */
const FREE = { login: 3, address: 20 } as const;

type Kind = keyof typeof FREE;
const sourceOf = (kind: Kind, value: string): string => `${kind} ${value}`.slice(0, 120);

/** Throws 429 while a name or address has to wait. */
export async function checkWait(db: Database, sources: [Kind, string][]): Promise<void> {
  for (const [kind, value] of sources) {
    const [row] = await db
      .select()
      .from(tables.signInFailures)
      .where(eq(tables.signInFailures.source, sourceOf(kind, value)));
    const waitMs = (row?.blockedUntil.getTime() ?? 0) - Date.now();
    if (waitMs <= 0) continue;
    const seconds = Math.ceil(waitMs / 1000);
    throw new HttpProblem(
      429,
      {
        code: 'slow-down',
        message: `Too many failed sign-ins. Wait ${seconds} ${seconds === 1 ? 'second' : 'seconds'}.`,
      },
      seconds,
    );
  }
}

export async function noteFailure(db: Database, sources: [Kind, string][]): Promise<void> {
  const now = new Date();
  for (const [kind, value] of sources) {
    const source = sourceOf(kind, value);
    const [row] = await db.select().from(tables.signInFailures).where(eq(tables.signInFailures.source, source));
    const count = row && now.getTime() - row.lastAt.getTime() < FORGET_MS ? row.count + 1 : 1;
    const waitMs = count < FREE[kind] ? 0 : Math.min(LONGEST_MS, 1000 * 2 ** Math.min(count - FREE[kind], 20));
    const values = { count, lastAt: now, blockedUntil: new Date(now.getTime() + waitMs) };
    await db
      .insert(tables.signInFailures)
      .values({ source, ...values })
      .onDuplicateKeyUpdate({ set: values });
  }
}

export async function forgetFailures(db: Database, login: string): Promise<void> {
  await db.delete(tables.signInFailures).where(eq(tables.signInFailures.source, sourceOf('login', login)));
}
