/** The rig's interface: HTTP with a bearer token, on loopback. */
import { timingSafeEqual } from 'node:crypto';
import { PLACE_DIGITS } from '@rawbits/core/access';
import { failureOf, RawBitsError } from '@rawbits/core/failure';
import express, { type ErrorRequestHandler, type Express } from 'express';
import { z } from 'zod';
import type { Rig } from './rig.ts';
import { rigSetupSchema, siteIdSchema } from './setup.ts';

const site = siteIdSchema;
const claim = z.strictObject({ site });
const presentation = z.strictObject({ site, card: z.string(), reader: z.string() });
const digest = z.string().regex(/^[0-9a-f]{64}$/);
const beginning = z.strictObject({ site, base: digest });
const piece = z.strictObject({
  site,
  seq: z.number().int().min(1),
  changes: z.array(z.tuple([z.string().min(1).max(60), z.string().max(100_000).nullable()])).max(1000),
});
const commit = z.strictObject({ site, digest });
const below = z.object({ site, prefix: z.string().regex(/^[0-9a-f]{0,3}$/) });
const since = z.object({
  epoch: z.string().max(40).default(''),
  entry: z.string().max(40).default(''),
  after: z.coerce.number().int().min(0).default(0),
  wait: z.coerce.number().int().min(0).max(30_000).default(0),
});

/** `pieceMs`: how long a piece of a load takes on its line. */
export function rigHttp(rig: Rig, token: string, pieceMs = 30): Express {
  const server = express();
  const wanted = Buffer.from(`Bearer ${token}`);
  server.use((request, _response, next) => {
    const given = Buffer.from(request.headers.authorization ?? '');
    if (given.length !== wanted.length || !timingSafeEqual(given, wanted))
      throw new RawBitsError({ code: 'token', message: 'The token is wrong.' });
    next();
  });
  server.use(express.json({ limit: '4mb' }));
  server.get('/devices', (_request, response) => {
    response.json({ site: rig.site, cards: rig.cards, readers: rig.readers, controllers: rig.controllerStates });
  });
  server.get('/health', (_request, response) => void response.json({ ok: true }));
  server.post('/site', (request, response) => {
    rig.claim(claim.parse(request.body).site);
    response.json({});
  });
  server.put('/setup', (request, response) => {
    rig.setUp(rigSetupSchema.parse(request.body));
    response.json({});
  });
  server.post('/presentations', (request, response) => {
    const { site, card, reader } = presentation.parse(request.body);
    rig.serve(site);
    response.json(rig.present(card, reader, Date.now()));
  });
  server.get('/log', async (request, response) => {
    const { epoch, after, entry, wait } = since.parse(request.query);
    const found = await rig.log.after({ epoch, seq: after, entry }, wait);
    // Only now: while it waited the rig may have been set up.
    response.json({ site: rig.site, ...found });
  });
  server.post('/controllers/:id/loads/:load', (request, response) => {
    const { site, base } = beginning.parse(request.body);
    rig.serve(site);
    response.json({ taken: rig.controller(request.params.id).beginLoad(request.params.load, base) });
  });
  server.post('/controllers/:id/loads/:load/pieces', async (request, response) => {
    const { site, seq, changes } = piece.parse(request.body);
    rig.serve(site);
    rig.controller(request.params.id).takePiece(request.params.load, seq, changes);
    // A line to a controller is slow; so is this one.
    await new Promise((resolve) => setTimeout(resolve, pieceMs));
    response.json({});
  });
  server.post('/controllers/:id/loads/:load/commit', (request, response) => {
    const { site, digest } = commit.parse(request.body);
    rig.serve(site);
    rig.controller(request.params.id).commitLoad(request.params.load, digest);
    response.json({});
  });
  server.get('/controllers/:id/parts', (request, response) => {
    const { site, prefix } = below.parse(request.query);
    rig.serve(site);
    const controller = rig.controller(request.params.id);
    response.json(
      prefix.length < PLACE_DIGITS
        ? { digests: controller.digestsBelow(prefix) }
        : { hashes: controller.hashesAt(prefix) },
    );
  });
  server.use(answerFailure);
  return server;
}

const answerFailure: ErrorRequestHandler = (error, _request, response, _next) => {
  const failure = failureOf(error);
  const status =
    failure.code === 'token' ? 401 : error instanceof RawBitsError ? 422 : error instanceof z.ZodError ? 422 : 500;
  response.status(status).json({ error: failure });
};
