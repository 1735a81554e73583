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
import { blankFiles, blankSectors, FilesCard, SectorsCard } from '@rawbits/core/chip';
import { bytesOf } from '@rawbits/core/cipher';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { type Card, Pn532 } from './pn532.ts';

const UID = bytesOf('04A1B2C3D4E5F6', 'uid');

describe('libfreefare on a simulated reader', () => {
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
});
