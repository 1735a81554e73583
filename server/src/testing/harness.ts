/** What the server's tests stand on: a database of their own, servers on it, people signed in, a rig. */
import { randomBytes } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  type Answer as ApiAnswer,
  addressOf,
  approvalApi,
  type Body,
  type DryRunState,
  doorApi,
  dryRunApi,
  formatApi,
  operatorApi,
  type Params,
  type Role,
  type Route,
  rigApi,
  type Session,
  sessionApi,
} from '@rawbits/api';
import { catalogued } from '@rawbits/core/catalogue';
import { encode } from '@rawbits/core/codec';
import { createPool, type Pool, type RowDataPacket } from 'mysql2/promise';
import type { Clock } from '../../../rig/src/clock/clock.ts';
import { dialIn } from '../../../rig/src/wire/calls.ts';
import { Rig } from '../../../rig/src/world/rig.ts';
import { serverLog } from '../platform/settings/log.ts';
import { type RunningServer, type ServerOptions, startServer } from '../start.ts';
import { migrationsFolder, TEMPLATE } from './template.ts';

export const PASSWORD = 'a-long-enough-one';
const SETUP_TOKEN = 'setup-token';
const RIG_TOKEN = 'token-of-the-rig-beside';

/** A database on the test run's MariaDB: empty of all but the tables, or without those, too. */
export async function newDatabase({ migrated = true } = {}): Promise<string> {
  const url = new URL(process.env.RAWBITS_TEST_DATABASE_URL!);
  const name = `rawbits_${randomBytes(6).toString('hex')}`;
  const pool = createPool(url.href);
  await pool.query(`CREATE DATABASE ${name} CHARACTER SET utf8mb4`);
  if (migrated) await copyTables(pool, TEMPLATE, name);
  await pool.end();
  url.pathname = `/${name}`;
  return url.href;
}

async function copyTables(pool: Pool, from: string, to: string): Promise<void> {
  const [tables] = await pool.query<RowDataPacket[]>(
    'SELECT table_name AS name FROM information_schema.tables WHERE table_schema = ?',
    [from],
  );
  for (const { name } of tables) await pool.query('CREATE TABLE ??.?? LIKE ??.??', [to, name, from, name]);
  await pool.query('INSERT INTO ??.migrations_done SELECT * FROM ??.migrations_done', [to, from]);
}

export interface Answer<T = any> {
  status: number;
  body: T;
  headers: Headers;
}

/** A browser's worth of client: it keeps its cookie. */
export class Person {
  cookie = '';
  constructor(readonly port: number) {}

  async call<T = any>(
    method: string,
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ): Promise<Answer<T>> {
    const response = await fetch(`http://127.0.0.1:${this.port}/api${path}`, {
      method,
      headers: {
        ...(this.cookie && { cookie: this.cookie }),
        ...(body !== undefined && { 'content-type': 'application/json' }),
        ...headers,
      },
      body:
        body === undefined || typeof body === 'string' || body instanceof Uint8Array
          ? (body as RequestInit['body'])
          : JSON.stringify(body),
    });
    const set = response.headers.getSetCookie().find((c) => c.startsWith('rawbits_session='));
    if (set) this.cookie = set.split(';')[0]!;
    const text = await response.text();
    return {
      status: response.status,
      headers: response.headers,
      body: (response.headers.get('content-type')?.startsWith('application/json') ? JSON.parse(text) : text) as T,
    };
  }

  /** As `call`, but anything else than 200 fails the test with what was said. */
  async do<T = any>(method: string, path: string, body?: unknown): Promise<T> {
    const answer = await this.call<T>(method, path, body);
    if (answer.status !== 200) throw new Error(`${method} ${path}: ${answer.status} ${JSON.stringify(answer.body)}`);
    return answer.body;
  }

  /** As `do`, by a route of the API: what is sent and what comes back are of its types. */
  ask<T extends Route>(route: T, params: Params<T>, body?: Body<T>): Promise<ApiAnswer<T>> {
    return this.do(route.method.toUpperCase(), addressOf(route, params), body);
  }

  signIn(login: string, password = PASSWORD): Promise<Session> {
    return this.ask(sessionApi.signIn, {}, { login, password });
  }
}

export interface House {
  server: RunningServer;
  databaseUrl: string;
  stateFolder: string;
  rig: Rig;
  /** The administrator of the first site, signed in. */
  administrator: Person;
  site: string;
  /** Starts one more server on the same database and state. */
  another(options?: Partial<ServerOptions>): Promise<RunningServer>;
  /** Adds somebody with a role at the site (or another), their first password changed, signed in. */
  person(login: string, role: Role, site?: string): Promise<Person>;
  close(): Promise<void>;
}

