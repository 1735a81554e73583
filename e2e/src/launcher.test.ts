/** The launcher: what it says where it cannot start, and that what was committed is there when everything was killed. */
import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { startApplication } from './application.ts';

const dist = join(import.meta.dirname, '../../dist');

describe('the launcher', () => {
  it('says so when a database elsewhere does not answer', () => {
    const away = spawnSync(process.execPath, [join(dist, 'launch.mjs'), '--port', '4399'], {
      env: {
        ...process.env,
        RAWBITS_DATA: '/tmp/rawbits-away',
        RAWBITS_DATABASE_URL: 'mysql://a:b@127.0.0.1:9/x',
        RAWBITS_LOG: 'silent',
      },
      encoding: 'utf8',
      timeout: 240_000,
    });
    expect([away.status, away.stderr]).toEqual([
      1,
      expect.stringContaining('The database at 127.0.0.1:9 does not answer'),
    ]);
  });

  it('a committed change survives kill -9 of everything', async () => {
    const application = await startApplication();
    const call = async (path: string, body?: unknown, cookie?: string) =>
      fetch(`${application.url}/api${path}`, {
        method: body ? 'POST' : 'GET',
        headers: { ...(body !== undefined && { 'content-type': 'application/json' }), ...(cookie && { cookie }) },
        body: body ? JSON.stringify(body) : undefined,
      });
    const { login, password } = OPERATORS[1];
    const signedIn = await call('/session', { login, password });
    const cookie = signedIn.headers.get('set-cookie')!.split(';')[0]!;
    const { sites } = (await signedIn.json()) as { sites: { id: string }[] };
    expect((await call(`/sites/${sites[0]!.id}/cardholders`, { name: 'Kept Through It' }, cookie)).status).toBe(200);
    const database = readFileSync(join(application.folder, 'mariadb/pid'), 'utf8').trim();
    spawnSync('kill', ['-9', String(application.process.pid), database]);
    await expect.poll(() => existsSync(`/proc/${database}`)).toBe(false);
    const again = await startApplication(application.folder);
    const { cardholders } = (await (
      await fetch(`${again.url}/api/sites/${sites[0]!.id}/cardholders`, { headers: { cookie } })
    ).json()) as { cardholders: { name: string }[] };
    expect(cardholders.map((p) => p.name)).toContain('Kept Through It');
    await again.close();
  });
});
