/** The HTTP side: security headers, who asks and may, validation at the edge, errors of one shape, the web's files. */
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { caseFileJsonSchema, type Role, roleAtLeast } from '@rawbits/core/api';
import { RawBitsError } from '@rawbits/core/failure';
import { formatJsonSchema, formatSetJsonSchema } from '@rawbits/core/format';
import { translationJsonSchema } from '@rawbits/core/translate';
import express, { type ErrorRequestHandler, type Express, type Request, type Response } from 'express';
import helmet from 'helmet';
import { errorNumber } from '../database/index.ts';
import { signedInBy } from '../session/sessions.ts';
import { apiPage, apiPageCss } from './apiPage.ts';
import type { App, Context, RouteSpec, SignedIn } from './app.ts';
import { openApiDocument } from './openapi.ts';
import { forbidden, HttpProblem, notFound, unauthenticated, validationProblem } from './problem.ts';

export interface HttpOptions {
  /** The folder of the built web application; without it only the API is served. */
  webFolder?: string;
}

/** The JSON Schemas of the files that Raw Bits reads and writes, by name. */
const FILE_SCHEMAS = {
  'format-1': formatJsonSchema,
  'formats-1': formatSetJsonSchema,
  'translation-1': translationJsonSchema,
  'case-1': caseFileJsonSchema,
};

export function httpServer(app: App, routes: readonly RouteSpec[], options: HttpOptions = {}): Express {
  const server = express();
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
  server.use('/api', refuseCrossSite);
  // Files of many formats and cases of many specimens come in one request; everything else is small.
  server.use('/api/formats/import', express.json({ limit: '10mb', strict: true }));
  server.use('/api/sites/:site/cases', express.json({ limit: '10mb', strict: true }));
  server.use('/api', express.json({ limit: '1mb', strict: true }));
  server.use('/api', (_request, response, next) => {
    response.setHeader('cache-control', 'no-store');
    next();
  });
  for (const spec of routes) mount(server, app, spec);
  const document = openApiDocument(routes);
  const page = apiPage(routes);
  server.get('/api/openapi.json', (_request, response) => void response.json(document));
  for (const [name, schema] of Object.entries(FILE_SCHEMAS))
    server.get(`/api/schemas/${name}.json`, (_request, response) => void response.json(schema()));
  server.get('/api', (_request, response) => void response.type('html').send(page));
  server.get('/api/page.css', (_request, response) => void response.type('css').send(apiPageCss));
  server.get('/api/health', (_request, response) => void response.json({ ok: true }));
  server.use('/api', () => {
    throw notFound('address');
  });
  if (options.webFolder && existsSync(options.webFolder)) serveWeb(server, options.webFolder);
  server.use(answerFailure(app));
  return server;
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

function mount(server: Express, app: App, spec: RouteSpec): void {
  const path = `/api${spec.path.replace(/\{(\w+)\}/g, ':$1')}`;
  server[spec.method](path, async (request: Request, response: Response) => {
    const params = request.params as Record<string, string>;
    const operator = await authorise(app, spec, request, params.site);
    const query = spec.query ? parseWith(spec.query, request.query, 'query') : undefined;
    const body = spec.body ? parseWith(spec.body, request.body ?? {}, 'body') : undefined;
    const context = { app, params, query, body, operator, site: params.site ?? '', request, response };
    const answer = await spec.handle(context as unknown as Context<undefined, undefined>);
    if (!spec.streams) response.json(spec.answers.parse(answer));
  });
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
): Promise<SignedIn | undefined> {
  if (spec.needs === 'nothing') return undefined;
  const operator = await signedInBy(app.db, request);
  if (!operator) throw unauthenticated();
  if (operator.mustChangePassword && !spec.path.startsWith('/session'))
    throw new HttpProblem(403, {
      code: 'change-password',
      message: 'Change your first password before anything else.',
    });
  if (site !== undefined && !operator.roles.has(site)) throw notFound('site');
  if (spec.needs === 'signed in') return operator;
  const least: Role = spec.needs;
  const roles = site === undefined ? [...operator.roles.values()] : [operator.roles.get(site)!];
  if (!roles.some((role) => roleAtLeast(role, least))) {
    const have = site === undefined ? 'None of your roles allows this' : `Your role here is ${roles[0]}`;
    throw forbidden(`${have}; it takes at least ${least}.`, 'Ask an administrator of the site.');
  }
  return operator;
}

function serveWeb(server: Express, folder: string): void {
  server.use('/assets', express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y', fallthrough: false }));
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
    const problem = problemFrom(error);
    if (problem.status >= 500 && !(error instanceof HttpProblem))
      app.log.error({ err: error, path: request.path }, 'a request failed');
    if (problem.retryAfterSeconds !== undefined) response.setHeader('retry-after', problem.retryAfterSeconds);
    response.status(problem.status).json({ error: problem.toFailure() });
  };
}

const DATABASE_FULL = new Set([1021, 1114, 3]);

function problemFrom(error: unknown): HttpProblem {
  if (error instanceof HttpProblem) return error;
  if (error instanceof RawBitsError) return new HttpProblem(422, error.toFailure());
  const { type, status, code } = error as { type?: string; status?: number; code?: string };
  if (type === 'entity.parse.failed')
    return new HttpProblem(400, {
      code: 'json',
      message: 'The request body is not JSON.',
      hint: (error as Error).message,
    });
  if (type === 'entity.too.large')
    return new HttpProblem(413, {
      code: 'too-large',
      message: 'The request is too large: 1 MB at most, a file of formats or a case 10 MB.',
      hint: 'Send less at once.',
    });
  if (DATABASE_FULL.has(errorNumber(error) ?? 0))
    return new HttpProblem(507, {
      code: 'disk-full',
      message: 'The disk of the database is full; nothing was saved.',
      hint: 'Free some space and try again.',
    });
  if (isAway(error))
    return new HttpProblem(503, {
      code: 'database-away',
      message: 'The database does not answer; nothing was saved.',
      hint: 'Try again in a moment.',
    });
  if (typeof status === 'number' && status < 500)
    return new HttpProblem(status, { code: code ?? 'refused', message: (error as Error).message });
  return new HttpProblem(500, {
    code: 'unexpected',
    message: 'Something went wrong on the server; nothing was saved.',
    hint: 'Try again; the server’s log says more.',
  });
}

function isAway(error: unknown): boolean {
  for (let at = error; at instanceof Error; at = at.cause)
    if (
      /ECONNREFUSED|PROTOCOL_CONNECTION_LOST|ECONNRESET|ETIMEDOUT|ENOTFOUND/.test((at as { code?: string }).code ?? '')
    )
      return true;
  return false;
}
