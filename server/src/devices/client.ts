/** The line to the rig: its published interface over HTTP on loopback. */

import type { TrayCard } from '@rawbits/api';
import type { Decision, ItemChange } from '@rawbits/core/access';

export interface RigDevices {
  /** The site that the rig was set up for; null while it is set up for none. */
  site: string | null;
  cards: TrayCard[];
  controllers: { id: string; digest: string; size: number }[];
}

/** What a rig is made of, as its interface takes it. */
export interface RigSetup {
  site: string;
  cards: (TrayCard & { bits: string })[];
  readers: { id: string; controller: string | null }[];
  controllers: { id: string }[];
}

/** One entry of the rig's log: a credential was presented at a reader. */
export interface RigLogEntry {
  seq: number;
  /** Names this entry alone, whatever becomes of the numbers. */
  id: string;
  at: string;
  reader: string;
  controller: string | null;
  bits: string;
  decision: Decision | null;
}

export interface RigLog {
  epoch: string;
  site: string | null;
  entries: RigLogEntry[];
}

/** What the rig, or the line to it, answered instead of doing it: a sentence for people. */
export class RigRefusal extends Error {}

export type Parts = { digests: Record<string, string> } | { hashes: Record<string, string> };

const TIMEOUT_MS = 5000;
/** Working through all that a controller holds takes a while. */
const SLOW_MS = 60_000;

export class RigClient {
  constructor(
    private readonly url: string,
    private readonly token: string,
  ) {}

  private async call<T>(method: string, path: string, body?: unknown, timeoutMs = TIMEOUT_MS): Promise<T> {
    let response: Response;
    try {
      response = await fetch(`${this.url}${path}`, {
        method,
        headers: {
          authorization: `Bearer ${this.token}`,
          ...(body !== undefined && { 'content-type': 'application/json' }),
        },
        body: body === undefined ? undefined : JSON.stringify(body),
        signal: AbortSignal.timeout(timeoutMs),
      });
    } catch {
      throw new RigRefusal('The rig does not answer.');
    }
    const answer = (await response.json().catch(() => ({}))) as T & { error?: { message: string } };
    if (!response.ok) throw new RigRefusal(answer.error?.message ?? `The rig answered ${response.status}.`);
    return answer;
  }

  /** The devices, if the rig answers now; undefined when it does not. */
  async controllers(): Promise<RigDevices | undefined> {
    return this.call<RigDevices>('GET', '/devices', undefined, 1500).catch(() => undefined);
  }

  devices(): Promise<RigDevices> {
    return this.call<RigDevices>('GET', '/devices');
  }

  ping(withinMs: number): Promise<unknown> {
    return this.call('GET', '/health', undefined, withinMs);
  }

  /** Tells a rig that was set up before rigs belonged to a site which one it serves. */
  claim(site: string): Promise<unknown> {
    return this.call('POST', '/site', { site });
  }

  /** Puts the rig together anew; what its controllers hold stays. */
  setUp(setup: RigSetup): Promise<unknown> {
    return this.call('PUT', '/setup', setup);
  }

  present(site: string, card: string, reader: string): Promise<{ id: string | null; message: string }> {
    return this.call('POST', '/presentations', { site, card, reader });
  }

  private load(controller: string, loadId: string, part = ''): string {
    return `/controllers/${encodeURIComponent(controller)}/loads/${encodeURIComponent(loadId)}${part}`;
  }

  /**
   * Begins a load of changes to what the controller holds, whose digest is taken to be `base`; or finds out how many
   * pieces of it have come already, when this very load had been begun.
   */
  async beginLoad(site: string, controller: string, loadId: string, base: string): Promise<number> {
    return (await this.call<{ taken: number }>('POST', this.load(controller, loadId), { site, base })).taken;
  }

  loadPiece(
    site: string,
    controller: string,
    loadId: string,
    seq: number,
    changes: readonly ItemChange[],
  ): Promise<unknown> {
    return this.call('POST', this.load(controller, loadId, '/pieces'), { site, seq, changes });
  }

  /** What a controller holds below a prefix of places: digests by the next hex digit, or hashes by key at a place. */
  parts(site: string, controller: string, prefix: string): Promise<Parts> {
    const query = new URLSearchParams({ site, prefix });
    return this.call('GET', `/controllers/${encodeURIComponent(controller)}/parts?${query}`, undefined, SLOW_MS);
  }

  commitLoad(site: string, controller: string, loadId: string, digest: string): Promise<unknown> {
    return this.call('POST', this.load(controller, loadId, '/commit'), { site, digest }, SLOW_MS);
  }

  /**
   * The log after an entry, known by number and name; waits for the next up to `waitMs` when there is none. Where the
   * log has another entry under that number, or none, it is not the log that it was and comes back under a new epoch.
   */
  log(epoch: string, after: number, entry: string, waitMs: number): Promise<RigLog> {
    const query = new URLSearchParams({ epoch, after: String(after), entry, wait: String(waitMs) });
    return this.call('GET', `/log?${query}`, undefined, waitMs + TIMEOUT_MS);
  }
}
