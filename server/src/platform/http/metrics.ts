/**
 * Metrics for Prometheus (text format 0.0.4), for whoever sends the token that was set. They name routes and statuses,
 * and nothing of what is in them.
 */
import { createHash, timingSafeEqual } from 'node:crypto';
import type { Express, Request, RequestHandler, Response } from 'express';
import { Counter, collectDefaultMetrics, Gauge, Histogram, Registry } from 'prom-client';
import { unauthenticated } from '../problem/problem.ts';
import { bearerIn } from '../session/bearer.ts';
import type { App } from './app.ts';

export interface Metrics {
  /** Notes an answer of a route when it has gone out. */
  answered(method: string, path: string, response: Response): void;
}

const same = (a: string, b: string): boolean => {
  const digest = (text: string) => createHash('sha256').update(text).digest();
  return timingSafeEqual(digest(a), digest(b));
};

/** Serves `/metrics` where a token is set; gives what takes notes, or nothing. */
export function serveMetrics(server: Express, app: App): Metrics | undefined {
  const { metricsToken } = app.settings;
  if (!metricsToken) return undefined;
  const registry = new Registry();
  collectDefaultMetrics({ register: registry });
  const seconds = new Histogram({
    name: 'rawbits_http_request_seconds',
    help: 'Time from a request to its answer',
    labelNames: ['method', 'route', 'status'],
    buckets: [0.005, 0.02, 0.05, 0.1, 0.3, 1, 3, 10],
    registers: [registry],
  });
  const started = new Counter({
    name: 'rawbits_http_requests_total',
    help: 'Requests that came in',
    labelNames: ['method', 'route'],
    registers: [registry],
  });
  new Gauge({
    name: 'rawbits_live_streams',
    help: 'Pages that follow a live feed from this server',
    registers: [registry],
    collect() {
      this.set(app.live.streams);
    },
  });
  const give: RequestHandler = async (request: Request, response) => {
    const sent = bearerIn(request);
    if (!sent || !same(sent.reveal(), metricsToken.reveal())) throw unauthenticated();
    response.type(registry.contentType).send(await registry.metrics());
  };
  server.get('/metrics', give);
  return {
    answered: (method, route, response) => {
      started.inc({ method, route });
      const end = seconds.startTimer({ method, route });
      response.once('close', () => end({ status: String(response.statusCode) }));
    },
  };
}
