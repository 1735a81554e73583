/** Writers of changes, as the server makes them: for the benchmarks that measure how many a second there can be. */
import { join } from 'node:path';
import { sql } from 'drizzle-orm';
import { pino } from 'pino';
import { connect, migrate, newId } from '../../server/src/platform/database/index.ts';
import type { TrailApp } from '../../server/src/platform/trail/app.ts';
import { change } from '../../server/src/platform/trail/change.ts';
import { openTrail } from '../../server/src/platform/trail/key.ts';
import { Sealer } from '../../server/src/platform/trail/seal.ts';

export const SITE = 'benchsite';
export const WHO = { id: 'somebody', name: 'Somebody' };

/** Writes with `writers` at once for `forMs`; gives how many were written a second. */
export async function rate(
  writers: number,
  forMs: number,
  write: (writer: number) => Promise<unknown>,
): Promise<number> {
  const began = performance.now();
  let written = 0;
  await Promise.all(
    Array.from({ length: writers }, async (_, writer) => {
      while (performance.now() - began < forMs) {
        await write(writer);
        written++;
      }
    }),
  );
  return (written * 1000) / (performance.now() - began);
}

/** As much of a server as writing takes, on a database that is brought up to date. */
export async function openWriter(
  url: string,
  stateFolder: string,
  connections: number,
  trailKey?: string,
): Promise<{ app: TrailApp; close(): Promise<void> }> {
  const connection = connect(url, { connections });
  await migrate(connection.nodes, join(import.meta.dirname, '../server/migrations'));
  const base = { db: connection.db, log: pino({ level: 'silent' }), trail: openTrail(stateFolder, trailKey) };
  const sealer = new Sealer(
    () => base,
    () => {},
  );
  return {
    app: { ...base, sealer },
    close: async () => {
      await sealer.close();
      await connection.close();
    },
  };
}

/** One cardholder, with its entry in the trail and its announcements. */
export const addHolder = (app: TrailApp) =>
  change(app, WHO, SITE, async (tx, record) => {
    const id = newId();
    await tx.execute(
      sql`INSERT INTO cardholders (id, site_id, name, department) VALUES (${id}, ${SITE}, ${`Holder ${id}`}, '')`,
    );
    record.trail({ action: 'cardholder added', subject: `cardholder ${id}`, after: { name: `Holder ${id}` } });
    record.announce('cards', { id });
  });

export const median = (all: number[]): number => [...all].sort((a, b) => a - b)[all.length >> 1]!;
