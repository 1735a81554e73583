/** Readiness: whether the database and the rig answer, within a second, whoever asks and however often. */
import { sql } from 'drizzle-orm';
import type { App } from './app.ts';

export interface Readiness {
  ok: boolean;
  database: boolean;
  /** Null where no rig runs beside this server. */
  rig: boolean | null;
  /** Whether entries of all records are sealed within seconds; what is not does not keep the server from its work. */
  record: boolean;
}

const WITHIN_MS = 900;
const KEPT_MS = 500;

/** Shares one question among all who ask; a question that hangs is not asked a second time beside itself. */
function probe(ask: () => Promise<unknown>): () => Promise<boolean> {
  let asked: Promise<boolean> | undefined;
  return () => {
    asked ??= ask()
      .then(
        () => true,
        () => false,
      )
      .finally(() => setTimeout(() => (asked = undefined), KEPT_MS).unref());
    return Promise.race([asked, new Promise<boolean>((resolve) => setTimeout(resolve, WITHIN_MS, false).unref())]);
  };
}

export function readiness(app: App): () => Promise<Readiness> {
  const database = probe(() => app.db.execute(sql`select 1`));
  const rig = app.rigHost
    ? probe(async () => {
        if (!(await app.devices.hosts.hears(app.rigHost!, WITHIN_MS))) throw new Error('away');
      })
    : undefined;
  return async () => {
    const [databaseUp, rigUp] = await Promise.all([database(), rig ? rig() : null]);
    const record = app.sealer.failsSince() === undefined;
    return { ok: databaseUp && rigUp !== false, database: databaseUp, rig: rigUp, record };
  };
}
