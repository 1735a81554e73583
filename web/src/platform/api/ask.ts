/** Requests made from the routes of the API: method, address and body of the route's own types. */
import { addressOf, type Body, type Method, type Params, type Query, type Route } from '@rawbits/api';
import type { ApiRequest } from './api.ts';

const METHODS = { get: 'GET', post: 'POST', put: 'PUT', patch: 'PATCH', delete: 'DELETE' } as const satisfies Record<
  Method,
  ApiRequest['method']
>;

/** What is asked of a route that takes no body. */
export const ask = <T extends Route>(route: T, params: Params<T>, query?: Query<T>): ApiRequest => ({
  path: addressOf(route, params, query as Record<string, string | number | undefined>),
  method: METHODS[route.method],
});

/** What is sent to a route that takes one. */
export const send = <T extends Route>(route: T, params: Params<T>, body: Body<T>): ApiRequest => ({
  ...ask(route, params),
  body,
});
