/**
 * An independent host, unchanged: Debian's libfreefare on libnfc talks to the simulated cards over a line on which this
 * side speaks the frames of a PN532. What it expects was written for real cards.
 */
import { execFileSync, spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { blankFiles, blankSectors, FilesCard, SectorsCard, sectorFrame } from '@rawbits/core/chip';
import { bytesOf, hexOf } from '@rawbits/core/cipher';
import { FilesHost, SectorsHost } from '@rawbits/core/host';
import { bringCard, bringSectors, planSchema, ringOf, sectorPlanSchema, standInKeys } from '@rawbits/core/plan';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type Card, Pn532 } from './pn532.ts';

const UID = bytesOf('04A1B2C3D4E5F6', 'uid');

// The library gives its serial line fixed times to answer, which a busy machine may miss: that is tried again.
describe('libfreefare on a simulated reader', { retry: 2 }, () => {
  let folder: string;
  let program: string;
  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), 'rawbits-peers-'));
    program = join(folder, 'freefare');
    const source = join(import.meta.dirname, 'freefare.c');
    execFileSync('gcc', ['-O1', '-Wall', '-Werror', '-o', program, source, '-lfreefare', '-lnfc'], {
      stdio: 'inherit',
    });
  });
  afterAll(() => rmSync(folder, { recursive: true, force: true }));

  /** Puts a card on a serial line and runs the host on it; gives what it printed. */
  async function run(card: Card, ...args: string[]): Promise<string> {
    const name = randomBytes(4).toString('hex');
    const [socket, line] = [join(folder, `${name}.sock`), join(folder, `${name}.pty`)];
    const reader: Server = createServer((connection) => {
      const pn532 = new Pn532(card, (count) => new Uint8Array(randomBytes(count)));
      connection.on('data', (bytes) => connection.write(pn532.take(bytes)));
      connection.on('error', () => {});
    });
    await new Promise<void>((resolve) => reader.listen(socket, resolve));
    const wire = spawn('socat', [`PTY,link=${line},raw,echo=0,wait-slave`, `UNIX-CONNECT:${socket}`]);
    try {
      await expect.poll(() => execFileSync('ls', [folder], { encoding: 'utf8' })).toContain(`${name}.pty`);
      const host = spawn(program, args, { env: { ...process.env, LIBNFC_DEVICE: `pn532_uart:${line}` } });
      let said = '';
      host.stdout.on('data', (text) => (said += text));
      host.stderr.on('data', (text) => (said += text));
      await new Promise((resolve) => host.on('close', resolve));
      return said.trim();
    } finally {
      wire.kill();
      reader.close();
    }
  }

  it.each([
    'des',
    'tdes2',
    'tdes3',
    'aes',
    'iso',
  ])('a file-system card: keys, files of every kind in every mode, transactions and refusals, under %s', async (kind) => {
    const card = new FilesCard(blankFiles({ generation: 2, masterKey: 'des', uid: UID, capacity: 8192 }));
    const said = await run(card, 'files', kind);
    expect(said).toMatch(/^\d{3} checks, 0 wrong$/m);
  });

  it.each(['1k', '4k'])('a sector card of %s: keys, blocks, values, access bits', async (size) => {
    const card = new SectorsCard(blankSectors(size === '1k' ? '1K' : '4K', bytesOf('01020304', 'uid')));
    expect(await run(card, 'sectors', size)).toMatch(/^\d{3} checks, 0 wrong$/m);
  });

  it('the directory of a finished sector card, and what stands in its sector', async () => {
    const memory = blankSectors('1K', bytesOf('01020304', 'uid'));
    const card = new SectorsCard(memory);
    const host = new SectorsHost({ transmitRaw: async (frame) => sectorFrame(card, frame) }, memory.uid);
    const plan = sectorPlanSchema.parse({
      schema: 'rawbits/plan@1',
      kind: 'sectors',
      directory: true,
      publisher: 1,
      sectors: [
        {
          number: 1,
          keyA: 'reader',
          keyB: 'office',
          application: '4801',
          access: { data: [4, 4, 4], trailer: 3 },
          fields: [{ name: 'number', length: 4, content: { is: 'number', of: 'number' } }],
        },
        { number: 2, keyA: 'reader', keyB: 'office', application: '4802', access: { data: [4, 4, 4], trailer: 3 } },
      ],
    });
    const ring = (name: string) => ({
      now: bytesOf(name === 'reader' ? '5A5A11223344' : 'C0FFEE005A5A', name),
      before: [],
    });
    await bringSectors(host, { plan, ring, known: { values: { number: '118406' } } });
    card.powerOff();
    const said = await run(card, 'directory', '5A5A11223344');
    expect(said.split('\n').slice(0, 4)).toEqual([
      'version 1 publisher 1',
      'sector 1 4801',
      'sector 2 4802',
      'block 4 0001CE86000000000000000000000000',
    ]);
    expect(said).toMatch(/^\d+ checks, 0 wrong$/m);
  });

  it('the file of a finished file-system card, under the key that the plan gave it', async () => {
    const memory = blankFiles({ generation: 2, masterKey: 'aes', uid: UID });
    const card = new FilesCard(memory);
    const draw = (count: number) => new Uint8Array(randomBytes(count));
    const host = new FilesHost({ transmit: async (apdu) => card.transmit(apdu, draw) }, draw);
    const plan = planSchema.parse({
      schema: 'rawbits/plan@1',
      card: { key: 'card' },
      applications: [
        {
          id: '5A0001',
          keys: ['master', 'door'],
          files: [
            {
              kind: 'standard',
              number: 1,
              size: 32,
              rights: { read: 1, write: 'never', both: 'never', change: 0 },
              fields: [{ name: 'holder', length: 20, content: { is: 'text', of: 'holder' } }],
            },
          ],
        },
      ],
    });
    const keys = standInKeys(plan);
    await bringCard(host, { plan, ring: ringOf(plan, keys), known: { values: { holder: 'Bård Nes' } }, selected: UID });
    card.powerOff();
    const said = await run(card, 'encoded', hexOf(keys('door')));
    expect(said).toContain(`file 1 ${hexOf(new TextEncoder().encode('Bård Nes')).padEnd(64, '0')}`);
    expect(said).toMatch(/^\d+ checks, 0 wrong$/m);
  });
});
