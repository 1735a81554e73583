/** The API as a page to read, without script: made from the same routes as the OpenAPI document. */

import { z } from 'zod';
import type { RouteSpec } from './app.ts';

const escapeHtml = (text: string): string => text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);

function schemaBlock(title: string, schema: z.ZodType | undefined, io: 'input' | 'output'): string {
  if (!schema) return '';
  const json = JSON.stringify(z.toJSONSchema(schema, { io, unrepresentable: 'any' }), null, 1).replace(
    /^.*"\$schema".*\n/m,
    '',
  );
  return `<details><summary>${title}</summary><pre>${escapeHtml(json)}</pre></details>`;
}

export function apiPage(routes: readonly RouteSpec[]): string {
  const rows = routes.map(
    (spec) => `<section><h2><b>${spec.method.toUpperCase()}</b> <code>/api${escapeHtml(spec.path)}</code></h2>
<p>${escapeHtml(spec.summary)}. Needs: ${spec.needs}.</p>
${schemaBlock('Query', spec.query, 'input')}${schemaBlock('Body', spec.body, 'input')}${schemaBlock(spec.streams ? 'Each event' : 'Answer', spec.answers, 'output')}</section>`,
  );
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Raw Bits API</title>
<meta name="viewport" content="width=device-width"><link rel="stylesheet" href="/api/page.css"></head><body><main><h1>Raw Bits API</h1>
<p>The machine-readable document is <a href="/api/openapi.json">/api/openapi.json</a>; the JSON Schema of a format is <a href="/api/schemas/format-1.json">/api/schemas/format-1.json</a>.
Every failure is <code>{"error":{"code","message","where","hint"}}</code>.</p>
${rows.join('\n')}</main></body></html>`;
}

export const apiPageCss = `body{font:16px/1.5 system-ui,sans-serif;background:#f3f0e6;color:#16262c;margin:0}main{max-width:60rem;margin:2rem auto;padding:0 1rem}
section{border-top:1px solid #cdc7b4;padding:.5rem 0}h2{font-size:1rem;font-weight:400;margin:.3rem 0}b{display:inline-block;min-width:4.5rem;color:#0b5d4e}
pre{background:#fbfaf5;border:1px solid #e4dfd0;padding:.6rem;overflow:auto;font-size:.8rem}p{margin:.2rem 0}a{color:#0b5d4e}`;
