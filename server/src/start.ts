/** Puts a server together: database, migrations, library, trail, live feed, rig, HTTP. Used by main and by the tests. */

import { readFileSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { Express } from 'express';
import type { Logger } from 'pino';
import { allRoutes } from './app.ts';
import { Devices } from './devices/devices.ts';
import { DeviceHosts } from './devices/hosts.ts';
import { BOX, carryBox } from './features/boxes/index.ts';
import { fillBits, fillCounts } from './features/cards/index.ts';
import { CLEARING_ITEMS, carryClearingItems } from './features/doorChanges/index.ts';
import { carryLoad, carryMarking, fillItems, LOAD, MARKING, RECODING } from './features/doors/index.ts';
import { carryDryRun, DRY_RUN } from './features/dryRuns/index.ts';
import { carryRecoding } from './features/facilityCodes/index.ts';
import { seedLibrary } from './features/library/index.ts';
import { LogIngest, rigBeside, siteFor } from './features/rig/index.ts';
import { canCarry, carryRun, RUN } from './features/runs/index.ts';
import { CLEARING, carryClearing } from './features/transfer/index.ts';
import { beginHousekeeping, stepHousekeeping } from './housekeeping.ts';
import { type Connection, connect, migrate } from './platform/database/index.ts';
import { LiveHub } from './platform/feed/hub.ts';
import type { App } from './platform/http/app.ts';
import { httpServer } from './platform/http/server.ts';
import { Traffic } from './platform/http/traffic.ts';
import { Jobs } from './platform/jobs/index.ts';
import { type Settings, settingsSchema } from './platform/settings/settings.ts';
import { catchUp } from './platform/trail/anchor.ts';
import { HOUSE } from './platform/trail/change.ts';
import type { TrailKeeper } from './platform/trail/keeper.ts';
import { checkTrailKey, openTrail } from './platform/trail/key.ts';
import { Sealer } from './platform/trail/seal.ts';
import { chainTable } from './platform/trail/tables.ts';
import { Verifier } from './platform/trail/verifier.ts';
import { Vault } from './platform/vault/index.ts';
import { Workers } from './platform/workers/index.ts';

export interface ServerOptions {
  databaseUrl: string;
  migrationsFolder: string;
  /** Where the trail's key and noted heads are kept, outside the database. */
  stateFolder: string;
  /** The trail's key in hex, where several machines share one; made in the state folder otherwise. */
  trailKey?: string;
  webFolder?: string;
  /** The token of the rig that runs beside this server and dials in to it. */
  rigToken?: string;
  setupToken?: string;
  settings?: Partial<Settings>;
  /** A file that says that there is the demo here and no more: gone before the first change of anybody. */
  demoMark?: string;
  /** By the clock unless told otherwise; stepped, it is done by `housekeep` alone. */
  housekeeping?: 'by the clock' | 'stepped';
  /** The workers' program; without it heavy work is done in the thread that answers. */
  workerFile?: string;
  port: number;
  log: Logger;
}

export interface RunningServer {
  app: App;
  port: number;
  /** Whether it was told to stop. */
  readonly closed: boolean;
  /** One turn of housekeeping, now. */
  housekeep(): Promise<void>;
  close(): Promise<void>;
}

/** How long requests under way may take to finish when the server is told to stop. */
const GRACE_MS = 10_000;

/** A statement of a migration, or of a repair, works through all that is there. */
const PREPARING_MS = 6 * 3_600_000;

/** Brings the database to what this server knows, and what is in it to what it should be. */
async function prepare({ db, nodes }: Connection, options: ServerOptions, keeper: TrailKeeper): Promise<void> {
  await migrate(nodes, options.migrationsFolder, { say: (message) => options.log.warn(message) });
  await db.insert(chainTable).ignore().values({ id: HOUSE });
  await checkTrailKey(db, keeper);
  await seedLibrary(db);
  await fillBits(db);
  await fillCounts(db);
  await fillItems(db);
}

export async function startServer(options: ServerOptions): Promise<RunningServer> {
  const { log } = options;
  const settings = { ...settingsSchema.parse({}), ...options.settings };
  const keeper = openTrail(options.stateFolder, options.trailKey);
  const tls = tlsOf(settings);
  const preparing = connect(options.databaseUrl, { tls, statementMs: PREPARING_MS });
  try {
    await prepare(preparing, options, keeper);
  } finally {
    await preparing.close();
  }
  const connection = connect(options.databaseUrl, { tls });
  const { db } = connection;
  const ingest: LogIngest = new LogIngest(() => app);
  const app: App = {
    db,
    log,
    settings,
    trail: keeper,
    sealer: new Sealer(
      () => app,
      () => app.live.nudge(),
    ),
    verifier: new Verifier(),
    vault: new Vault(() => app),
    workers: new Workers(options.workerFile),
    live: new LiveHub(db, settings),
    jobs: new Jobs(() => app),
    devices: new Devices(
      db,
      new DeviceHosts(() => app, {
        adopt: (host, theirs) => siteFor(db, host, theirs),
        connected: (connected) => ingest.begin(connected),
      }),
    ),
    rigHost: options.rigToken && (await rigBeside(db, keeper, options.rigToken)),
    setupToken: options.setupToken,
    ...(options.demoMark && { aboutToChange: () => rmSync(options.demoMark!, { force: true }) }),
  };
  registerJobs(app);
  await catchUp(app);
  const traffic = new Traffic();
  const http = httpServer(
    app,
    allRoutes(() => ingest),
    traffic,
    { webFolder: options.webFolder },
  );
  const listening = await listen(http, settings.address, options.port);
  app.devices.hosts.attach(listening);
  const endHousekeeping = options.housekeeping === 'stepped' ? async () => {} : beginHousekeeping(app);
  let closed = false;
  return {
    app,
    port: (listening.address() as { port: number }).port,
    get closed() {
      return closed;
    },
    housekeep: () => stepHousekeeping(app),
    close: async () => {
      if (closed) return;
      closed = true;
      traffic.stopping = true;
      const ended = new Promise((resolve) => listening.close(resolve));
      await traffic.idle(GRACE_MS);
      await endHousekeeping();
      await app.jobs.close();
      await app.vault.close();
      await app.devices.hosts.close();
      await app.sealer.close();
      app.live.close();
      listening.closeAllConnections();
      await ended;
      await app.workers.close();
      await connection.close();
    },
  };
}

/** What carries jobs of each kind on, on whichever server. */
function registerJobs(app: App): void {
  const of = () => app;
  // A load waits for its device; all else can be gone on with at once.
  app.jobs.register(LOAD, carryLoad(of), ({ siteId }) => app.devices.answers(siteId));
  app.jobs.register(DRY_RUN, carryDryRun(of));
  app.jobs.register(MARKING, carryMarking(of));
  app.jobs.register(RECODING, carryRecoding(of));
  app.jobs.register(BOX, carryBox(of));
  app.jobs.register(CLEARING, carryClearing(of));
  app.jobs.register(CLEARING_ITEMS, carryClearingItems(of));
  app.jobs.register(RUN, carryRun(of), canCarry(app));
}

/** How the way to the database is encrypted; throws a sentence where the certificates cannot be read. */
function tlsOf({ databaseCa }: Settings): { ca?: string } | undefined {
  if (databaseCa === undefined) return undefined;
  if (databaseCa === 'system') return {};
  try {
    return { ca: readFileSync(databaseCa, 'utf8') };
  } catch (error) {
    throw new Error(
      `RAWBITS_DATABASE_CA=${databaseCa} cannot be read (${(error as NodeJS.ErrnoException).code}). Give a file with certificates, or "system".`,
    );
  }
}

/**
 * Limits of time for what comes over a connection: nobody holds one open by sending slowly. An idle one is kept longer
 * than a proxy or a client does (60 s at most of them), so that it is they who close it, never under a request of theirs.
 */
function listen(http: Express, address: string, port: number): Promise<Server> {
  const server = createServer(
    { requestTimeout: 30_000, headersTimeout: 15_000, connectionsCheckingInterval: 2000, keepAliveTimeout: 65_000 },
    http,
  );
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, address, () => resolve(server));
  });
}
