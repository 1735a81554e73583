/** The HTTP side: security headers, who asks and may, validation at the edge, errors of one shape, the web's files. */
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { PERMISSIONS } from '@rawbits/api';
import { RawBitsError } from '@rawbits/core/failure';
import compression from 'compression';
import express, {
  type ErrorRequestHandler,
  type Express,
  type Request,
  type RequestHandler,
  type Response,
} from 'express';
import helmet from 'helmet';
import { DatabaseBusy, errorNumber, isAway, NoConnectionFree, OutcomeUnknown } from '../database/index.ts';
import { forbidden, HttpProblem, notFound, unauthenticated, validationProblem } from '../problem/problem.ts';
import { may, signedInBy } from '../session/sessions.ts';
import { hostNames } from '../settings/settings.ts';
import { DoneBefore, type Once } from '../trail/change.ts';
import type { App, Asking, Context, RouteSpec } from './app.ts';
import { readBody, refuseIllFormed, USUAL_LIMITS } from './body.ts';
import { serveApiDescription } from './description.ts';
import { readiness } from './health.ts';
import { type Metrics, serveMetrics } from './metrics.ts';
import { earlierAnswer, keepAnswer, onceOf } from './repeats.ts';
import type { Traffic } from './traffic.ts';

export interface HttpOptions {
  /** The folder of the built web application; without it only the API is served. */
  webFolder?: string;
}

export function httpServer(
  app: App,
  routes: readonly RouteSpec[],
  traffic: Traffic,
  options: HttpOptions = {},
): Express {
  const server = express();
  server.set('trust proxy', app.settings.trustedProxies);
  server.disable('x-powered-by');
  server.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'self'"],
          scriptSrc: ["'self'"],
          styleSrc: ["'self'"],
          imgSrc: ["'self'", 'data:'],
          fontSrc: ["'self'"],
          connectSrc: ["'self'"],
          workerSrc: ["'self'"],
          objectSrc: ["'none'"],
          baseUri: ["'none'"],
          formAction: ["'self'"],
          frameAncestors: ["'none'"],
        },
      },
      strictTransportSecurity: false,
      crossOriginEmbedderPolicy: false,
    }),
  );
  server.use(refuseOtherHosts(hostNames(app.settings)));
  server.use(
    compression({ filter: (request, response) => !isStream(response) && compression.filter(request, response) }),
  );
  server.use('/api', refuseCrossSite);
  server.use('/api', (_request, response, next) => {
    response.setHeader('cache-control', 'no-store');
    if (traffic.stopping) response.setHeader('connection', 'close');
    next();
  });
  const metrics = serveMetrics(server, app);
  for (const spec of routes) mount(server, app, spec, traffic, metrics);
  serveApiDescription(server, routes);
  const health = readiness(app);
  server.get('/api/health', async (_request, response) => {
    const state = await health();
    response.status(state.ok ? 200 : 503).json(state);
  });
  server.use('/api', () => {
    throw notFound('address');
  });
  if (options.webFolder && existsSync(options.webFolder)) serveWeb(server, options.webFolder);
  server.use(answerFailure(app));
  return server;
}

const isStream = (response: Response): boolean =>
  String(response.getHeader('content-type') ?? '').startsWith('text/event-stream');

/** A name or an address in brackets, and perhaps a port (RFC 9110 §7.2, RFC 3986 §3.2.2). */
const HOST = /^(\[[0-9a-f:.]+\]|[^:[\]]+)(?::\d{1,5})?$/i;

/**
 * A name that somebody else makes point to this machine is not ours: a page under that name would be of our own origin
 * to a browser (DNS rebinding).
 */
function refuseOtherHosts(names: ReadonlySet<string>): RequestHandler {
  return (request, _response, next) => {
    const host = request.headers.host ?? '';
    const [, name = ''] = HOST.exec(host) ?? [];
    if (!names.has(name.toLowerCase()))
      throw new HttpProblem(421, {
        code: 'host',
        message: 'Raw Bits does not answer under this name.',
        hint: 'Use the address that it printed at its start, or set RAWBITS_PUBLIC_URL to the one that people use.',
      });
    next();
  };
}

