/**
 * What tests of components stand on: a component drawn as at its place in the application, and a server that answers
 * what a test says. What it says is held against the schemas of the API: an answer that the server could not give fails.
 */
import {
  addressOf,
  type Params,
  type Permission,
  permissionsOf,
  type Route,
  type Session,
  sessionApi,
} from '@rawbits/api';
import type { Failure } from '@rawbits/core/failure';
import { render } from '@testing-library/react';
import type { ReactElement } from 'react';
import { Provider } from 'react-redux';
import { createMemoryRouter, RouterProvider } from 'react-router';
import { vi } from 'vitest';
import type { z } from 'zod';
import { makeStore } from '../shell/store.ts';

export const SITE = 'site-1';
export const ZONE = 'Europe/Oslo';

/** What was asked of the server: `GET /sites/site-1/cards?search=7`, and what was sent with it. */
export interface Asked {
  line: string;
  body: unknown;
}

type Answering<T extends Route> = T extends { answers: infer A extends z.ZodType } ? z.input<A> | Failure : never;

/** A server of the test's own; what nobody has answered yet is asked in vain. */
export class StandIn {
  readonly asked: Asked[] = [];
  private readonly answers = new Map<
    string,
    { route: Route; answer: (body: unknown, query: URLSearchParams) => unknown }
  >();

  constructor(permissions: Permission[] = [...permissionsOf(['administrator'])]) {
    const session: Session = {
      operator: { id: 'me', login: 'me', name: 'Tormod Vik', mustChangePassword: false },
      sites: [
        {
          id: SITE,
          name: 'Skerry Point Marine Station',
          shortName: 'Skerry Point',
          timeZone: ZONE,
          hasRig: false,
          roles: ['administrator'],
          permissions,
        },
      ],
    };
    this.on(sessionApi.whoAmI, {}, () => session);
    vi.stubGlobal('fetch', (url: string, init?: RequestInit) => this.take(url, init));
  }

  /** What a route answers from now on: what its schema says, or a failure with its code. */
  on<T extends Route>(
    route: T,
    params: Params<T>,
    answer: (body: unknown, query: URLSearchParams) => Answering<T>,
  ): this {
    this.answers.set(`${route.method} ${addressOf(route, params)}`, { route, answer });
    return this;
  }

  /** What was asked so far, without asking who is signed in. */
  get lines(): string[] {
    return this.asked.map(({ line }) => line).filter((line) => !line.endsWith(' /session'));
  }

  private async take(url: string, { method = 'GET', body }: RequestInit = {}): Promise<Response> {
    const { pathname, searchParams, search } = new URL(url, 'http://here');
    const path = pathname.replace(/^\/api/, '');
    const sent = typeof body === 'string' ? JSON.parse(body) : undefined;
    this.asked.push({ line: `${method} ${path}${decodeURIComponent(search)}`, body: sent });
    const known = this.answers.get(`${method.toLowerCase()} ${path}`);
    if (!known)
      return Response.json(
        { error: { code: 'nobody', message: `Nobody answers ${method} ${path}.` } },
        { status: 404 },
      );
    const answer = known.answer(sent, searchParams);
    if (answer !== null && typeof answer === 'object' && 'code' in answer && 'message' in answer)
      return Response.json({ error: answer }, { status: 422 });
    return Response.json(known.route.answers.parse(answer));
  }
}

/** Draws a component at an address of the site. */
export function show(element: ReactElement, { at = '', path = '*' }: { at?: string; path?: string } = {}) {
  const store = makeStore();
  const router = createMemoryRouter([{ path: `/:site/${path}`, element }], { initialEntries: [`/${SITE}/${at}`] });
  const drawn = render(
    <Provider store={store}>
      <RouterProvider router={router} />
    </Provider>,
  );
  return { ...drawn, store, router };
}

/** Boxes have no size in these tests: what is drawn by size gets one, a row of a table that of a row. */
export function giveSizes(width = 1000, height = 600, row = 34): void {
  Element.prototype.scrollIntoView = () => {};
  const heightOf = function (this: Element) {
    return this.tagName === 'TR' ? row : height;
  };
  vi.spyOn(Element.prototype, 'clientWidth', 'get').mockReturnValue(width);
  vi.spyOn(Element.prototype, 'clientHeight', 'get').mockImplementation(heightOf);
  vi.spyOn(HTMLElement.prototype, 'offsetWidth', 'get').mockReturnValue(width);
  vi.spyOn(HTMLElement.prototype, 'offsetHeight', 'get').mockImplementation(heightOf);
}
