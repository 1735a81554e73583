/**
 * Twenty-four writers at one site through three servers: on a cluster of three nodes, each server with one of its own in
 * front, and on one plain database; in turn, on one machine.
 *
 *     node bin/lib/build.mjs bench-cluster && node dist/bench-cluster.mjs
 */
import { randomBytes } from 'node:crypto';
import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startCluster } from '../../bin/lib/galera.ts';
import { startMariaDb } from '../../bin/lib/mariadb.ts';
import { openChain } from '../../server/src/platform/trail/change.ts';
import { verifyChain } from '../../server/src/platform/trail/verify.ts';
import { addHolder, median, openWriter, rate, SITE } from './writers.ts';

const SERVERS = 3;
const WRITERS = 8;
const ROUNDS = 5;
const ROUND_MS = 3000;

const folder = mkdtempSync(join(tmpdir(), 'rawbits-bench-'));
chmodSync(folder, 0o755);

/** Three servers with one trail key, each with its own address of the database. */
async function openServers(name: string, urls: readonly string[]) {
  const key = randomBytes(32).toString('hex');
  const servers = [];
  for (const [i, url] of urls.entries())
    servers.push(await openWriter(url, join(folder, `${name}-${i}`), WRITERS + 2, key));
  await openChain(servers[0]!.app.db, SITE);
  return servers;
}

async function run(): Promise<void> {
  const database = await startMariaDb(join(folder, 'mariadb'));
  const cluster = await startCluster(join(folder, 'cluster'), SERVERS);
  const hosts = cluster.nodes.map(({ host }) => host);
  const from = (i: number) =>
    cluster.nodes[0]!.url.replace(hosts[0]!, [...hosts.slice(i), ...hosts.slice(0, i)].join(','));
  const plain = await openServers(
    'plain',
    hosts.map(() => database.url),
  );
  const spread = await openServers(
    'spread',
    hosts.map((_, i) => from(i)),
  );
  const rates = { plain: [] as number[], spread: [] as number[] };
  const measure = (servers: typeof plain) =>
    rate(SERVERS * WRITERS, ROUND_MS, (writer) => addHolder(servers[writer % SERVERS]!.app));
  await measure(spread);
  for (let round = 0; round < ROUNDS; round++) {
    rates.plain.push(await measure(plain));
    rates.spread.push(await measure(spread));
  }
  console.log(`one database   ${median(rates.plain).toFixed(0)} a second`);
  console.log(`three nodes    ${median(rates.spread).toFixed(0)} a second`);
  console.log(`ratio          ${(median(rates.spread) / median(rates.plain)).toFixed(2)} (aim 0.7)`);
  console.log((await verifyChain(spread[1]!.app, SITE)).verification.message);
  for (const { close } of [...plain, ...spread]) await close();
  await database.stop();
  await cluster.stop();
  rmSync(folder, { recursive: true, force: true });
}

await run();
