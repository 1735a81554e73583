/** The routes as they are written down: each once, each under the site that it belongs to, addresses always encoded. */

import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import * as api from './index.ts';
import { addressOf, type Route } from './route.ts';

const routes = Object.entries(api).flatMap(([name, value]) =>
  name.endsWith('Api') ? Object.values(value as Record<string, Route>) : [],
);

describe('the routes', () => {
  it('are each written once', () => {
    const names = routes.map(({ method, path }) => `${method} ${path}`);
    expect(names.length).toBeGreaterThan(60);
    expect(new Set(names).size).toBe(names.length);
  });

  it('take a body only where they change something, and limit one that nobody signed in for', () => {
    for (const { method, path, body, needs, limits } of routes) {
      if (method === 'get') expect([path, body]).toEqual([path, undefined]);
      if (needs === 'nothing' && body) expect([path, limits?.bytes]).toEqual([path, 4000]);
    }
  });

  it('have schemas that a document can be made of', () => {
    for (const { answers, body } of routes)
      for (const schema of [answers, body])
        if (schema) expect(z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' })).toBeTypeOf('object');
  });

  it('are addressed with what stands in braces encoded, and a query where there is one', () => {
    expect(addressOf(api.cardApi.update, { site: 'a/../b', id: 'x?y' })).toBe('/sites/a%2F..%2Fb/cards/x%3Fy');
    expect(addressOf(api.cardApi.list, { site: 's' }, { search: '58/1 &', limit: 5, state: undefined })).toBe(
      '/sites/s/cards?search=58%2F1+%26&limit=5',
    );
    expect(addressOf(api.formatApi.library, {})).toBe('/formats');
  });
});
