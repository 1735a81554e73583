/**
 * A card encoded through a desk: Debian's pcscd and its virtual reader, the registry's `smartcard`, the desk's own program and its
 * line to the server, with nothing of ours between reader and card but the card itself.
 */
import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { connect, createServer, type Server } from 'node:net';
import { join } from 'node:path';
import { hostApi, runApi } from '@rawbits/api';
import { build } from 'esbuild';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openStation, type Station } from '../../testing/station.ts';

const top = join(import.meta.dirname, '../../../..');
const READER_PORT = 0x8c90;
/** From a port in a network of its own to a socket file. */
const WAY = `const net = require('node:net');
net.createServer((here) => {
  const there = net.connect(process.argv[3]);
  here.pipe(there).pipe(here);
  for (const end of [here, there]) end.on('error', () => { here.destroy(); there.destroy(); });
}).listen(Number(process.argv[2]), '127.0.0.1');`;

// Taking a network and a mount of one's own is root's alone.
describe.skipIf(process.getuid?.() !== 0)('a desk', () => {
  let station: Station;
  let folder: string;
  let way: Server;
  let desk: ChildProcess | undefined;
  let said = '';
  beforeAll(async () => {
    station = await openStation();
    // Where the registry's packages are found from.
    folder = mkdtempSync(join(top, 'node_modules/.desk-'));
    const common = { bundle: true, platform: 'node', logLevel: 'error' } as const;
    const card = join(top, 'peers/src/virtualCard.ts');
    await build({ ...common, entryPoints: [card], format: 'cjs', outfile: join(folder, 'card.cjs') });
    const main = join(top, 'desk/src/main.ts');
    const external = ['smartcard', 'ws', 'zod'];
    await build({ ...common, entryPoints: [main], format: 'esm', external, outfile: join(folder, 'desk.mjs') });
    writeFileSync(join(folder, 'way.cjs'), WAY);
    const socket = join(folder, 'way.sock');
    way = createServer((here) => {
      const there = connect(station.house.server.port, '127.0.0.1');
      here.pipe(there).pipe(here);
      for (const end of [here, there])
        end.on('error', () => {
          here.destroy();
          there.destroy();
        });
    });
    await new Promise<void>((listening) => way.listen(socket, listening));
    const { administrator, rig } = station.house;
    rig.pad.lay([]);
    const { token } = await administrator.ask(hostApi.add, { site: station.site }, { name: 'Harbour office' });
    desk = spawn('unshare', ['-mn', 'bash', join(top, 'peers/src/desk.sh'), folder, String(READER_PORT), socket], {
      env: { ...process.env, RAWBITS_DESK_TOKEN: token },
      detached: true,
    });
    for (const stream of [desk.stdout!, desk.stderr!]) stream.on('data', (text) => (said += String(text)));
  });
  afterAll(async () => {
    if (desk?.pid) process.kill(-desk.pid, 'SIGTERM');
    way?.close();
    await station?.close();
    rmSync(folder, { recursive: true, force: true });
  });

  it('offers its reader as a pad, and a run encodes, verifies and frees the card on it', async () => {
    const { site } = station;
    const { administrator } = station.house;
    const pads = async () =>
      (await administrator.ask(runApi.pads, { site })).filter(({ name }) => name.startsWith('Virtual'));
    await expect
      .poll(pads, { interval: 200 })
      .not.toEqual([])
      .catch(() => {
        throw new Error(`${said}\n${readFileSync(join(folder, 'pcscd-desk.log'), 'utf8').slice(-1500)}`);
      });
    // The virtual reader has two places; the card is in the first.
    const pad = (await pads()).toSorted((a, b) => a.name.localeCompare(b.name))[0]!;
    expect(pad.connected).toBe(true);
    const encode = await station.start({ pads: [pad.id], cards: { from: 'list', cards: station.cards.slice(0, 1) } });
    const encoded = await station.until(encode.id, ({ state, pads: held }) => state === 'done' && held.length === 0);
    expect(encoded).toMatchObject({ done: 1, amiss: 0 });
    const looked = await administrator.ask(runApi.look, { site }, { pad: pad.id });
    expect(looked).toMatchObject({ onFile: { card: '41/201', uid: '04A1B2C3D4E5F6' }, against: { differs: [] } });
    const back = await station.start({ kind: 'hand back', under: 'Harbour', pads: [pad.id] });
    await station.until(back.id, ({ done }) => done === 1);
    await administrator.ask(runApi.end, { site, id: back.id });
    await station.until(back.id, ({ pads: held }) => held.length === 0);
    expect(await administrator.ask(runApi.look, { site }, { pad: pad.id })).toMatchObject({
      isBlank: true,
      onFile: null,
    });
  });
});
