/**
 * What describes the API, served beside it: the OpenAPI document, a page to read and the JSON Schemas of files. Each is
 * built when it is first asked for and kept: it takes a second or two of CPU, and most servers are never asked.
 */
import { caseFileJsonSchema, keptExchangeJsonSchema, keyFileJsonSchema, siteFileJsonSchema } from '@rawbits/api';
import { formatJsonSchema, formatSetJsonSchema } from '@rawbits/core/format';
import { planJsonSchema } from '@rawbits/core/plan';
import { translationJsonSchema } from '@rawbits/core/translate';
import type { Express } from 'express';
import { apiPage, apiPageCss } from './apiPage.ts';
import type { RouteSpec } from './app.ts';
import { openApiDocument } from './openapi.ts';

/** The JSON Schemas of the files that Raw Bits reads and writes, by name. */
const FILE_SCHEMAS = {
  'format-1': formatJsonSchema,
  'formats-1': formatSetJsonSchema,
  'translation-1': translationJsonSchema,
  'case-1': caseFileJsonSchema,
  /** Of what is in an encrypted backup of keys. */
  'keys-1': keyFileJsonSchema,
  'plan-1': planJsonSchema,
  'exchange-2': keptExchangeJsonSchema,
  /** Of one line of it. */
  'site-1': siteFileJsonSchema,
};

/** Serves them under `/api`; `routes` are those that the document and the page list. */
export function serveApiDescription(server: Express, routes: readonly RouteSpec[]): void {
  const document = once(() => JSON.stringify(openApiDocument(routes)));
  const page = once(() => apiPage(routes));
  server.get('/api/openapi.json', (_request, response) => void response.type('json').send(document()));
  server.get('/api', (_request, response) => void response.type('html').send(page()));
  server.get('/api/page.css', (_request, response) => void response.type('css').send(apiPageCss));
  for (const [name, schema] of Object.entries(FILE_SCHEMAS)) {
    const text = once(() => JSON.stringify(schema()));
    server.get(`/api/schemas/${name}.json`, (_request, response) => void response.type('json').send(text()));
  }
}

/** Builds a value at the first call and gives the same one at every later call. */
function once<T>(build: () => T): () => T {
  let built: T | undefined;
  return () => (built ??= build());
}
