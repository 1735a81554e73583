/**
 * Device hosts: they dial in, each with a token that belongs to one site, and offer their devices. A server knows no
 * device by its address. Any server can ask any host: where the line is another server's, by way of the mailbox.
 */
import { createHash } from 'node:crypto';
import type { IncomingMessage, Server } from 'node:http';
import type { Duplex } from 'node:stream';
import {
  WIRE_MOST_BYTES,
  WIRE_PATH,
  WIRE_PROTOCOL,
  type WireAnswer,
  type WireMethod,
  type WireParams,
  wireCalls,
} from '@rawbits/api';
import { and, eq, isNull } from 'drizzle-orm';
import type { Logger } from 'pino';
import { type WebSocket, WebSocketServer } from 'ws';
import { type Database, isWithin, newId } from '../platform/database/index.ts';
import { marksOf } from '../platform/marks/index.ts';
import type { TrailKeeper } from '../platform/trail/keeper.ts';
import { macHolds, macOf } from '../platform/vault/index.ts';
import { HostRefusal, Line, sealedCall } from './line.ts';
import { callElsewhere, Mailbox } from './mailbox.ts';
import { allowedFrom, hostMark, namesOf, type Offering } from './offering.ts';
import { deviceHostTable, type HostRow } from './tables.ts';

const HEARTBEAT_MS = 3000;
/** A host not heard of for so long is connected nowhere. */
const LOST_AFTER_MS = 10_000;
const HELLO_WITHIN_MS = 5000;
/** Why a line is closed, beside RFC 6455 §7.4.1: the host has to know whether it is worth dialling in again at once. */
export const CLOSED = { revoked: 4401, replaced: 4409, stopping: 1001 } as const;

export const hashOfToken = (token: string): string => createHash('sha256').update(token).digest('hex');

/** The identifier of the rig that runs beside a server, made of the token that it was started with. */
export const besideId = (tokenHash: string): string => `rig-${tokenHash.slice(0, 16)}`;
export const isBeside = ({ id, tokenHash }: HostRow): boolean => id === besideId(tokenHash);

/** Whether any server has a line to it, as far as the database knows. */
export const isConnected = ({ heardAt, server }: HostRow): boolean =>
  server !== null && heardAt !== null && isWithin(heardAt, LOST_AFTER_MS);

/** A host whose line is here. */
export interface Connected {
  host: HostRow;
  line: Line;
}

export interface HostsOptions {
  /** Decides for which site a host counts that says it has been set up for one, or for none. */
  adopt(host: HostRow, theirs: string | null): Promise<string | null>;
  /** Told of a host whose line is here now. */
  connected(connected: Connected): void;
}

export class DeviceHosts {
  readonly server = newId();
  private readonly since = Date.now();
  private readonly here = new Map<string, Connected>();
  private readonly sockets = new WebSocketServer({
    noServer: true,
    maxPayload: WIRE_MOST_BYTES,
    handleProtocols: (offered) => (offered.has(WIRE_PROTOCOL) ? WIRE_PROTOCOL : false),
  });
  private readonly mailbox: Mailbox;
  private readonly heart: NodeJS.Timeout;
  private beating = Promise.resolve();

  constructor(
    private readonly app: () => { db: Database; log: Logger; trail: TrailKeeper },
    private readonly options: HostsOptions,
  ) {
    this.mailbox = new Mailbox(
      () => app().db,
      this.server,
      () => [...this.here.keys()],
      (hostId, method, params) => this.callHere(hostId, method, params),
    );
    this.heart = setInterval(() => {
      this.beating = this.beat().catch((error) => app().log.debug({ err: error }, 'the hosts are looked after later'));
    }, HEARTBEAT_MS);
    this.heart.unref();
  }

  /** Takes hosts in that dial in to an HTTP server; every other upgrade is refused. */
  attach(http: Server): void {
    http.on('upgrade', (request: IncomingMessage, socket: Duplex, head: Buffer) => {
      socket.on('error', () => socket.destroy());
      void this.admit(request).then(
        (host) => {
          if (host) this.sockets.handleUpgrade(request, socket, head, (line) => void this.take(line, host));
          else socket.end('HTTP/1.1 401 Unauthorized\r\nConnection: close\r\nContent-Length: 0\r\n\r\n');
        },
        () => socket.end('HTTP/1.1 503 Service Unavailable\r\nConnection: close\r\nContent-Length: 0\r\n\r\n'),
      );
    });
  }

