/** Puts a server together: database, migrations, library, trail, live feed, rig, HTTP. Used by main and by the tests. */
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { join } from 'node:path';
import type { Logger } from 'pino';
import { connect, migrate, tables } from './database/index.ts';
import { seedLibrary } from './formats/library.ts';
import type { App } from './http/app.ts';
import { allRoutes } from './http/routes.ts';
import { httpServer } from './http/server.ts';
import { LiveHub } from './live/hub.ts';
import { RigClient } from './rig/client.ts';
import { RigIngest } from './rig/ingest.ts';
import { HOUSE } from './trail/change.ts';
import { TrailKeeper } from './trail/keeper.ts';

export interface ServerOptions {
  databaseUrl: string;
  migrationsFolder: string;
  /** Where the trail's key and noted heads are kept, outside the database. */
  stateFolder: string;
  /** The trail's key in hex, where several machines share one; made in the state folder otherwise. */
  trailKey?: string;
  webFolder?: string;
  rig?: { url: string; token: string };
  setupToken?: string;
  port: number;
  log: Logger;
}

export interface RunningServer {
  app: App;
  port: number;
  close(): Promise<void>;
}

function trailKeyIn(folder: string): Buffer {
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const file = join(folder, 'trail.key');
  if (!existsSync(file)) writeFileSync(file, randomBytes(32).toString('hex'), { mode: 0o600, flag: 'wx' });
  return Buffer.from(readFileSync(file, 'utf8').trim(), 'hex');
}

export async function startServer(options: ServerOptions): Promise<RunningServer> {
  const connection = connect(options.databaseUrl);
  const { db, pool } = connection;
  try {
    await migrate(pool, options.migrationsFolder);
    await db.insert(tables.chains).ignore().values({ id: HOUSE });
    await seedLibrary(db);
  } catch (error) {
    await connection.close();
    throw error;
  }
  const key = options.trailKey ? Buffer.from(options.trailKey, 'hex') : trailKeyIn(options.stateFolder);
  const app: App = {
    db,
    log: options.log,
    trail: new TrailKeeper(key, join(options.stateFolder, 'trail')),
    live: new LiveHub(db),
    rig: options.rig && new RigClient(options.rig.url, options.rig.token),
    setupToken: options.setupToken,
  };
  const ingest = app.rig && new RigIngest(app, app.rig);
  const http = httpServer(
    app,
    allRoutes(() => ingest),
    { webFolder: options.webFolder },
  );
  const listening = await new Promise<Server>((resolve, reject) => {
    const server = http.listen(options.port, '127.0.0.1', (error?: Error) => (error ? reject(error) : resolve(server)));
  });
  void ingest?.follow();
  let closed = false;
  return {
    app,
    port: (listening.address() as { port: number }).port,
    close: async () => {
      if (closed) return;
      closed = true;
      ingest?.stop();
      app.live.close();
      listening.closeAllConnections();
      await new Promise((resolve) => listening.close(resolve));
      await connection.close();
    },
  };
}
