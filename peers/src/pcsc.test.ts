/**
 * PC/SC with nothing of ours between: Debian's pcscd and its virtual reader. python3-pyscard reads UID and ATS of the
 * simulated cards; our host works on them through the registry's `smartcard`, as it would on a real reader.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'esbuild';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

// Taking a network and a mount of one's own is root's alone.
describe.skipIf(process.getuid?.() !== 0)('PC/SC', () => {
  let folder: string;
  beforeAll(async () => {
    // Where the registry's package is found from.
    folder = mkdtempSync(join(import.meta.dirname, '../../node_modules/.pcsc-'));
    for (const [out, entry] of [
      ['card', 'virtualCard'],
      ['host', 'pcscHost'],
    ] as const)
      await build({
        entryPoints: [join(import.meta.dirname, `${entry}.ts`)],
        bundle: true,
        platform: 'node',
        format: 'cjs',
        external: ['smartcard'],
        outfile: join(folder, `${out}.cjs`),
      });
  });
  afterAll(() => rmSync(folder, { recursive: true, force: true }));

  const run = (kind: string, port: number): object[] => {
    const script = join(import.meta.dirname, 'pcsc.sh');
    try {
      return execFileSync('unshare', ['-mn', 'bash', script, folder, kind, String(port)], {
        encoding: 'utf8',
        timeout: 230_000,
      })
        .trim()
        .split('\n')
        .map((line) => JSON.parse(line));
    } catch (error) {
      const log = readFileSync(join(folder, `pcscd-${kind}.log`), 'utf8');
      throw new Error(`${(error as Error).message}\n${log.slice(-2000)}`);
    }
  };

  it('a file-system card: UID and ATS to python3-pyscard; authenticated, written and read enciphered by our host', () => {
    const [theirs, ours] = run('files', 0x8c80);
    // The ATR is made of the ATS by PC/SC part 3, §3.1.3.2.3.
    expect(theirs).toEqual({ atr: '3B8180018080', uid: '04A1B2C3D4E5F6', ats: '067577810280' });
    expect(ours).toEqual({
      readers: 2,
      uid: '04A1B2C3D4E5F6',
      ats: '067577810280',
      read: true,
      own: '04A1B2C3D4E5F6',
    });
  });

  it('a sector card: keys and blocks by the reader’s own commands', () => {
    const [theirs, ours] = run('sectors', 0x8c81);
    // The name of a 1K card in the list of PC/SC part 3, supplement: 00 01.
    expect(theirs).toEqual({ atr: '3B8F8001804F0CA000000306030001000000006A', uid: 'A1B2C3D4', ats: null });
    expect(ours).toEqual({
      readers: 2,
      uid: 'A1B2C3D4',
      ats: '',
      refused: 'The reader refuses reading: the key is not right, or not allowed (status 6982).',
      read: '5A'.repeat(16),
    });
  });
});