  /** The host whose token the request carries; undefined where it carries none that is right. */
  private async admit(request: IncomingMessage): Promise<HostRow | undefined> {
    const [, token] = /^Bearer (\S{16,200})$/i.exec(request.headers.authorization ?? '') ?? [];
    if (token === undefined || request.url !== WIRE_PATH) return undefined;
    const [host] = await this.app()
      .db.select()
      .from(deviceHostTable)
      .where(and(eq(deviceHostTable.tokenHash, hashOfToken(token)), isNull(deviceHostTable.revokedAt)));
    if (!host) return undefined;
    const mark = (await marksOf(this.app(), this.app().db, 'device host', [hostMark(host)])).get(host.id);
    if (mark !== 'differs') return host;
    this.app().log.error({ host: host.id }, 'a device host is not as it was added: it was changed in the database');
    return undefined;
  }

  private async take(socket: WebSocket, host: HostRow): Promise<void> {
    const line = new Line(socket, host.kind === 'rig' ? 'The rig' : host.name);
    const late = setTimeout(() => line.close(1002, 'no hello'), HELLO_WITHIN_MS);
    try {
      await line.hello;
      clearTimeout(late);
      await this.begin(line, host);
    } catch (error) {
      clearTimeout(late);
      this.app().log.debug({ err: error }, 'a host was not taken in');
      line.close(1011, 'try again');
    }
  }

  private async begin(line: Line, host: HostRow): Promise<void> {
    const { db } = this.app();
    const devices = await line.call('devices', {}, HELLO_WITHIN_MS);
    const siteId = host.siteId ?? (await this.options.adopt(host, devices.site));
    const { publicKey = null } = await line.hello;
    const fence = await this.takeOver(host.id, siteId, namesOf(allowedFrom(host, devices)), publicKey);
    const [row] = await db.select().from(deviceHostTable).where(eq(deviceHostTable.id, host.id));
    if (!row || row.fence !== fence) throw new Error('another server has the line now');
    this.here.get(host.id)?.line.close(CLOSED.replaced, 'dialled in again');
    const connected = { host: row, line };
    this.here.set(host.id, connected);
    void line.ended.then(() => this.letGo(connected));
    line.serve(row.siteId);
    if (row.siteId !== null && devices.site === null) await line.call('claim', { site: row.siteId }, HELLO_WITHIN_MS);
    this.mailbox.look();
    this.options.connected(connected);
  }

  /** Notes that the line is here now; gives the number of the connection. */
  private async takeOver(
    id: string,
    siteId: string | null,
    offers: string[],
    publicKey: string | null,
  ): Promise<number> {
    const { db, trail } = this.app();
    const own = eq(deviceHostTable.id, id);
    for (;;) {
      const [row] = await db.select({ fence: deviceHostTable.fence }).from(deviceHostTable).where(own);
      const fence = (row?.fence ?? 0) + 1;
      const [taken] = await db
        .update(deviceHostTable)
        .set({
          server: this.server,
          fence,
          heardAt: new Date(),
          offers,
          publicKey,
          publicKeyMac: publicKey === null ? null : macOf(trail, 'host key', id, String(fence), publicKey),
          ...(siteId !== null && { siteId }),
        })
        .where(and(own, eq(deviceHostTable.fence, fence - 1)));
      if (taken.affectedRows > 0) return fence;
    }
  }

  private async letGo({ host, line }: Connected): Promise<void> {
    if (this.here.get(host.id)?.line === line) this.here.delete(host.id);
    await this.app()
      .db.update(deviceHostTable)
      .set({ server: null })
      .where(this.mine(host))
      .catch(() => {});
  }

  private mine({ id, fence }: HostRow) {
    return and(eq(deviceHostTable.id, id), eq(deviceHostTable.server, this.server), eq(deviceHostTable.fence, fence));
  }

  /** Keeps the rows of the lines that are here alive, and finds out what became of them elsewhere. */
  private async beat(): Promise<void> {
    const { db } = this.app();
    for (const connected of [...this.here.values()]) {
      const { host, line } = connected;
      const [kept] = await db.update(deviceHostTable).set({ heardAt: new Date() }).where(this.mine(host));
      if (kept.affectedRows === 0) line.close(CLOSED.replaced, 'another server has the line');
      await this.refresh(host.id);
    }
  }

  /** Looks at once what was changed about a host whose line is here: its site, or that it may not dial in any more. */
  async refresh(hostId: string): Promise<void> {
    const connected = this.here.get(hostId);
    if (!connected) return;
    const [row] = await this.app().db.select().from(deviceHostTable).where(eq(deviceHostTable.id, hostId));
    if (!row || row.revokedAt) return connected.line.close(CLOSED.revoked, 'its token was revoked');
    if (row.siteId !== connected.host.siteId) connected.line.serve(row.siteId);
    connected.host = { ...row, fence: connected.host.fence };
  }

