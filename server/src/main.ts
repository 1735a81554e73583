/** The server process. Everything it needs comes from its environment; `bin/start` sets it. */
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { loggable, serverLog } from './platform/settings/log.ts';
import { settingsFrom } from './platform/settings/settings.ts';
import { startServer } from './start.ts';

const here = dirname(fileURLToPath(import.meta.url));
const need = (name: string): string => {
  const value = process.env[name];
  if (!value) throw new Error(`${name} is not set; start Raw Bits with bin/start.`);
  return value;
};

let log = serverLog('warn');
try {
  const settings = settingsFrom(process.env);
  log = serverLog(settings.logLevel);
  const server = await startServer({
    databaseUrl: need('RAWBITS_DATABASE_URL'),
    migrationsFolder: join(here, '../server/migrations'),
    stateFolder: need('RAWBITS_STATE'),
    trailKey: process.env.RAWBITS_TRAIL_KEY,
    webFolder: join(here, 'web'),
    rigToken: process.env.RAWBITS_RIG_TOKEN,
    setupToken: process.env.RAWBITS_SETUP_TOKEN,
    demoMark: process.env.RAWBITS_DEMO_MARK,
    settings,
    workerFile: join(here, 'worker.mjs'),
    port: Number(need('RAWBITS_PORT')),
    log,
  });
  process.send?.({ ready: true, port: server.port });
  const stop = () => void server.close().then(() => process.exit(0));
  process.once('SIGTERM', stop);
  // Ctrl-C goes to everybody; under bin/start it is for the one that stops all in turn.
  process.on('SIGINT', process.send ? () => {} : stop);
  process.once('disconnect', stop);
} catch (error) {
  const told = loggable(error) as { code?: string; message?: string };
  process.send?.({ ready: false, code: told.code, message: told.message ?? `the database refused (${told.code})` });
  if (!process.send) log.fatal({ err: error }, 'the server did not start');
  process.exitCode = 1;
}
