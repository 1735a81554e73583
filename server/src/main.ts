/** The server process. Everything it needs comes from its environment; `bin/start` sets it. */
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import pino from 'pino';
import { startServer } from './start.ts';

const here = dirname(fileURLToPath(import.meta.url));
const need = (name: string): string => {
  const value = process.env[name];
  if (!value) throw new Error(`${name} is not set; start Raw Bits with bin/start.`);
  return value;
};

const log = pino({ level: process.env.RAWBITS_LOG ?? 'warn' }, pino.destination(2));
const rigUrl = process.env.RAWBITS_RIG_URL;
try {
  const server = await startServer({
    databaseUrl: need('RAWBITS_DATABASE_URL'),
    migrationsFolder: join(here, '../server/migrations'),
    stateFolder: need('RAWBITS_STATE'),
    trailKey: process.env.RAWBITS_TRAIL_KEY,
    webFolder: join(here, 'web'),
    rig: rigUrl ? { url: rigUrl, token: need('RAWBITS_RIG_TOKEN') } : undefined,
    setupToken: process.env.RAWBITS_SETUP_TOKEN,
    port: Number(need('RAWBITS_PORT')),
    log,
  });
  process.send?.({ ready: true, port: server.port });
  const stop = () => void server.close().then(() => process.exit(0));
  process.once('SIGTERM', stop);
  process.once('SIGINT', stop);
  process.once('disconnect', stop);
} catch (error) {
  process.send?.({ ready: false, code: (error as { code?: string }).code, message: (error as Error).message });
  if (!process.send) log.fatal(error, 'the server did not start');
  process.exitCode = 1;
}
