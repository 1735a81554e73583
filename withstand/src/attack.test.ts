/**
 * Attempts of an attacker and of too many hands at once, on a running Raw Bits of their own: bounded in number and time,
 * on loopback only. Each is a danger that was once real.
 */
import { once, setMaxListeners } from 'node:events';
import { get } from 'node:http';
import { connect } from 'node:net';
import { afterAll, beforeAll, describe, expect } from 'vitest';
import { WebSocket } from 'ws';
import { PASSPHRASE } from '../../demo/src/keys.ts';
import { OPERATORS } from '../../demo/src/skerryPoint.ts';
import { type Application, startApplication } from '../../e2e/src/application.ts';
import { attempt, printAttempts } from './attempts.ts';
import { planOf, spyingHost } from './spyingHost.ts';
import { Client, signedIn, sleep, until } from './target.ts';

describe('an attacker', () => {
  let application: Application;
  let administrator: Client;
  let technician: Client;
  let site: string;
  let other: string;
  let outsider: Client;
  let endless: Promise<number[]>;
  printAttempts('What an attacker tried');
  beforeAll(async () => {
    application = await startApplication();
    administrator = await signedIn(application, 'administrator');
    technician = await signedIn(application, 'technician');
    [{ id: site }, { id: other }] = (await administrator.must('GET', '/sites')).sort(
      (a: { hasRig: boolean }, b: { hasRig: boolean }) => Number(b.hasRig) - Number(a.hasRig),
    );
    const first = 'green buoys at low tide';
    await administrator.must('POST', `/sites/${other}/operators`, {
      login: 'ferry',
      name: 'Ferry Hand',
      roles: ['technician'],
      password: first,
    });
    outsider = new Client(application.url);
    await outsider.must('POST', '/session', { login: 'ferry', password: first });
    await outsider.must('POST', '/session/password', { current: first, next: 'red buoys at high tide' });
    endless = sendWithoutEnd(application.url);
  });
  afterAll(() => application?.close());

  /** Asks something small again and again while `work` goes on; the longest that it took to be answered. */
  async function meanwhile(work: Promise<unknown>): Promise<{ asked: number; longestMs: number }> {
    let [asked, longestMs, done] = [0, 0, false];
    const ended = work.finally(() => (done = true));
    while (!done) {
      const began = performance.now();
      await technician.must('GET', '/session');
      longestMs = Math.max(longestMs, performance.now() - began);
      asked++;
    }
    await ended;
    return { asked, longestMs: Math.round(longestMs) };
  }
  const told = ({ asked, longestMs }: { asked: number; longestMs: number }) =>
    `${asked} others answered meanwhile, the slowest in ${longestMs} ms`;

  attempt('a technician of another site loads the boat shed', async () => {
    let tried = 0;
    for (const device of [
      'boat-shed/../boat-shed',
      'x/../boat-shed',
      '../boat-shed',
      '%2e%2e/boat-shed',
      'boat-shed?',
    ]) {
      expect((await outsider.call('POST', `/sites/${other}/controllers`, { name: 'C', device })).status).toBe(422);
      tried++;
    }
    const controllers = await technician.must('GET', `/sites/${site}/controllers`);
    const shed = controllers.find((c: { device: string }) => c.device === 'boat-shed');
    expect((await outsider.call('POST', `/sites/${site}/controllers/${shed.id}/loads`)).status).toBe(404);
    expect((await outsider.call('POST', `/sites/${other}/controllers/${shed.id}/loads`)).status).toBe(404);
    const same = await outsider.must('POST', `/sites/${other}/controllers`, { name: 'Mine', device: 'boat-shed' });
    await outsider.must('POST', `/sites/${other}/controllers/${same.id}/loads`);
    await sleep(500);
    const load = (await outsider.must('GET', `/sites/${other}/controllers/${same.id}`)).load;
    expect([load.state, load.message]).toEqual(['failed', expect.stringContaining('No host of this site offers')]);
    const after = (await technician.must('GET', `/sites/${site}/controllers/${shed.id}`)).standing;
    expect(after).toBe(shed.standing);
    return `${tried + 3} ways refused, the shed is as it was`;
  });

  attempt('half characters in every text of the API break no record', async () => {
    const half = 'A\ud83d';
    const sent = [
      ['/cardholders', { name: half }],
      ['/cardholders', { name: 'A', department: half }],
      ['/cards', { formatId: '26-8-16', facility: '58', number: '1', printed: half }],
      ['/cards', { formatId: '26-8-16', facility: '58', number: '1', notes: half }],
      ['/cases', { name: half }],
      ['/cases', { name: 'C', specimens: [{ bits: '1', source: half }] }],
      ['/facility-codes', { formatId: null, code: '9', name: half }],
      ['/controllers', { name: half, device: 'half' }],
      ['/reads', { bits: '1', notation: half }],
    ] as const;
    for (const [path, body] of sent)
      expect([path, (await technician.call('POST', `/sites/${site}${path}`, body)).status]).toEqual([path, 422]);
    await technician.call('POST', '/session', { login: half, password: half });
    const verified = await technician.must('GET', `/sites/${site}/trail/verification`);
    const house = await administrator.must('GET', '/trail/verification');
    expect([verified.message, house.message].map((m) => m.startsWith('All '))).toEqual([true, true]);
    return `${sent.length + 1} refused; ${verified.message}`;
  });

  attempt('10 MB of brackets from nobody, eight at once', async () => {
    const nobody = new Client(application.url);
    const brackets = '['.repeat(10_000_000);
    const paths = ['/session', '/setup', '/formats/import', `/sites/${site}/cases`];
    const statuses: number[] = [];
    const flood = async (path: string) => {
      // A server that answers before it has read everything may close the line while the rest is still being sent.
      const status = await nobody.call('POST', path, brackets).then(
        (answer) => answer.status,
        () => 0,
      );
      statuses.push(status);
    };
    const seen = await meanwhile(Promise.all([...paths, ...paths].map(flood)));
    expect(statuses.every((status) => [0, 401, 413].includes(status))).toBe(true);
    return told(seen);
  });

  attempt('imports of 4 MB of nonsense by a technician', async () => {
    const texts = [
      ['lines', 'x\n'.repeat(2_000_000)],
      ['json', `[${'{},'.repeat(500_000)}{}]`],
      ['csv', `format,bits,role,at\n${'\n'.repeat(4_000_000)}`],
      ['json', '['.repeat(4_000_000)],
    ];
    const imports = texts.map(([kind, text]) => technician.call('POST', '/formats/import', { kind, text }));
    const seen = await meanwhile(Promise.all(imports));
    for (const answer of await Promise.all(imports)) expect([200, 422]).toContain(answer.status);
    return told(seen);
  });

  attempt('a case of a million empty specimens', async () => {
    const body = `{"name":"C","specimens":[${'{},'.repeat(999_999)}{}]}`;
    const sent = technician.call('POST', `/sites/${site}/cases`, body);
    const seen = await meanwhile(sent);
    expect((await sent).status).toBe(413);
    return told(seen);
  });

  attempt('forty verifications at once', async () => {
    const asked = Array.from({ length: 40 }, () => technician.must('GET', `/sites/${site}/trail/verification`));
    const seen = await meanwhile(Promise.all(asked));
    expect((await Promise.all(asked)).every(({ intact }) => intact)).toBe(true);
    return told(seen);
  });

  attempt('sixteen exports broken off, thirteen that nobody reads, and frames without end from a desk', async () => {
    const ask = (cookie: string) =>
      new Promise<number>((resolve, reject) => {
        const path = `/api/sites/${site}/export?history=true`;
        get(`${application.url}${path}`, { agent: false, headers: { cookie } }, (answer) => {
          answer.on('error', () => {});
          answer.pause();
          setTimeout(() => answer.destroy(), 300);
          resolve(answer.statusCode!);
        }).on('error', reject);
      });
    const statuses = await Promise.all(Array.from({ length: 29 }, () => ask(administrator.cookie)));
    const { token } = await administrator.must('POST', `/sites/${site}/hosts`, { name: `Frames ${Date.now()}` });
    const frames = Promise.all(
      ['['.repeat(7_000_000), `[${'{},'.repeat(2_000_000)}{}]`].map(async (frame) => {
        const address = `${application.url.replace('http', 'ws')}/api/hosts/line`;
        const socket = new WebSocket(address, 'rawbits-host.1', { headers: { authorization: `Bearer ${token}` } });
        await once(socket, 'open');
        socket.send(frame);
        return (await once(socket, 'close'))[0] as number;
      }),
    );
    const seen = await meanwhile(frames);
    expect(await frames).toEqual([1009, 1009]);
    expect(statuses.every((status) => status === 200 || status === 503)).toBe(true);
    await until('exports go on', async () => (await ask(administrator.cookie)) === 200);
    return told(seen);
  });

  attempt(
    'an administrator alone, and a technician with a desk’s token, have keys sent to a reader of their own',
    async () => {
      await unlocked();
      const seen: string[] = [];
      for (const kind of ['rig', 'desk']) {
        const added = { name: `Own ${kind} ${Date.now()}`, kind, allows: ['readers', 'pads'] };
        const { token } = await administrator.must('POST', `/sites/${site}/hosts`, added);
        for (const who of [administrator, technician]) {
          const own = spyingHost(application.url, kind as 'rig' | 'desk', token);
          try {
            seen.push(await askedFor(who, own));
            expect(own.heard.filter((line) => line.includes('setReader') || line.includes('hex'))).toEqual([]);
          } finally {
            await own.dial.close();
          }
        }
      }
      return seen.join('; ');
    },
  );

  /** Has every key of a plan of one's own sent to a reader of one's own, in turn; what came of it. */
  async function askedFor(who: Client, own: ReturnType<typeof spyingHost>): Promise<string> {
    const sets = await who.must('GET', `/sites/${site}/keys`);
    const wanted = sets.flatMap((set: any) =>
      set.keys
        .filter((key: any) => key.kind === 'aes128' && key.current)
        .map((key: any) => ({ set: set.name, key: key.name })),
    );
    await until('it offers its reader', async () =>
      (await administrator.must('GET', `/sites/${site}/hosts`)).some(({ devices }: any) =>
        devices.includes(own.device),
      ),
    );
    const made = { name: own.device, kind: 'door', device: own.device, controllerId: null };
    const reader = await who.must('POST', `/sites/${site}/readers`, made);
    const codes = new Map<string, number>();
    for (const from of wanted) {
      const plan = await who.must('POST', `/sites/${site}/plans`, { plan: planOf(from, 'card'), evenSo: true });
      const at = { in: 'file', application: '5A00F1', file: 1, field: 'number' };
      const answer = await who.call('PUT', `/sites/${site}/readers/${reader.id}/plan`, { planId: plan.id, at });
      const code = answer.status === 200 ? 'SENT' : answer.body.error.code;
      codes.set(code, (codes.get(code) ?? 0) + 1);
    }
    expect([...codes.keys()].sort()).toEqual(['key-card-master', 'key-not-to-readers', 'key-use-waits']);
    return [...codes].map(([code, count]) => `${count} ${code}`).join(', ');
  }

  attempt('a technician alone has the keys of the store put on a blank of their own, as they are', async () => {
    await unlocked();
    const codes: string[] = [];
    const [pad] = await technician.must('GET', `/sites/${site}/pads`);
    const sets = await technician.must('GET', `/sites/${site}/keys`);
    for (const set of sets)
      for (const key of set.keys.filter((one: any) => one.kind === 'aes128' && one.current)) {
        const plan = planOf({ set: set.name, key: key.name }, 'all');
        const { id } = await technician.must('POST', `/sites/${site}/plans`, { plan, evenSo: true });
        const cards = { from: 'next numbers', formatId: '26-8-16', facility: '58', count: 1 };
        const run = { kind: 'encode', planId: id, pads: [pad.id], cards };
        const answer = await technician.call('POST', `/sites/${site}/runs`, run);
        codes.push(answer.status === 200 ? `STARTED ${key.name}` : answer.body.error.code);
      }
    expect(new Set(codes)).toEqual(new Set(['key-as-it-is']));
    return `${codes.length} keys, none of them started`;
  });

  /** The key store is open, as on any working day. */
  async function unlocked(): Promise<void> {
    const { login, password } = OPERATORS.find((one) => one.login === 'eirik')!;
    const custodian = new Client(application.url);
    await custodian.must('POST', '/session', { login, password });
    await custodian.must('POST', `/sites/${site}/key-store/unlock`, { passphrase: PASSPHRASE });
  }

  attempt('500 live streams by one viewer', async () => {
    // Held on to: a body that nobody refers to any more is cancelled by the collector, and frees its place.
    const opened: Response[] = [];
    const abort = new AbortController();
    setMaxListeners(0, abort.signal);
    for (let i = 0; i < 500; i += 100) {
      const batch = Array.from({ length: 100 }, () =>
        fetch(`${application.url}/api/sites/${site}/live`, {
          headers: { cookie: technician.cookie },
          signal: abort.signal,
        }),
      );
      for (const response of await Promise.all(batch)) {
        if (response.status === 200) opened.push(response);
        else await response.text();
      }
    }
    expect(opened.map(({ bodyUsed }) => bodyUsed)).toEqual(Array(8).fill(false));
    abort.abort();
    return 'eight were opened';
  });

  attempt('sixty guesses at once on one name, then the right password from a colleague’s machine', async () => {
    const began = Date.now();
    const guesses = Array.from({ length: 60 }, (_, i) =>
      new Client(application.url).call('POST', '/session', { login: 'petter', password: `guess ${i}` }),
    );
    const looked = (await Promise.all(guesses)).filter(({ status }) => status === 401).length;
    // Three, and one more for each wait (1, 2, 4 … s) that was over before the last guess came in.
    const most = 3 + Math.floor(Math.log2(1 + (Date.now() - began) / 1000));
    expect([looked >= 1, looked <= most]).toEqual([true, true]);
    const colleague = await signedIn(application, 'technician');
    expect(colleague.cookie).not.toBe('');
    return `${looked} were looked at; a colleague at the same address signs in`;
  });

  attempt('a missing file tells where the application lies', async () => {
    const seen: string[] = [];
    for (const path of ['/assets/none.js', '/assets/../../package.json', '/assets/%2e%2e/server.mjs', '/api/none']) {
      const response = await fetch(`${application.url}${path}`);
      seen.push(`${response.status} ${await response.text()}`);
    }
    expect(seen.filter((text) => /dist|node_modules|ENOENT|\/work|rawbits-e2e/.test(text))).toEqual([]);
    expect(seen[0]).toContain('404');
    return `${seen.length} addresses told nothing`;
  });

  attempt('a session goes on after its end', async () => {
    const leaving = await signedIn(application, 'technician');
    const stream = await fetch(`${application.url}/api/sites/${site}/live`, { headers: { cookie: leaving.cookie } });
    const token = leaving.cookie;
    await leaving.must('DELETE', '/session');
    for await (const _chunk of stream.body!) {
      // Until the server ends it.
    }
    leaving.cookie = token;
    expect((await leaving.call('GET', '/session')).status).toBe(401);
    return 'its token opens nothing, its stream has ended';
  });

  attempt('two administrators demote each other at once', async () => {
    const password = 'oars and nets and rope';
    const people: Client[] = [];
    const ids: string[] = [];
    for (const login of ['skipper', 'mate']) {
      const first = `first ${password}`;
      const { id } = await administrator.must('POST', `/sites/${site}/operators`, {
        login,
        name: login,
        roles: ['administrator'],
        password: first,
      });
      const client = new Client(application.url);
      await client.must('POST', '/session', { login, password: first });
      await client.must('POST', '/session/password', { current: first, next: password });
      people.push(client);
      ids.push(id);
    }
    const operators = await people[0]!.must('GET', `/sites/${site}/operators`);
    for (const { id, roles } of operators)
      if (roles.includes('administrator') && !ids.includes(id))
        await people[0]!.must('PATCH', `/sites/${site}/operators/${id}`, { roles: { [site]: ['viewer'] } });
    const statuses = await Promise.all(
      people.map((p, i) =>
        p.call('PATCH', `/sites/${site}/operators/${ids[1 - i]}`, { roles: { [site]: ['viewer'] } }),
      ),
    );
    const roles = await Promise.all(people.map((p) => p.must('GET', '/session')));
    const left = roles.filter((r) =>
      r.sites.some((s: { id: string; roles: string[] }) => s.id === site && s.roles.includes('administrator')),
    );
    expect(left.length).toBe(1);
    return `one of them is left (${statuses.map(({ status }) => status).join(', ')})`;
  });

  attempt('bodies that never end, begun with all of the above', async () => {
    const lasted = await endless;
    expect(Math.max(...lasted)).toBeLessThan(60_000);
    return `twenty were ended after ${Math.round(Math.max(...lasted) / 1000)} s`;
  });
});

/** Begins twenty requests whose bodies are not sent to their end; gives how long each was let live. */
function sendWithoutEnd(url: string): Promise<number[]> {
  const { port } = new URL(url);
  const one = () =>
    new Promise<number>((resolve) => {
      const began = performance.now();
      const socket = connect(Number(port), '127.0.0.1', () =>
        socket.write(
          `POST /api/session HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\ncontent-type: application/json\r\ncontent-length: 1000\r\n\r\n{`,
        ),
      );
      socket.resume().on('error', () => {});
      socket.on('close', () => resolve(performance.now() - began));
    });
  return Promise.all(Array.from({ length: 20 }, one));
}
