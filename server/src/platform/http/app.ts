/** What every handler can reach, and how a route of the API is tied to what carries it out. */
import type { Route } from '@rawbits/api';
import type { Request, Response } from 'express';
import type { Logger } from 'pino';
import type { z } from 'zod';
import type { Devices } from '../../devices/devices.ts';
import type { Database } from '../database/index.ts';
import type { LiveHub } from '../feed/hub.ts';
import type { Jobs } from '../jobs/index.ts';
import type { SignedIn } from '../session/sessions.ts';
import type { Settings } from '../settings/settings.ts';
import type { Once } from '../trail/change.ts';
import type { TrailKeeper } from '../trail/keeper.ts';
import type { Sealer } from '../trail/seal.ts';
import type { Verifier } from '../trail/verifier.ts';
import type { Vault } from '../vault/index.ts';
import type { Workers } from '../workers/index.ts';

export interface App {
  db: Database;
  log: Logger;
  settings: Settings;
  trail: TrailKeeper;
  sealer: Sealer;
  verifier: Verifier;
  /** Where the keys of sites are. */
  vault: Vault;
  /** Where heavy computation is done, beside the thread that answers. */
  workers: Workers;
  live: LiveHub;
  /** Work that goes on after its request was answered. */
  jobs: Jobs;
  /** What device hosts offer. */
  devices: Devices;
  /** The host of the rig that runs beside this server; undefined where none does. */
  rigHost?: string;
  setupToken?: string;
  aboutToChange?(): void;
}

/** Whoever asks, and the key of the request, where it named one, so that it is carried out once. */
export type Asking = SignedIn & { once?: Once };

type Parsed<S extends z.ZodType | undefined> = S extends z.ZodType ? z.output<S> : undefined;

export interface Context<Q extends z.ZodType | undefined = undefined, B extends z.ZodType | undefined = undefined> {
  app: App;
  /** The parts of the path in braces. */
  params: Record<string, string>;
  query: Parsed<Q>;
  body: Parsed<B>;
  /** Who asks; never undefined but on public routes. */
  operator: Asking;
  /** The site of the path, where it has one: the operator has a role at it. */
  site: string;
  request: Request;
  response: Response;
}

/** A route with what carries it out. */
export interface RouteSpec extends Route {
  handle: (context: Context) => Promise<unknown>;
}

/** Ties a route to what carries it out: its query, its body and its answer are of the route's own types. */
export function handle<
  P extends string,
  Q extends z.ZodType | undefined,
  B extends z.ZodType | undefined,
  R extends z.ZodType,
>(spec: Route<P, Q, B, R>, carryOut: (context: Context<Q, B>) => Promise<z.input<R> | undefined>): RouteSpec {
  return { ...spec, handle: carryOut as unknown as RouteSpec['handle'] };
}
