/** The OpenAPI 3.1 document, made from the routes and the schemas that they use. */
import { OpenAPIRegistry, OpenApiGeneratorV31 } from '@asteasolutions/zod-to-openapi';
import { failureSchema } from '@rawbits/api';
import { z } from 'zod';
import type { RouteSpec } from './app.ts';

const id = z.string().max(40);

export function openApiDocument(routes: readonly RouteSpec[]): object {
  const registry = new OpenAPIRegistry();
  registry.registerComponent('securitySchemes', 'session', { type: 'apiKey', in: 'cookie', name: 'rawbits_session' });
  for (const spec of routes) {
    const names = [...spec.path.matchAll(/\{(\w+)\}/g)].map((m) => m[1]!);
    const failures = spec.needs === 'nothing' ? [422, 429] : [401, 403, 404, 409, 422];
    registry.registerPath({
      method: spec.method,
      path: `/api${spec.path}`,
      summary: spec.summary,
      description: `Needs: ${spec.needs}.`,
      ...(spec.needs !== 'nothing' && { security: [{ session: [] }] }),
      request: {
        ...(names.length > 0 && { params: z.object(Object.fromEntries(names.map((name) => [name, id]))) }),
        ...(spec.query && { query: spec.query as z.ZodObject }),
        ...(spec.body && { body: { required: true, content: { 'application/json': { schema: spec.body } } } }),
      },
      responses: {
        200: {
          description: spec.streams ? 'A stream of these, one after the other' : 'Done',
          content: { [spec.streams ? 'text/event-stream' : 'application/json']: { schema: spec.answers } },
        },
        ...Object.fromEntries(
          failures.map((status) => [
            status,
            { description: 'Refused', content: { 'application/json': { schema: failureSchema } } },
          ]),
        ),
      },
    });
  }
  return new OpenApiGeneratorV31(registry.definitions).generateDocument({
    openapi: '3.1.0',
    info: {
      title: 'Raw Bits',
      version: '0.1.0',
      description: 'Sites, formats, reads, cards, doors and the trail of Raw Bits.',
    },
    servers: [{ url: '/' }],
  });
}