/** A page of another site must not act through an operator's cookie. */
function refuseCrossSite(request: Request, _response: Response, next: () => void): void {
  if (request.method === 'GET' || request.method === 'HEAD') {
    next();
    return;
  }
  const from = request.headers['sec-fetch-site'];
  const { origin } = request.headers;
  const sameOrigin = origin === undefined || origin.replace(/^https?:\/\//, '') === request.headers.host;
  if ((from !== undefined && from !== 'same-origin' && from !== 'none') || !sameOrigin)
    throw new HttpProblem(403, { code: 'cross-site', message: 'The request came from another site.' });
  next();
}

function mount(server: Express, app: App, spec: RouteSpec, traffic: Traffic, metrics: Metrics | undefined): void {
  const path = `/api${spec.path.replace(/\{(\w+)\}/g, ':$1')}`;
  server[spec.method](path, async (request: Request, response: Response) => {
    if (!spec.streams) metrics?.answered(spec.method, spec.path, response);
    const end = spec.streams ? () => {} : traffic.begin();
    response.once('close', end);
    await answer(app, spec, request, response).finally(end);
  });
}

/** In this order: who asks and may, then the body and its form, then whether it was done before, then the work. */
async function answer(app: App, spec: RouteSpec, request: Request, response: Response): Promise<void> {
  const params = request.params as Record<string, string>;
  const operator = await authorise(app, spec, request, params.site);
  refuseIllFormed(params, 'address');
  refuseIllFormed(request.query, 'query');
  const sent = spec.body ? await readBody(request, response, { ...USUAL_LIMITS, ...spec.limits }) : undefined;
  const query = spec.query ? parseWith(spec.query, request.query, 'query') : undefined;
  const body = spec.body ? parseWith(spec.body, sent ?? {}, 'body') : undefined;
  const once = operator && onceOf(app, request, sent);
  if (operator && once) {
    const earlier = await earlierAnswer(app, operator.id, once);
    if (earlier !== undefined) return void response.type('json').send(earlier);
    operator.once = once;
  }
  const context = { app, params, query, body, operator, site: params.site ?? '', request, response };
  const found = await carryOut(app, spec, context as unknown as Context<undefined, undefined>, once);
  if (spec.streams) return;
  if (typeof found === 'string') return void response.type('json').send(found);
  response.json(found);
}

/** The answer of a route; as JSON text where the same request, sent twice at once, was carried out by the other. */
async function carryOut(
  app: App,
  spec: RouteSpec,
  context: Context<undefined, undefined>,
  once: Once | undefined,
): Promise<unknown> {
  try {
    const found = await spec.handle(context);
    if (spec.streams) return undefined;
    const checked = spec.answers.parse(found);
    if (once?.taken && !spec.secret) await keepAnswer(app, context.operator.id, once, checked);
    return checked;
  } catch (error) {
    if (!(error instanceof DoneBefore) || !once) throw error;
    return earlierAnswer(app, context.operator.id, once);
  }
}

function parseWith(schema: NonNullable<RouteSpec['body']>, value: unknown, part: string): unknown {
  const result = schema.safeParse(value);
  if (!result.success) throw validationProblem(result.error, part);
  return result.data;
}

/** Who asks, once it is sure that they may. To whom a site is not theirs, it does not exist. */
async function authorise(
  app: App,
  spec: RouteSpec,
  request: Request,
  site: string | undefined,
): Promise<Asking | undefined> {
  if (spec.needs === 'nothing') return undefined;
  const operator = await signedInBy(app, request, { counts: !spec.streams });
  if (!operator) throw unauthenticated();
  if (operator.mustChangePassword && !spec.path.startsWith('/session'))
    throw new HttpProblem(403, {
      code: 'change-password',
      message: 'Change your first password before anything else.',
    });
  if (site !== undefined && !operator.roles.has(site)) throw notFound('site');
  if (operator.token && (spec.streams || (spec.needs === 'signed in' && spec.method !== 'get')))
    throw forbidden('A token cannot do this.', 'Sign in for it.');
  if (spec.needs === 'signed in') return operator;
  const { needs } = spec;
  const sites = site === undefined ? [...operator.roles.keys()] : [site];
  if (!sites.some((id) => may(operator, id, needs))) {
    const whose = operator.token ? 'This token does not allow' : 'Your roles do not allow';
    throw forbidden(`${whose} to ${PERMISSIONS[needs]}.`, `It takes the permission "${needs}".`);
  }
  return operator;
}

function serveWeb(server: Express, folder: string): void {
  server.use('/assets', express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y' }), () => {
    throw notFound('file');
  });
  server.use(express.static(folder, { index: false, maxAge: 0 }));
  server.get('/{*path}', (_request, response) => {
    response.setHeader('cache-control', 'no-cache');
    response.sendFile(join(folder, 'index.html'));
  });
}

/** Turns whatever was thrown into `{error}` with a status; the unexpected is logged and told without its inside. */
function answerFailure(app: App): ErrorRequestHandler {
  return (error, request, response, _next) => {
    if (response.headersSent) return void response.end();
    const problem = problemFrom(error, request.method === 'GET' || request.method === 'HEAD');
    if (problem.status >= 500 && !(error instanceof HttpProblem))
      app.log.error({ err: error, path: request.path }, 'a request failed');
    if (problem.retryAfterSeconds !== undefined) response.setHeader('retry-after', problem.retryAfterSeconds);
    response.status(problem.status).json({ error: problem.toFailure() });
  };
}

const DATABASE_FULL = new Set([1021, 1114, 3]);

/** What the libraries beneath refuse, in our own words: theirs may tell paths and more. */
const REFUSED: Record<number, [string, string]> = {
  400: ['request', 'The request is not well formed.'],
  404: ['not-found', 'There is nothing at this address.'],
  413: ['too-large', 'The request is too large.'],
  415: ['content-type', 'This kind of content, or its encoding, is not taken.'],
};

/** What reads is told nothing of saving. */
function problemFrom(error: unknown, isRead: boolean): HttpProblem {
  const saved = isRead ? '' : '; nothing was saved';
  if (error instanceof HttpProblem) return error;
  if (error instanceof DatabaseBusy || error instanceof NoConnectionFree)
    return new HttpProblem(503, error.toFailure(), 1);
  if (error instanceof OutcomeUnknown) return new HttpProblem(503, error.toFailure());
  if (error instanceof RawBitsError) return new HttpProblem(422, error.toFailure());
  if (DATABASE_FULL.has(errorNumber(error) ?? 0))
    return new HttpProblem(507, {
      code: 'disk-full',
      message: `The disk of the database is full${saved}.`,
      hint: 'Free some space and try again.',
    });
  if (isAway(error))
    return new HttpProblem(503, {
      code: 'database-away',
      message: `The database does not answer${saved}.`,
      hint: 'Try again in a moment.',
    });
  const { status } = error as { status?: number };
  if (typeof status === 'number' && status >= 400 && status < 500) {
    const [code, message] = REFUSED[status] ?? ['refused', 'The request was refused.'];
    return new HttpProblem(status, { code, message });
  }
  return new HttpProblem(500, {
    code: 'unexpected',
    message: 'Something went wrong on the server.',
    hint: 'Look whether it was done before you try again; the server’s log says more.',
  });
}
