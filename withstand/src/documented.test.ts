/** What docs/running.md says, run as it stands there: the proxy in front, and the backup of every night. */
import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { type IncomingMessage, request } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect } from 'vitest';
import { WebSocket } from 'ws';
import { freePort } from '../../bin/lib/ports.ts';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { type Application, startApplication } from '../../e2e/src/application.ts';
import { attempt, printAttempts } from './attempts.ts';
import { until } from './target.ts';

const NAME = 'rawbits.station.example';
const DOCUMENT = readFileSync(join(process.cwd(), 'docs/running.md'), 'utf8');

/** The lines for nginx, as they stand in the document. */
function nginxLines(): string {
  const [, block] = /With nginx:\n\n((?: {4}.*\n)+)/.exec(DOCUMENT)!;
  return block!;
}

describe('the document about running it', () => {
  let folder: string;
  let application: Application;
  let nginx: ChildProcess;
  let port: number;
  printAttempts('What the document says');
  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), 'rawbits-documented-'));
    application = await startApplication(undefined, [], {
      RAWBITS_PUBLIC_URL: `https://${NAME}`,
      RAWBITS_TRUSTED_PROXIES: '127.0.0.1',
    });
    port = await freePort();
    const temporary = ['client_body', 'proxy', 'fastcgi', 'uwsgi', 'scgi'].map(
      (what) => `${what}_temp_path ${join(folder, what)};`,
    );
    const own = new URL(application.url).port;
    writeFileSync(
      join(folder, 'nginx.conf'),
      `${process.getuid?.() === 0 ? 'user root;' : ''} daemon off; pid ${join(folder, 'pid')}; error_log stderr; events {}
       http { access_log off; ${temporary.join(' ')}
       server { listen 127.0.0.1:${port}; server_name ${NAME};\n${nginxLines().replace('127.0.0.1:4310', `127.0.0.1:${own}`)}}}\n`,
    );
    nginx = spawn('/usr/sbin/nginx', ['-c', join(folder, 'nginx.conf'), '-e', 'stderr'], {
      stdio: ['ignore', 'inherit', 'inherit'],
    });
    await until('nginx answers', async () => (await ask('GET', '/api/health')).statusCode === 200, 10_000);
  });
  afterAll(async () => {
    nginx?.kill('SIGTERM');
    await application?.close();
    rmSync(folder, { recursive: true, force: true });
  });

  let cookie = '';
  /** Asks through the proxy under the name that people use; the answer's body is not read. */
  const ask = (method: string, path: string, body?: string): Promise<IncomingMessage> =>
    new Promise((resolve, reject) => {
      const headers = {
        host: NAME,
        ...(cookie && { cookie }),
        ...(body !== undefined && {
          'content-type': 'application/json',
          'content-length': Buffer.byteLength(body),
          origin: `https://${NAME}`,
        }),
      };
      request({ host: '127.0.0.1', port, method, path, headers, agent: false }, resolve).on('error', reject).end(body);
    });
  const textOf = async (answer: IncomingMessage): Promise<string> => {
    let text = '';
    for await (const chunk of answer) text += chunk;
    return text;
  };

  attempt('nginx in front of it', async () => {
    const { login, password } = OPERATORS.find(({ roles }) => (roles as readonly string[]).includes('administrator'))!;
    const signedIn = await ask('POST', '/api/session', JSON.stringify({ login, password }));
    const [set = ''] = signedIn.headers['set-cookie'] ?? [];
    // Behind TLS the cookie goes over TLS alone.
    expect([signedIn.statusCode, /; Secure/i.test(set)]).toEqual([200, true]);
    cookie = set.split(';')[0]!;
    expect(signedIn.headers['strict-transport-security']).toBe('max-age=31536000');
    // More than nginx lets through unless told otherwise; Raw Bits takes ten times as much of such a file.
    const large = await ask(
      'POST',
      '/api/formats/import',
      JSON.stringify({ kind: 'lines', text: 'x\n'.repeat(1_500_000) }),
    );
    expect(large.statusCode).toBe(200);
    const sites = JSON.parse(await textOf(await ask('GET', '/api/sites'))) as { id: string; hasRig: boolean }[];
    const { id } = sites.find(({ hasRig }) => hasRig)!;
    // The feed comes as it is written, and is not kept back.
    const live = await ask('GET', `/api/sites/${id}/live`);
    expect(String((await once(live, 'data'))[0])).toContain('event: hello');
    live.destroy();
    const added = JSON.parse(await textOf(await ask('POST', `/api/sites/${id}/hosts`, '{"name":"Behind the proxy"}')));
    const socket = new WebSocket(`ws://127.0.0.1:${port}/api/hosts/line`, 'rawbits-host.1', {
      headers: { host: NAME, authorization: `Bearer ${added.token}` },
    });
    await once(socket, 'open');
    socket.terminate();
    return 'signs in, takes 3 MB, streams the feed, lets a device host dial in';
  });

  attempt('the backup of every night', async () => {
    const backups = join(folder, 'backups');
    mkdirSync(backups);
    writeFileSync(join(folder, 'passphrase'), 'a passphrase for the safe\n');
    for (const [name, days] of [
      ['old', 31],
      ['recent', 29],
    ] as const) {
      writeFileSync(join(backups, `${name}.rawbits`), '');
      const at = Date.now() / 1000 - days * 86_400;
      utimesSync(join(backups, `${name}.rawbits`), at, at);
    }
    const said = execFileSync(
      join(process.cwd(), 'packaging/nightly-backup'),
      [backups, join(folder, 'passphrase'), '30'],
      {
        env: { ...process.env, RAWBITS_DATA: application.folder, RAWBITS_DATABASE_URL: '' },
        encoding: 'utf8',
      },
    );
    expect(said).toContain('all as they were');
    expect(readdirSync(backups).sort()).toEqual([
      expect.stringMatching(/^\d{4}-\d\d-\d\dT\d{6}\.rawbits$/),
      'recent.rawbits',
    ]);
    return 'written, verified, and what is older than thirty days is gone';
  });
});
