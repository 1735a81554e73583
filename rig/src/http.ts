/** The rig's interface: HTTP with a bearer token, on loopback. */
import { timingSafeEqual } from 'node:crypto';
import { credentialSchema } from '@rawbits/core/access';
import { failureOf, RawBitsError } from '@rawbits/core/failure';
import { formatSchema } from '@rawbits/core/format';
import express, { type ErrorRequestHandler, type Express } from 'express';
import { z } from 'zod';
import type { Rig } from './rig.ts';
import { rigSetupSchema } from './setup.ts';

const presentation = z.strictObject({ card: z.string(), reader: z.string() });
const beginning = z.strictObject({ comparesFacility: z.boolean() });
const piece = z.strictObject({
  formats: z.array(formatSchema).optional(),
  credentials: z.array(credentialSchema).optional(),
});
const commit = z.strictObject({ digest: z.string() });
const since = z.object({
  after: z.coerce.number().int().min(0).default(0),
  wait: z.coerce.number().int().min(0).max(30_000).default(0),
});

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
    response.json({ cards: rig.cards, readers: rig.readers, controllers: rig.controllerStates });
  });
  server.put('/setup', (request, response) => {
    rig.setUp(rigSetupSchema.parse(request.body));
    response.json({});
  });
  server.post('/presentations', (request, response) => {
    const { card, reader } = presentation.parse(request.body);
    response.json(rig.present(card, reader, Date.now()));
  });
  server.get('/log', async (request, response) => {
    const { after, wait } = since.parse(request.query);
    response.json({ epoch: rig.log.epoch, entries: await rig.log.after(after, wait) });
  });
  server.post('/controllers/:id/loads/:load', (request, response) => {
    rig.controller(request.params.id).beginLoad(request.params.load, beginning.parse(request.body).comparesFacility);
    response.json({});
  });
  server.post('/controllers/:id/loads/:load/pieces', async (request, response) => {
    rig.controller(request.params.id).takePiece(request.params.load, piece.parse(request.body));
    // A line to a controller is slow; so is this one.
    await new Promise((resolve) => setTimeout(resolve, pieceMs));
    response.json({});
  });
  server.post('/controllers/:id/loads/:load/commit', (request, response) => {
    rig.controller(request.params.id).commitLoad(request.params.load, commit.parse(request.body).digest);
    response.json({});
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
