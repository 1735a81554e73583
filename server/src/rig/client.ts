/** The line to the rig: its published interface over HTTP on loopback. */
import type { Credential, Decision } from '@rawbits/core/access';
import type { TrayCard } from '@rawbits/core/api';
import type { Format } from '@rawbits/core/format';

export interface RigController {
  id: string;
  digest: string;
}

/** One line of the rig's log: a credential was presented at a reader. */
export interface RigLogEntry {
  seq: number;
  at: string;
  reader: string;
  controller: string | null;
  bits: string;
  decision: Decision | null;
}

const TIMEOUT_MS = 5000;

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
      throw new Error('The rig does not answer.');
    }
    const answer = (await response.json()) as T & { error?: { message: string } };
    if (!response.ok) throw new Error(answer.error?.message ?? `The rig answered ${response.status}.`);
    return answer;
  }

  /** The controllers that answer now; undefined when the rig does not. */
  async controllers(): Promise<RigController[] | undefined> {
    try {
      return (await this.call<{ controllers: RigController[] }>('GET', '/devices', undefined, 1500)).controllers;
    } catch {
      return undefined;
    }
  }

  async tray(): Promise<TrayCard[]> {
    return (await this.call<{ cards: TrayCard[] }>('GET', '/devices')).cards;
  }

  present(card: string, reader: string): Promise<{ seq: number | null; message: string }> {
    return this.call('POST', '/presentations', { card, reader });
  }

  beginLoad(controller: string, loadId: string, comparesFacility: boolean): Promise<unknown> {
    return this.call('POST', `/controllers/${controller}/loads/${loadId}`, { comparesFacility });
  }

  loadPiece(
    controller: string,
    loadId: string,
    piece: { formats?: Format[]; credentials?: Credential[] },
  ): Promise<unknown> {
    return this.call('POST', `/controllers/${controller}/loads/${loadId}/pieces`, piece);
  }

  commitLoad(controller: string, loadId: string, digest: string): Promise<unknown> {
    return this.call('POST', `/controllers/${controller}/loads/${loadId}/commit`, { digest });
  }

  /** The log after a number; waits for the next entry up to `waitMs` when there is none. */
  log(after: number, waitMs: number): Promise<{ epoch: string; entries: RigLogEntry[] }> {
    return this.call('GET', `/log?after=${after}&wait=${waitMs}`, undefined, waitMs + TIMEOUT_MS);
  }
}