  /** Carries what another server asks; what may hold a key is sealed, and by a server: whoever writes to the database is none. */
  private async callHere(hostId: string, method: WireMethod, params: unknown): Promise<unknown> {
    const connected = this.here.get(hostId);
    if (!connected) throw new HostRefusal('The host does not answer.');
    if (wireCalls[method].isSecret) {
      const { sealed = '', mac = '' } = params as { sealed?: string; mac?: string };
      if (!macHolds(mac, this.macOfSealed(hostId, method, sealed)))
        throw new HostRefusal('This is from no server of the installation.');
      return connected.line.pass(method, sealed, 60_000);
    }
    return connected.line.call(method, params as WireParams<WireMethod>, 60_000);
  }

  /** Asks a host, wherever its line is. Throws HostRefusal. */
  async call<M extends WireMethod>(
    host: HostRow,
    method: M,
    params: WireParams<M>,
    withinMs: number,
  ): Promise<WireAnswer<M>> {
    const connected = this.here.get(host.id);
    if (connected) return connected.line.call(method, params, withinMs);
    const name = host.kind === 'rig' ? 'The rig' : host.name;
    if (!isConnected(host)) throw new HostRefusal(`${name} does not answer.`);
    const until = performance.now() + withinMs;
    const isHere = () => this.here.has(host.id);
    const carried = wireCalls[method].isSecret ? await this.sealed(host, name, method, params) : params;
    const said = await callElsewhere(this.app().db, { id: host.id, name }, method, carried, withinMs, isHere);
    // It has dialled in here meanwhile: the server that had the line is gone.
    return said === 'is here' ? this.call(host, method, params, Math.max(1, until - performance.now())) : said;
  }

  private macOfSealed(hostId: string, method: WireMethod, sealed: string): string {
    return macOf(this.app().trail, 'sealed call', hostId, method, sealed);
  }

  /** What may hold a key, for the server that has the line: sealed to the key that the host made when it dialled in there. */
  private async sealed(host: HostRow, name: string, method: WireMethod, params: unknown) {
    const { db, trail } = this.app();
    const [row] = await db.select().from(deviceHostTable).where(eq(deviceHostTable.id, host.id));
    const { publicKey = null, publicKeyMac = null, fence = 0 } = row ?? {};
    if (
      publicKey !== null &&
      !macHolds(publicKeyMac ?? '', macOf(trail, 'host key', host.id, String(fence), publicKey))
    )
      throw new HostRefusal(`The key of ${name} was changed in the database. Have it dial in again.`);
    const sealed = await sealedCall(name, publicKey, method, params);
    return { sealed, mac: this.macOfSealed(host.id, method, sealed) };
  }

  /** Whether a host answers within a time, or is connected to another server. */
  async hears(hostId: string, withinMs: number): Promise<boolean> {
    const connected = this.here.get(hostId);
    if (connected)
      return connected.line.call('devices', {}, withinMs).then(
        () => true,
        () => false,
      );
    const [row] = await this.app().db.select().from(deviceHostTable).where(eq(deviceHostTable.id, hostId));
    // What was noted well before this server began may be of one that is gone.
    return (
      row?.heardAt != null &&
      row.heardAt.getTime() > Math.min(this.since, Date.now()) - HEARTBEAT_MS - 1000 &&
      isConnected(row)
    );
  }

  /** Whether the line of a host is here. */
  hasLine(hostId: string): boolean {
    return this.here.has(hostId);
  }

  /** The lines that are here. */
  get lines(): Connected[] {
    return [...this.here.values()];
  }

  /** Notes what a host offers now that it was set up anew. */
  async noteOffers(host: HostRow, devices: Offering): Promise<void> {
    await this.app()
      .db.update(deviceHostTable)
      .set({ offers: namesOf(allowedFrom(host, devices)) })
      .where(eq(deviceHostTable.id, host.id));
  }

  forget(): Promise<void> {
    return this.mailbox.forget();
  }

  async close(): Promise<void> {
    clearInterval(this.heart);
    this.mailbox.close();
    await this.beating;
    const lines = this.lines;
    for (const { line } of lines) line.close(CLOSED.stopping, 'the server stops');
    await Promise.all(lines.map(({ line }) => line.ended));
    this.sockets.close();
  }
}
