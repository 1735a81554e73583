/** What every handler can reach, and how a route is written down: once, for Express, OpenAPI and the tests. */
import type { Role } from '@rawbits/core/api';
import type { Request, Response } from 'express';
import type { Logger } from 'pino';
import type { z } from 'zod';
import type { Database } from '../database/index.ts';
import type { LiveHub } from '../live/hub.ts';
import type { RigClient } from '../rig/client.ts';
import type { TrailKeeper } from '../trail/keeper.ts';

export interface App {
  db: Database;
  log: Logger;
  trail: TrailKeeper;
  live: LiveHub;
  /** Undefined where no rig runs beside the server. */
  rig?: RigClient;
  setupToken?: string;
}

export interface SignedIn {
  id: string;
  login: string;
  name: string;
  mustChangePassword: boolean;
  tokenHash: string;
  /** The operator's role at each of their sites. */
  roles: Map<string, Role>;
}

type Parsed<S extends z.ZodType | undefined> = S extends z.ZodType ? z.output<S> : undefined;

export interface Context<Q extends z.ZodType | undefined = undefined, B extends z.ZodType | undefined = undefined> {
  app: App;
  /** The parts of the path in braces. */
  params: Record<string, string>;
  query: Parsed<Q>;
  body: Parsed<B>;
  /** Who asks; never undefined but on public routes. */
  operator: SignedIn;
  /** The site of the path, where it has one: the operator has a role at it. */
  site: string;
  request: Request;
  response: Response;
}

export interface RouteSpec<
  Q extends z.ZodType | undefined = z.ZodType | undefined,
  B extends z.ZodType | undefined = z.ZodType | undefined,
  R extends z.ZodType = z.ZodType,
> {
  method: 'get' | 'post' | 'put' | 'patch' | 'delete';
  /** OpenAPI's spelling: `/sites/{site}/reads/{id}`. */
  path: string;
  summary: string;
  /** A role is meant at the site of the path; on a path without a site, at any site. */
  needs: 'nothing' | 'signed in' | Role;
  query?: Q;
  body?: B;
  answers: R;
  /** Answers by itself (a stream); `answers` then describes one entry of it. */
  streams?: boolean;
  handle: (context: Context<Q, B>) => Promise<z.input<R> | undefined>;
}

/** Writes a route down with its types tied together. */
export function route<Q extends z.ZodType | undefined, B extends z.ZodType | undefined, R extends z.ZodType>(
  spec: RouteSpec<Q, B, R>,
): RouteSpec {
  return spec as unknown as RouteSpec;
}
