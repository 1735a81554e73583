/** The server's state: one RTK Query API, to which each feature adds its endpoints. */
import type { Failure } from '@rawbits/core/failure';
import { type BaseQueryFn, createApi } from '@reduxjs/toolkit/query/react';

export interface ApiRequest {
  path: string;
  method?: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE';
  body?: unknown;
}

export interface ApiError extends Failure {
  /** HTTP status; 0 when the server did not answer. */
  status: number;
}

const AWAY: ApiError = {
  status: 0,
  code: 'server-away',
  message: 'The server does not answer; nothing was saved.',
  hint: 'What you typed is still here. Try again in a moment.',
};

const baseQuery: BaseQueryFn<ApiRequest, unknown, ApiError> = async ({ path, method = 'GET', body }, { signal }) => {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, {
      method,
      signal,
      headers: body === undefined ? undefined : { 'content-type': 'application/json' },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
  } catch {
    return { error: AWAY };
  }
  const answer = (await response.json().catch(() => ({}))) as { error?: Failure };
  if (response.ok) return { data: answer };
  return { error: { ...(answer.error ?? { ...AWAY, code: 'unexpected' }), status: response.status } };
};

export const api = createApi({
  reducerPath: 'api',
  baseQuery,
  tagTypes: ['Session', 'Reads', 'Formats', 'Cards', 'Controllers', 'Events', 'Trail', 'Rig', 'Operators', 'Cases'],
  keepUnusedDataFor: 300,
  endpoints: () => ({}),
});