/** A server with its database (or the one that is given), a rig beside it (by a clock that may be set), one site and its administrator. */
export async function openHouse(givenUrl?: string, clock?: Clock): Promise<House> {
  const databaseUrl = givenUrl ?? (await newDatabase());
  const folder = mkdtempSync(join(tmpdir(), 'rawbits-house-'));
  const stateFolder = join(folder, 'state');
  const rig = new Rig(join(folder, 'rig'), clock);
  const servers: RunningServer[] = [];
  const another = async (options: Partial<ServerOptions> = {}) => {
    const server = await startServer({
      databaseUrl,
      migrationsFolder,
      stateFolder,
      rigToken: RIG_TOKEN,
      setupToken: SETUP_TOKEN,
      port: 0,
      workerFile: process.env.RAWBITS_TEST_WORKER,
      log: serverLog(process.env.RAWBITS_LOG ?? 'silent'),
      // What a test steers must not be done behind its back.
      housekeeping: 'stepped',
      ...options,
    });
    servers.push(server);
    return server;
  };
  const server = await another();
  let dial: ReturnType<typeof dialIn> | undefined;
  await new Promise<void>((connected) => {
    // In turn those that run: a test may stop the first.
    const running = () => servers.filter(({ closed }) => !closed).map(({ port }) => `http://127.0.0.1:${port}`);
    dial = dialIn(rig, { servers: running, token: RIG_TOKEN, version: 'test', pieceMs: 1, connected });
  });
  const administrator = new Person(server.port);
  const site = { name: 'Test Station', shortName: 'Test', hasRig: true };
  const made = await administrator.ask(
    sessionApi.setup,
    {},
    { token: SETUP_TOKEN, login: 'admin', name: 'Admin', password: PASSWORD, site },
  );
  await administrator.signIn('admin');
  let secondPerson: Promise<Person> | undefined;
  /** A second administrator, for what takes two. */
  const second = () => (secondPerson ??= person('second-admin', 'administrator'));
  const person = async (login: string, role: Role, at = made.siteId): Promise<Person> => {
    const first = { login, name: login, roles: [role], password: `first-${PASSWORD}` };
    const added = await administrator.ask(operatorApi.add, { site: at }, first);
    if ('awaiting' in added) await (await second()).ask(approvalApi.agree, { site: at, id: added.awaiting.id });
    const someone = new Person(server.port);
    await someone.signIn(login, `first-${PASSWORD}`);
    await someone.ask(sessionApi.changePassword, {}, { current: `first-${PASSWORD}`, next: PASSWORD });
    return someone;
  };
  const close = async () => {
    await dial!.close();
    for (const s of servers) await s.close();
    rmSync(folder, { recursive: true, force: true });
  };
  return { server, databaseUrl, stateFolder, rig, administrator, site: made.siteId, another, person, close };
}

export const BOAT_BITS = encode(catalogued('37-16-19')!, { facility: '2214', number: '118406' }).toBinary();

/** One controller with a door's reader, one enrolment reader, and a 37-bit card in the tray. */
export async function furnish(house: House): Promise<{ controller: string; door: string; pad: string }> {
  const { administrator, site } = house;
  await administrator.ask(
    rigApi.setUp,
    { site },
    {
      cards: [{ id: 'boat', shape: 'card', printed: '118406', look: 'no name', bits: BOAT_BITS }],
      readers: [
        { id: 'door', controller: 'shed' },
        { id: 'pad', controller: null },
      ],
      controllers: [{ id: 'shed' }],
    },
  );
  await administrator.ask(formatApi.adopt, { site, format: '26-8-16' });
  const controller = await administrator.ask(doorApi.add, { site }, { name: 'Shed', device: 'shed' });
  await administrator.ask(doorApi.setFormats, { site, id: controller.id }, { formats: ['26-8-16'] });
  const addReader = (reader: Body<typeof doorApi.addReader>) => administrator.ask(doorApi.addReader, { site }, reader);
  const door = await addReader({ name: 'Shed door', kind: 'door', device: 'door', controllerId: controller.id });
  const pad = await addReader({ name: 'Pad', kind: 'enrolment', device: 'pad' });
  return { controller: controller.id, door: door.id, pad: pad.id };
}

/** Keeps the loads of servers from taking force until it is told to let them. */
export function holdLoads(servers: readonly RunningServer[]): () => void {
  let release = () => {};
  const held = new Promise<void>((resolve) => {
    release = resolve;
  });
  const undo = servers.map(({ app }) => {
    const { devices } = app;
    const { commitLoad } = devices;
    devices.commitLoad = async (...commit) => {
      await held;
      return commitLoad.apply(devices, commit);
    };
    return () => {
      devices.commitLoad = commitLoad;
    };
  });
  return () => {
    release();
    for (const end of undo) end();
  };
}

/** Loads a controller and waits until it is done. */
export async function loadAndWait(person: Person, path: string): Promise<{ state: string; message: string }> {
  await person.do('POST', `${path}/loads`);
  const { load } = await eventually(
    () => person.do('GET', path),
    ({ load }) => load.state !== 'running',
  );
  return load;
}

/** Has a controller accept some formats by a dry run, however many cards that refuses. */
export async function acceptByDryRun(
  person: Person,
  site: string,
  controller: string,
  formats: string[],
): Promise<DryRunState> {
  const { id } = await person.ask(dryRunApi.start, { site }, { kind: 'accept', controller, formats });
  const { result } = await eventually(
    () => person.ask(dryRunApi.one, { site, id }),
    ({ state }) => state !== 'running',
  );
  return person.ask(dryRunApi.apply, { site, id }, { refuses: result!.cards['newly refused'] });
}

const PATIENCE_MS = 60_000;

/** Asks until the answer is as wanted, for as long as a busy machine may take; `step` comes before each asking. */
export async function eventually<T>(
  ask: () => Promise<T>,
  wanted: (answer: T) => boolean,
  step: () => Promise<unknown> = async () => {},
): Promise<T> {
  for (const began = performance.now(); ; await new Promise((resolve) => setTimeout(resolve, 25))) {
    await step();
    const answer = await ask();
    if (wanted(answer)) return answer;
    if (performance.now() - began > PATIENCE_MS) throw new Error(`it did not come to it: ${JSON.stringify(answer)}`);
  }
}
